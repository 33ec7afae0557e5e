"""The first shop and its owner, or a further one: ./run shop NAME USERNAME [EMAIL]."""

from __future__ import annotations

import getpass
import sys
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.shops.models import Shop


class Command(BaseCommand):
    help = "Make a shop and its owner. The password is asked for, or read from standard input."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help="the shop's name")
        parser.add_argument("username", help="by which its owner signs in")
        parser.add_argument("email", nargs="?", default="")
        parser.add_argument("--currency", default="€")
        parser.add_argument("--units", default="metric", choices=["metric", "us", "uk"])

    def handle(self, *args: Any, **options: Any) -> None:
        user = User(username=options["username"], email=options["email"])
        if Shop.objects.filter(name=options["name"]).exists():
            raise CommandError(f"there is a shop '{options['name']}' already; nothing was made")
        password = self._password()
        try:
            user.full_clean(exclude=["password"])
            validate_password(password, user)
        except ValidationError as problem:
            raise CommandError("; ".join(problem.messages) + " Nothing was made.") from None
        user.set_password(password)
        with transaction.atomic():
            user.save()
            shop = Shop.objects.create(
                name=options["name"], currency=options["currency"], units=options["units"]
            )
            Membership.objects.create(user=user, shop=shop, role=Role.OWNER)
        self.stdout.write(f"{shop.name} is there; {user.username} is its owner.")

    @staticmethod
    def _password() -> str:
        if not sys.stdin.isatty():
            return sys.stdin.readline().rstrip("\n")
        typed = getpass.getpass("Password: ")
        if getpass.getpass("Once more: ") != typed:
            raise CommandError("the two are not the same; nothing was made")
        return typed
