"""A shop owns everything."""

from __future__ import annotations

from django.db import models


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

    class Meta:
        app_label = "shop"  # its table was made under that name

    def __str__(self) -> str:
        return self.name
