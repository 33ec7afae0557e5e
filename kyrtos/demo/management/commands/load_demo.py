"""Loads the demo shop.

People, the catalogue file and the job files, through the same code as any import.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.catalogue.services import import_file
from kyrtos.demo import fleet
from kyrtos.jobs import services as jobs
from kyrtos.shops.models import Shop
from sizing.editing import intake

DEMO = Path(settings.BASE_DIR) / "demo"
PEOPLE = (
    ("isolde", "Isolde", "Marrack", Role.OWNER),
    ("wenna", "Wenna", "Polreath", Role.ESTIMATOR),
    ("tobin", "Tobin", "Askew", Role.TECHNICIAN),
    ("lurline", "Lurline", "Veck", Role.VIEWER),
)


class Command(BaseCommand):
    help = "Load the demo shop of Ilvermoor, unless it is there already."

    def handle(self, *args: Any, **options: Any) -> None:
        if Shop.objects.filter(name="Ilvermoor Pump & Pipe").exists():
            self.stdout.write("The demo shop is there already; nothing was changed.")
            return
        load()
        self.stdout.write("The demo shop is loaded.")


@transaction.atomic
def load() -> Shop:
    """The demo shop with its people, pumps and jobs."""
    shop = Shop.objects.create(
        name="Ilvermoor Pump & Pipe",
        address="9 Weir Steps, Ilvermoor, by the Sarn Mere",
        currency="€",
    )
    for username, first, last, role in PEOPLE:
        user = User(username=username, first_name=first, last_name=last)
        user.set_unusable_password()  # the demo signs in at a click; nobody knows a password
        user.save()
        Membership.objects.create(user=user, shop=shop, role=role)
    report = import_file(shop, (DEMO / "pumps.csv").read_bytes())
    if not report.done:
        raise CommandError(
            "demo/pumps.csv has rows with problems:"
            f" {[(row.line, row.problems) for row in report.problems]}"
        )
    estimator = User.objects.get(username="wenna")
    for path in sorted((DEMO / "jobs").glob("*.json"), reverse=True):
        jobs.adopt(shop=shop, user=estimator, content=intake.loads(path.read_bytes()))
    fleet.load(shop, User.objects.get(username="tobin"))
    return shop
