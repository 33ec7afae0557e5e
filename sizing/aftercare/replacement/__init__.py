"""A dead pump on the counter: what it was, what it did, what does the same."""
