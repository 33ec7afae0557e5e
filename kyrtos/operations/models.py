"""Back-ups that were made, and files that a worker makes or takes in."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from kyrtos.shops.models import Shop


class Backup(models.Model):
    """One back-up of everything, or the attempt at one."""

    when = models.DateTimeField(auto_now_add=True)
    file = models.CharField(max_length=200)
    size_bytes = models.BigIntegerField(default=0)
    good = models.BooleanField(default=False)
    told = models.CharField(max_length=500, blank=True)  # what the program said
    gone = models.BooleanField(default=False)  # taken away by rotation

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.file}, {'good' if self.good else 'failed'}"


class ShopFile(models.Model):
    """A file of one shop that a worker makes, or takes in."""

    PUMPS_NAME = "pumps.xlsx"

    class Kind(models.TextChoices):
        PUMPS = "pumps", "the catalogue as a workbook"
        ALL = "all", "all of the shop's data"
        INTO = "into", "a shop's data, to be taken in"

    class State(models.TextChoices):
        WAITING = "waiting", "being made"
        READY = "ready", "ready"
        TAKEN = "taken", "taken in"
        FAILED = "failed", "failed"
        CALLED_OFF = "off", "called off"

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="files")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    kind = models.CharField(max_length=8, choices=Kind.choices)
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    when = models.DateTimeField(auto_now_add=True)
    done = models.IntegerField(default=0)
    total = models.IntegerField(default=0)
    told = models.CharField(max_length=500, blank=True)
    content = models.BinaryField(default=bytes)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}, {self.get_state_display()}"

    @property
    def name(self) -> str:
        """What the file is called when it is saved."""
        return self.PUMPS_NAME if self.kind == self.Kind.PUMPS else "kyrtos-shop.zip"

    @property
    def percent(self) -> int:
        """How far it is."""
        return min(100, 100 * self.done // self.total) if self.total else 0
