"""Whether everything in the database can still be opened: ./run upgrade asks this."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from kyrtos.catalogue import publishing
from kyrtos.jobs.models import Job, Revision
from kyrtos.paper.models import Paper
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError
from sizing.document import job as document

_SHOWN = 10


class Command(BaseCommand):
    help = "Open every job's revision in force, every catalogue and the head of every paper."

    def handle(self, *args: Any, **options: Any) -> None:
        problems: list[str] = []
        jobs = papers = 0
        for job in Job.objects.iterator(chunk_size=500):
            jobs += 1
            held = Revision.objects.filter(job=job, number=job.current_revision).first()
            try:
                if held is None:
                    raise SizingError("its revision in force is not there")
                document.load(held.document)
            except SizingError as problem:
                problems.append(f"job {job.pk}: {problem}")
        for number, head in Paper.objects.values_list("pk", "pdf").iterator(chunk_size=20):
            papers += 1
            if bytes(head[:5]) != b"%PDF-":
                problems.append(f"paper {number} is no PDF")
        for shop in Shop.objects.all():
            try:
                publishing.catalogue_of(shop)
            except (SizingError, ValueError) as problem:
                problems.append(f"catalogue of {shop}: {problem}")
        for line in problems[:_SHOWN]:
            self.stderr.write(line)
        if problems:
            raise CommandError(f"{len(problems)} things cannot be opened")
        self.stdout.write(f"all can be opened: {jobs} jobs, {papers} papers")
