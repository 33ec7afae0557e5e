"""Keeping the place running: its health, background work and back-ups, and a shop's own data."""
