"""Speed, always as ratios against other methods measured in the same run: ./run bench."""
