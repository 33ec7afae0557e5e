"""The worksheet: the one page on which a job is sized."""
