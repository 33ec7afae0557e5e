"""What ./run serve prints while there is no shop."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from kyrtos.accounts import first_run


class Command(BaseCommand):
    help = "Print the code that the first-run page asks for, while there is no shop."

    def handle(self, *args: Any, **options: Any) -> None:
        if first_run.is_empty():
            self.stdout.write(
                f"There is no shop yet. Open /begin/ with the code {first_run.code()}"
            )
