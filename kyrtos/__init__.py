"""The Django project of Kyrtos."""

VERSION = "0.3.0"
