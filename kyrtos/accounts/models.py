"""A shop owns everything; people belong to it in a role."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import models

from kyrtos.shops.models import Shop


class User(AbstractUser):
    """Somebody who signs in. Everything they may see hangs on their membership of a shop."""

    def __str__(self) -> str:
        return self.get_full_name() or self.username


class Role(models.TextChoices):
    OWNER = "owner", "owner"
    ESTIMATOR = "estimator", "estimator"
    TECHNICIAN = "technician", "technician"
    VIEWER = "viewer", "viewer"


class Membership(models.Model):
    """One person's place in one shop."""

    user = models.OneToOneField(User, on_delete=models.CASCADE, related_name="membership")
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices, default=Role.VIEWER)

    def __str__(self) -> str:
        return f"{self.user}, {self.role} of {self.shop}"
