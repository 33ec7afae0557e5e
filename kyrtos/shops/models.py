"""A shop owns everything, on its own terms."""

from __future__ import annotations

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from kyrtos.shops.one_line import OneLine

UNITS = [("metric", "metric"), ("us", "US customary"), ("uk", "UK mixed")]
NUMBERS = [("point", "1,250.5"), ("comma", "1.250,5")]
DATES = [("day_month", "26 Nov 2026"), ("month_day", "Nov 26, 2026"), ("iso", "2026-11-26")]

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
