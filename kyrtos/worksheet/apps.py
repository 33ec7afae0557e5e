from django.apps import AppConfig


class WorksheetConfig(AppConfig):
    name = "kyrtos.worksheet"
