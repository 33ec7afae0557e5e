from django.apps import AppConfig


class OperationsConfig(AppConfig):
    name = "kyrtos.operations"

    def ready(self) -> None:
        from kyrtos.operations import forgetting, tasks  # noqa: F401  they listen and run at night
