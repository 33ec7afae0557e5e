"""A shop owns everything; people belong to it in a role."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import models


class User(AbstractUser):
    """Somebody who signs in. Everything they may see hangs on their membership of a shop."""

    def __str__(self) -> str:
        return self.get_full_name() or self.username


class Shop(models.Model):
    """A pump dealer or plumbing contractor."""

    name = models.CharField(max_length=120)
    address = models.CharField(max_length=240, blank=True)
    currency = models.CharField(max_length=8, default="€")
    units = models.CharField(
        max_length=6, choices=[("metric", "metric"), ("us", "US customary")], default="metric"
    )
    catalogue_revision = models.PositiveIntegerField(default=0)
    published_revision = models.PositiveIntegerField(
        default=0
    )  # of the catalogue that jobs are sized against
    published_digest = models.CharField(max_length=32, blank=True)  # and what it holds

    def __str__(self) -> str:
        return self.name


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


class HouseRule(models.Model):
    """A shop's own usual value for a rule, in SI, with who says so and why."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="house_rules")
    rule_id = models.CharField(max_length=24)
    value_si = models.FloatField()
    reason = models.CharField(max_length=240)
    set_on = models.DateField(auto_now=True)
    set_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shop", "rule_id"], name="one_house_rule_per_rule")
        ]

    def __str__(self) -> str:
        return f"{self.rule_id} = {self.value_si}"
