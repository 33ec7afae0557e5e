"""Customers and sites as records, with the names they also go by; photos and files of a site."""

from __future__ import annotations

import re
import unicodedata
import uuid

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from kyrtos.shops.models import FREQUENCIES, PHASES, UNITS, Shop
from kyrtos.shops.one_line import Lines, OneLine, judge_mails, lines_of

LONGEST_NAME = 200
LOWEST_M, HIGHEST_M, DEEPEST_FROST_M = -450.0, 5500.0, 4.0
_NUMBER = re.compile(r"\+?\d[\d ()/.-]*")


def folded(name: str) -> str:
    """A name but for case and blanks: what makes two of them the same."""
    return " ".join(unicodedata.normalize("NFC", name).casefold().split())


class _Named(models.Model):
    """A record found by its name; ``also`` holds the folded names that it goes by besides.

    After a merge, and after it was called otherwise, those are the names in the jobs of before.
    People, phones, mails and addresses are entries, one to a line.
    """

    name = OneLine(max_length=LONGEST_NAME)
    known_as = models.CharField(max_length=LONGEST_NAME, editable=False)
    also = models.JSONField(default=list, blank=True, editable=False)
    people = Lines("people, one to a line", max_length=2000, blank=True)
    phone = Lines("phones, one to a line", max_length=1000, blank=True)
    mail = Lines("mails, one to a line", max_length=1000, blank=True, validators=[judge_mails])
    address = Lines("addresses, one to a line", max_length=2000, blank=True)
    notes = models.TextField(max_length=4000, blank=True)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True
        ordering = ["known_as", "pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def phones(self) -> list[tuple[str, str]]:
        """Each as typed, and as it is dialled ('' where it holds no number)."""
        found = []
        for line in lines_of(self.phone):
            number = _NUMBER.search(line)
            found.append((line, re.sub(r"[^+\d]", "", number[0]) if number else ""))
        return found

    @property
    def mails(self) -> list[str]:
        """Each address."""
        return lines_of(self.mail)

    def goes_by(self, name: str) -> bool:
        """Whether this name means it: its own, one of before, or that of a record merged in."""
        return folded(name) in (self.known_as, *self.also)

    def save(self, *args: object, **given: object) -> None:
        """Keep the folded name in step; a name that was changed stays one that it goes by."""
        before = self.known_as
        self.known_as = folded(self.name)
        if before and before != self.known_as and before not in self.also:
            self.also = [*self.also, before]
        super().save(*args, **given)  # type: ignore[arg-type]


class Customer(_Named):
    """Somebody the shop works for.

    ``units`` is the system that a new job for them begins in ('' is that of whoever begins it).
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="customers")
    units = models.CharField("reads figures in", max_length=6, choices=UNITS, blank=True)
    taken_out = models.BooleanField(default=False, editable=False)  # on request: it stays nameless

    class Meta(_Named.Meta):
        abstract = False
        indexes = [models.Index(fields=["shop", "known_as"])]


class Site(_Named):
    """A place where pumps stand, of a customer or of nobody known.

    ``as_built`` holds what readings said of its runs, by the kind of job.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="sites")
    customer = models.ForeignKey(
        Customer, on_delete=models.SET_NULL, null=True, blank=True, related_name="sites"
    )
    plus_code = OneLine("plus code", max_length=40, blank=True)
    latitude = models.FloatField(
        "latitude [°]",
        null=True,
        blank=True,
        validators=[MinValueValidator(-90), MaxValueValidator(90)],
    )
    longitude = models.FloatField(
        "longitude [°]",
        null=True,
        blank=True,
        validators=[MinValueValidator(-180), MaxValueValidator(180)],
    )
    altitude_m = models.FloatField(
        "altitude [m]",
        null=True,
        blank=True,
        validators=[MinValueValidator(LOWEST_M), MaxValueValidator(HIGHEST_M)],
    )
    frost_depth_m = models.FloatField(
        "frost goes down to [m]",
        null=True,
        blank=True,
        validators=[MinValueValidator(0), MaxValueValidator(DEEPEST_FROST_M)],
    )
    voltage_v = models.FloatField(
        "supply voltage [V]",
        null=True,
        blank=True,
        validators=[MinValueValidator(5), MaxValueValidator(1000)],
    )
    phases = models.PositiveSmallIntegerField(null=True, blank=True, choices=PHASES)
    frequency_hz = models.FloatField("mains frequency", null=True, blank=True, choices=FREQUENCIES)
    water = models.TextField("water analysis", max_length=2000, blank=True)
    as_built = models.JSONField(default=dict, blank=True, editable=False)

    class Meta(_Named.Meta):
        abstract = False
        indexes = [models.Index(fields=["shop", "known_as"])]


class Place(models.TextChoices):
    """Where in the drawing a photo belongs."""

    SOURCE = "source", "the water"
    PUMP = "pump", "the pump"
    RUN = "run", "the run"
    OUTLET = "outlet", "the outlet"
    PANEL = "panel", "the supply and panel"
    PLATE = "plate", "the nameplate"
    OTHER = "other", "elsewhere"


class SiteFile(models.Model):
    """A photo or a file of a site, kept in the store that Django knows."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="files")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    job = models.UUIDField(null=True)  # the job it was taken for; a job that went leaves its photos
    name = OneLine(max_length=200)
    place = models.CharField(max_length=8, choices=Place.choices, default=Place.OTHER)
    stored = models.CharField(max_length=200)
    media_type = models.CharField(max_length=80)
    is_photo = models.BooleanField(default=False)
    size_bytes = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["place", "at"]

    def __str__(self) -> str:
        return self.name


class Gone(models.Model):
    """A customer or a site that became part of another one: where its old links lead."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="gone_records")
    kind = models.CharField(max_length=8)  # "customer" or "site"
    number = models.BigIntegerField()
    into = models.BigIntegerField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["kind", "number"], name="gone_into_one_record")
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.number} into {self.into}"


class Forgetting(models.Model):
    """A request to be forgotten: asked, done as one task; ``told`` says what was done."""

    class State(models.TextChoices):
        WAITING = "waiting", "waiting"
        DONE = "done", "done"
        FAILED = "failed", "failed"

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="+")
    customer = models.ForeignKey(Customer, on_delete=models.CASCADE, related_name="forgettings")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    parts = models.JSONField(default=list)  # what is struck out besides; emptied when it is done
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    told = models.JSONField(default=list)
    problem = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"customer {self.customer_id}, {self.state}"
