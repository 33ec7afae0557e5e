"""A shop owns everything, on its own terms."""

from __future__ import annotations

import zoneinfo
from functools import lru_cache
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from kyrtos.shops.one_line import OneLine

UNITS = [("metric", "metric"), ("us", "US customary"), ("uk", "UK mixed")]
NUMBERS = [("point", "1,250.5"), ("comma", "1.250,5")]
DATES = [("day_month", "26 Nov 2026"), ("month_day", "Nov 26, 2026"), ("iso", "2026-11-26")]


def default_time_zone() -> str:
    """That of the server, until a shop says its own."""
    return str(settings.TIME_ZONE)


@lru_cache
def time_zones() -> list[tuple[str, str]]:
    """Every place of the time zone database, as a choice."""
    places = {name for name in zoneinfo.available_timezones() if "/" in name} | {"UTC"}
    kept = {name for name in places if not name.startswith(("Etc/", "posix/", "right/"))}
    return [(name, name.replace("_", " ")) for name in sorted(kept)]


PHASES = [(1, "one"), (3, "three")]
FREQUENCIES = [(50.0, "50 Hz"), (60.0, "60 Hz")]


class PaperSize(models.TextChoices):
    A4 = "A4", "A4"
    LETTER = "letter", "US Letter"


class Shop(models.Model):
    """A pump dealer or plumbing contractor.

    ``own_units`` holds a unit by dimension, ``own_pipes`` a family of pipe and ``own_fittings`` a
    school of fittings by kind of job ('' for every kind).
    """

    name = OneLine(max_length=120)
    address = OneLine(max_length=240, blank=True)
    licence = OneLine("licence number", max_length=60, blank=True)
    phone = OneLine(max_length=40, blank=True)
    terms = models.TextField("terms, printed on each paper", max_length=2000, blank=True)
    logo = models.BinaryField(default=bytes, blank=True)
    logo_type = models.CharField(max_length=20, blank=True)
    time_zone = models.CharField(max_length=40, default=default_time_zone, choices=time_zones)
    currency = OneLine(max_length=8, default="€")
    units = models.CharField("units", max_length=6, choices=UNITS, default="metric")
    own_units = models.JSONField(default=dict, blank=True)
    numbers = models.CharField(max_length=6, choices=NUMBERS, default="point")
    dates = models.CharField(max_length=10, choices=DATES, default="day_month")
    paper_size = models.CharField(
        "paper", max_length=6, choices=PaperSize.choices, default=PaperSize.A4
    )
    voltage_v = models.FloatField("supply voltage [V]", null=True, blank=True)
    phases = models.PositiveSmallIntegerField(null=True, blank=True, choices=PHASES)
    frequency_hz = models.FloatField("mains frequency", null=True, blank=True, choices=FREQUENCIES)
    basins = models.TextField("basins we sell", max_length=8000, blank=True)
    own_pipes = models.JSONField(default=dict, blank=True)
    own_fittings = models.JSONField(default=dict, blank=True)
    second_step = models.BooleanField("everybody signs in with a second step", default=False)
    idle_minutes = models.PositiveIntegerField(
        "sign people out after so many idle minutes",
        null=True,
        blank=True,
        validators=[MinValueValidator(5), MaxValueValidator(7 * 24 * 60)],
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

    @property
    def zone(self) -> ZoneInfo:
        """Where its days begin."""
        return ZoneInfo(self.time_zone)


class Trouble(models.Model):
    """A part that broke while somebody worked, and could be done without: for whoever mends it.

    ``job`` is the id of the job it was about, where there was one.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="troubles")
    job = models.UUIDField(null=True)
    about = models.CharField(max_length=200)
    trace = models.TextField()
    digest = models.CharField(max_length=64)
    times = models.PositiveIntegerField(default=1)
    first = models.DateTimeField(auto_now_add=True)
    last = models.DateTimeField(auto_now=True)

    class Meta:
        app_label = "shop"
        ordering = ["-last", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["shop", "digest"], name="one_trouble_of_a_shop_and_digest"
            )
        ]

    def __str__(self) -> str:
        return self.about


class TaskNote(models.Model):
    """Why a background task did not come to its end; ``task`` is its number in the queue."""

    task = models.BigIntegerField(unique=True)
    reason = models.CharField(max_length=400, blank=True)
    killed = models.PositiveIntegerField(default=0)  # workers that ended over it

    class Meta:
        app_label = "shop"

    def __str__(self) -> str:
        return self.reason


class Merge(models.Model):
    """Two records made one: what both were, so that it can be undone until it was worked on.

    ``before`` and ``after`` hold the one that stays, ``gone`` the other, each as Django's
    serializer writes a row; ``moved`` the rows that point to the one that stays since then: model,
    column and ids. ``within`` is the merge that this one was a part of.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="merges")
    user = models.ForeignKey("shop.User", on_delete=models.SET_NULL, null=True)
    kind = models.CharField(max_length=8)  # customer, site or pump
    stays = models.CharField(max_length=160)
    goes = models.CharField(max_length=160)
    goes_name = models.CharField(max_length=300)
    before = models.JSONField()
    after = models.JSONField()
    gone = models.JSONField()
    moved = models.JSONField(default=list)
    within = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="parts")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        app_label = "shop"
        ordering = ["-pk"]
        indexes = [models.Index(fields=["shop", "kind", "stays"])]

    def __str__(self) -> str:
        return f"{self.goes_name} into {self.kind} {self.stays}"


class BroughtIn(models.Model):
    """A list of customers or installed pumps: looked at, taken, perhaps undone.

    ``report`` says what it would do or did; ``made`` and ``filled`` hold, as Django's serializer
    writes a row, what is new since (as it was then) and what was there (before and after).
    """

    class State(models.TextChoices):
        SHOWN = "shown", "shown, not taken"
        TAKEN = "taken", "taken"
        UNDONE = "undone", "undone"

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="brought_in")
    user = models.ForeignKey("shop.User", on_delete=models.SET_NULL, null=True)
    kind = models.CharField(max_length=12)  # customers or pumps
    name = OneLine(max_length=200)
    content = models.BinaryField()
    state = models.CharField(max_length=8, choices=State.choices, default=State.SHOWN)
    report = models.JSONField(default=dict)
    made = models.JSONField(default=list)
    filled = models.JSONField(default=list)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        app_label = "shop"
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name
