"""A job told in words, read by rules."""
