from django.apps import AppConfig


class OperationsConfig(AppConfig):
    name = "kyrtos.operations"

    def ready(self) -> None:
        from kyrtos.operations import tasks  # noqa: F401  the nightly one
