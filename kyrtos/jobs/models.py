"""Jobs with the columns people search by, and the revisions that hold the document."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from kyrtos.customers.models import Customer, Site
from kyrtos.shops.models import Shop
from kyrtos.shops.one_line import OneLine
from sizing.kinds import kinds


class State(models.TextChoices):
    OPEN = "open", "facts missing"
    SIZED = "sized", "sized"
    NO_FIT = "no_fit", "nothing fits"
    ISSUED = "issued", "issued"


class Job(models.Model):
    """One job of one shop.

    ``current_revision`` is the number of the revision in force, ``issued_revision`` that of the
    one last put on paper.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=24)
    title = OneLine(max_length=200, blank=True)
    customer = OneLine(max_length=200, blank=True)
    site = OneLine(max_length=200, blank=True)
    # the records that those two texts mean; kept in step by linking.py
    customer_record = models.ForeignKey(
        Customer, on_delete=models.SET_NULL, null=True, related_name="jobs"
    )
    site_record = models.ForeignKey(Site, on_delete=models.SET_NULL, null=True, related_name="jobs")
    state = models.CharField(max_length=8, choices=State.choices, default=State.OPEN)
    # the verdict's one word: good, watch, ask, bad; open while facts are missing
    verdict = models.CharField(max_length=8, default="open")
    pump = models.CharField(max_length=200, blank=True)
    sized_revision = models.PositiveIntegerField(
        null=True
    )  # of the catalogue that this answer is from
    turns_to = models.CharField(
        max_length=200, blank=True
    )  # what the answer would be now, where that is another
    current_revision = models.PositiveIntegerField(default=1)
    issued_revision = models.PositiveIntegerField(null=True)
    # the job that left this one to be done, such as the well before a booster
    follows = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="followed_by"
    )
    # what it needs, as somebody last saw it: for the list
    flow_m3s = models.FloatField(null=True)
    head_m = models.FloatField(null=True)
    archived = models.DateTimeField(null=True)  # when it was put away
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-changed"]
        indexes = [models.Index(fields=["shop", "-changed"])]

    def __str__(self) -> str:
        return self.title or "untitled job"

    @property
    def kind_label(self) -> str:
        """What to call its kind."""
        return kinds()[self.kind].label if self.kind in kinds() else self.kind


class JobNote(models.Model):
    """Something that was said or seen about a job, by whom and when."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="notes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    text = models.TextField(max_length=2000)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return self.text[:60]


class Recording(models.Model):
    """What devices or a logger wrote down on a job's site, as CSV, thinned.

    ``ended`` is empty while it still goes on; ``problem`` says why it came to nothing.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="recordings")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    name = OneLine(max_length=120)
    text = models.TextField(blank=True)
    problem = models.CharField(max_length=300, blank=True)
    begun = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-begun", "-pk"]

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One state of a job's document. Revisions are only ever added.

    Undo moves the job's head back along ``parent``.

    ``edit_group`` is the number of the first of a row of edits to one field in one go, which undo
    takes as one.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    parent = models.PositiveIntegerField(null=True)
    edit_group = models.PositiveIntegerField()
    path = models.CharField(max_length=120, blank=True)
    page = models.CharField(max_length=40, blank=True)
    document = models.JSONField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="one_revision_per_number")
        ]

    def __str__(self) -> str:
        return f"{self.job}, revision {self.number}"


class Recheck(models.Model):
    """The latest look through a shop's open jobs: how far it is, and against which catalogue."""

    shop = models.OneToOneField(Shop, on_delete=models.CASCADE, related_name="recheck")
    revision = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    done = models.PositiveIntegerField(default=0)
    begun = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.done} of {self.total} jobs of {self.shop}"
