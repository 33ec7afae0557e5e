"""A shop and the link by which its owner comes in: ./run shop create NAME OWNER-MAIL."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.core.validators import validate_email
from django.db import transaction
from django.urls import reverse

from kyrtos.accounts import mail, people
from kyrtos.accounts.models import Role
from kyrtos.config import public
from kyrtos.shops.models import UNITS, Shop


class Command(BaseCommand):
    help = "Make a shop, and a link that lets its owner in once."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("do", choices=["create"])
        parser.add_argument("name", help="the shop's name")
        parser.add_argument("email", help="its owner's address")
        parser.add_argument("--currency", default="€")
        parser.add_argument("--units", default="metric", choices=[code for code, _ in UNITS])

    def handle(self, *args: Any, **options: Any) -> None:
        if Shop.objects.filter(name=options["name"]).exists():
            raise CommandError(f"there is a shop '{options['name']}' already; nothing was made")
        try:
            validate_email(options["email"])
            shop = Shop(name=options["name"], currency=options["currency"], units=options["units"])
            shop.full_clean(exclude=["logo"])
        except ValidationError as problem:
            raise CommandError("; ".join(problem.messages) + " Nothing was made.") from None
        with transaction.atomic():
            shop.save()
            token = people.invite(shop, None, Role.OWNER, options["email"])
        link = public.address(reverse("join", args=[token]))
        sent = mail.send_link(shop.invitations.get(), link)
        told = f"It was sent to {options['email']}." if sent else "No mail was sent: hand it on."
        self.stdout.write(f"{shop.name} is there. Its owner comes in here, once:\n{link}\n{told}")
