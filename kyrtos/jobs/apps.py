from typing import Any

from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "kyrtos.jobs"

    def ready(self) -> None:
        """Open jobs rest on catalogue and house rules, and are looked through with them."""
        from kyrtos.catalogue.signals import catalogue_published
        from kyrtos.house_rules.signals import rules_changed
        from kyrtos.jobs import linking  # noqa: F401  # listens to customers
        from kyrtos.jobs.tasks import recheck_soon

        def look_again(sender: Any, **told: Any) -> None:
            recheck_soon(told["shop"])

        for signal in (catalogue_published, rules_changed):
            signal.connect(look_again, weak=False, dispatch_uid="open jobs are looked through")
