"""The counter: a dead pump in, what does the same out."""
