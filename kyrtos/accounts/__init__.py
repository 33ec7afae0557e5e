"""Shops, the people in them and what each may do."""
