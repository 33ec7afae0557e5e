"""Jobs and their revisions, and the bench that lists them."""
