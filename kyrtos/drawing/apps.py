from django.apps import AppConfig


class DrawingConfig(AppConfig):
    name = "kyrtos.drawing"
