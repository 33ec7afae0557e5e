"""The limits a shop works by: the trade's, with the house's own over them."""
