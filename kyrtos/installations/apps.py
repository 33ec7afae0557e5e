from django.apps import AppConfig


class InstallationsConfig(AppConfig):
    name = "kyrtos.installations"

    def ready(self) -> None:
        """Pumps follow their sites when those are merged."""
