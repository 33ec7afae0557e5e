"""The Django project of Kyrtos."""

VERSION = "0.2.0"
