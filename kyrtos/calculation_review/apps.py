from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "kyrtos.calculation_review"
