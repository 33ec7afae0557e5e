"""A shop owns everything; people belong to it in a role."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models

from kyrtos.accounts.names import key_of
from kyrtos.shops.models import DATES, NUMBERS, UNITS, Shop


class User(AbstractUser):
    """Somebody who signs in. Everything they may see hangs on their membership of a shop."""

    # of the name that they were given; it stays when the name goes. None: of before there were keys
    name_key = models.CharField(max_length=64, unique=True, null=True, editable=False)
    last_shop = models.ForeignKey(Shop, on_delete=models.SET_NULL, null=True, related_name="+")

    def save(self, *args: Any, **given: Any) -> None:
        """A new person's name is taken for good."""
        if self.pk is None:
            self.name_key = key_of(self.username)
        super().save(*args, **given)

    def __str__(self) -> str:
        return self.get_full_name() or self.username


class Role(models.TextChoices):
    OWNER = "owner", "owner"
    ESTIMATOR = "estimator", "estimator"
    TECHNICIAN = "technician", "technician"
    VIEWER = "viewer", "viewer"


class Membership(models.Model):
    """One person's place in one shop."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices, default=Role.VIEWER)
    last_here = models.DateTimeField(null=True)  # in this shop; of others its owner hears nothing
    # what they prefer to read; a blank is as the shop has it
    units = models.CharField(max_length=6, choices=UNITS, blank=True)
    own_units = models.JSONField(default=dict, blank=True)
    numbers = models.CharField(max_length=6, choices=NUMBERS, blank=True)
    dates = models.CharField(max_length=10, choices=DATES, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "shop"], name="one_place_in_a_shop")]
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.user}, {self.role} of {self.shop}"


class Invitation(models.Model):
    """A link that lets one person into a shop once; only its digest is kept."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="invitations")
    digest = models.CharField(max_length=64, unique=True)
    role = models.CharField(max_length=12, choices=Role.choices)
    email = models.EmailField(blank=True)
    by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    until = models.DateTimeField()
    taken = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.role} of {self.shop}, until {self.until:%Y-%m-%d}"


class AuditEntry(models.Model):
    """Who did what, when and from where; rows are only ever added (a trigger sees to it)."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="audit", null=True)
    when = models.DateTimeField(auto_now_add=True)
    who = models.CharField(max_length=150)  # a name, not a key: people may be taken out
    address = models.CharField(max_length=45, blank=True)
    what = models.CharField(max_length=60)
    about = models.CharField(max_length=300, blank=True)

    class Meta:
        indexes = [models.Index(fields=["shop", "-id"])]
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.when:%Y-%m-%d %H:%M} {self.who}: {self.what} {self.about}".strip()


class SentOnce(models.Model):
    """A form that was sent and done, by the id that it carried, and where that led."""

    token = models.UUIDField()
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    place = models.CharField(max_length=500, blank=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["token", "user"], name="sent_once")]

    def __str__(self) -> str:
        return f"{self.token}"
