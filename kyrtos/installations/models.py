"""Installed pumps, what happened to them, what was read at them, what is due."""

from __future__ import annotations

import secrets
import uuid

from django.conf import settings
from django.db import models

from kyrtos.customers.models import Site, SiteFile
from kyrtos.jobs.models import Job
from kyrtos.paper.models import Paper
from kyrtos.shops.models import Shop
from kyrtos.shops.one_line import OneLine

LETTERS = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"  # none that is taken for another on a wet label
CODE_LENGTH = 8


def new_code() -> str:
    """A code for a label: nobody finds a pump by counting."""
    return "".join(secrets.choice(LETTERS) for _ in range(CODE_LENGTH))


class InstalledPump(models.Model):
    """One pump that stands, or stood, at a site, with all that was known when it went in.

    ``record`` is the pump as the catalogue had it (None: it is known by its plate alone);
    ``promised`` what its job's sizing said: duty, run, starts an hour.
    """

    class State(models.TextChoices):
        RUNNING = "running", "running"
        FAILED = "failed", "failed"
        OUT = "out", "taken out"

    code = models.CharField(max_length=12, unique=True, default=new_code, editable=False)
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="installed")
    site = models.ForeignKey(Site, on_delete=models.RESTRICT, related_name="pumps")
    place = OneLine("where at the site", max_length=120, blank=True)
    pump_id = models.CharField(max_length=140, blank=True)
    maker = OneLine(max_length=80, blank=True)
    model = OneLine(max_length=120)
    family = models.CharField(max_length=40, blank=True)
    record = models.JSONField(null=True, blank=True)
    serial = OneLine("serial number", max_length=80, blank=True)
    installed = models.DateField("put in on", null=True, blank=True)
    # when its record began, where it stood for long by then: earlier failures are in no record
    known_since = models.DateField("on record since", null=True, blank=True)
    installer = OneLine("put in by", max_length=120, blank=True)
    kind = models.CharField("kind of job", max_length=24, blank=True)
    job = models.ForeignKey(
        Job, on_delete=models.SET_NULL, null=True, blank=True, related_name="installed"
    )
    paper = models.ForeignKey(Paper, on_delete=models.SET_NULL, null=True, blank=True)
    promised = models.JSONField(default=dict, blank=True)
    settings = models.TextField("settings: floats, switch, impeller", max_length=1000, blank=True)
    parts = models.TextField("parts that went with it", max_length=1000, blank=True)
    warranty_until = models.DateField(null=True, blank=True)
    price = models.FloatField(null=True, blank=True)
    hours_per_year = models.FloatField("running hours a year", null=True, blank=True)
    plate = models.ForeignKey(SiteFile, on_delete=models.SET_NULL, null=True, blank=True)
    state = models.CharField(max_length=8, choices=State.choices, default=State.RUNNING)
    ended = models.DateField(null=True, blank=True)
    cause = OneLine(max_length=80, blank=True)
    replaced_by = models.OneToOneField(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="replaces"
    )
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["state", "-installed", "pk"]
        indexes = [
            models.Index(fields=["shop", "state"]),
            models.Index(fields=["shop", "maker", "model"]),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def name(self) -> str:
        """Maker and model."""
        return f"{self.maker} {self.model}".strip()


class Event(models.Model):
    """Something that happened to a pump, on a day."""

    class Kind(models.TextChoices):
        HANDED_OVER = "handed_over", "handed over"
        SERVICED = "serviced", "serviced"
        CLEANED = "cleaned", "cleaned"
        FLOAT = "float", "float or switch changed"
        FAILED = "failed", "failed"
        REPAIRED = "repaired", "repaired"
        TAKEN_OUT = "taken_out", "taken out"
        REPLACED = "replaced", "replaced"
        NOTED = "noted", "noted"

    pump = models.ForeignKey(InstalledPump, on_delete=models.CASCADE, related_name="events")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    token = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    kind = models.CharField(max_length=12, choices=Kind.choices)
    on = models.DateField()
    cause = OneLine(max_length=80, blank=True)
    text = models.TextField(max_length=2000, blank=True)
    cost = models.FloatField(null=True, blank=True)
    hours = models.FloatField("running hours on the counter", null=True, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-on", "-pk"]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}, {self.on}"


class ReadingSet(models.Model):
    """What was read at a pump at one time: as typed, and what it came to then.

    ``token`` is made by whoever types, so that what is sent twice is kept once; ``come`` holds
    SI figures with their sigmas.
    """

    pump = models.ForeignKey(InstalledPump, on_delete=models.CASCADE, related_name="readings")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    token = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    on = models.DateTimeField()
    typed = models.JSONField()
    come = models.JSONField(default=dict)
    diagnosis = models.CharField(max_length=40, blank=True)
    problem = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-on", "-pk"]

    def __str__(self) -> str:
        return f"{self.pump}, {self.on:%Y-%m-%d}"


class Reminder(models.Model):
    """Something that is due at a pump: on a day, every so many months or running hours."""

    pump = models.ForeignKey(InstalledPump, on_delete=models.CASCADE, related_name="reminders")
    text = OneLine(max_length=200)
    due = models.DateField()
    every_months = models.PositiveSmallIntegerField(null=True, blank=True)
    every_hours = models.PositiveIntegerField("every so many running hours", null=True, blank=True)
    done = models.DateField(null=True, blank=True)
    told = models.DateField(null=True, blank=True)  # when a mail said it

    class Meta:
        ordering = ["due", "pk"]

    def __str__(self) -> str:
        return self.text
