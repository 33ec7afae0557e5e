"""Speed, always as ratios against other ways measured in the same run: ./run bench."""
