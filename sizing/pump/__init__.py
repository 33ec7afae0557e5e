"""A pump's curve, what speed and company do to it, and the catalogue of many pumps."""
