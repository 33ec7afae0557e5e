"""The second look: somebody else's sum from scratch, or off a spreadsheet."""
