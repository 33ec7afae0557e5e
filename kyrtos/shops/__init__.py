"""A shop and its own terms."""
