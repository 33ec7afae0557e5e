"""The pumps of a shop: models, import and export, pages."""
