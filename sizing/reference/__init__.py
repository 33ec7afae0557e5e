"""Reference cases: the application's own functions against answers worked out elsewhere."""
