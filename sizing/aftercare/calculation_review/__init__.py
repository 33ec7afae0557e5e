"""Somebody else's sum looked at again: which slip, or which two, explain the figure it came to."""
