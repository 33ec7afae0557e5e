"""Nothing here needs a database; see tests/kyrtos and tests/browser for those that do."""
