"""What readings at a pump say against what was promised of it."""
