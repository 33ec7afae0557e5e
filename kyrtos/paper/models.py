"""Papers as issued. A paper keeps everything that it was made from, and the file itself."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from kyrtos.jobs.models import Job


class Paper(models.Model):
    """One paper of one job: all it rests on, as plain JSON, and the PDF as it was sent.

    Papers of the first version hold their pump as a catalogue file (``pump``) and no record of it.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="papers")
    number = models.PositiveIntegerField()
    revision = models.PositiveIntegerField()
    document = models.JSONField()
    pump = models.TextField(blank=True)
    pump_record = models.JSONField(null=True)
    rules = models.JSONField()
    catalogue_revision = models.PositiveIntegerField(null=True)
    program_version = models.CharField(max_length=20, blank=True)
    # the shop as it stood on it; None: of before it was kept
    letterhead = models.JSONField(null=True)
    pump_name = models.CharField(max_length=200)
    pdf = models.BinaryField()
    # False: its PDF came in a shop's file, so that it goes out as a file and is not opened here
    drawn_here = models.BooleanField(default=True)
    issued = models.DateTimeField(auto_now_add=True)
    issued_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="one_paper_per_number")
        ]

    def __str__(self) -> str:
        return f"{self.job}, paper {self.number}"


class Seal(models.Model):
    """What a paper's file was at one moment, and why it was made: see ``seals.py``."""

    paper = models.ForeignKey(Paper, on_delete=models.CASCADE, related_name="seals")
    why = models.CharField(max_length=100)
    at = models.DateTimeField()
    pdf_sha256 = models.CharField(max_length=64)
    before = models.CharField(max_length=64, blank=True)  # digest of the job's seal before it
    digest = models.CharField(max_length=64)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.paper}: {self.why}"
