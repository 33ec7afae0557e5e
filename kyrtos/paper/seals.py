"""What happened to a paper's file, as a chain of hashes: none of it can be altered unseen.

Each seal holds the SHA-256 of the file and that of the seal before it, of the job's papers in
order; so a file, a seal or a reason that was changed later breaks the chain from there on.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator

from django.utils import timezone

from kyrtos.jobs.models import Job
from kyrtos.paper.models import Paper, Seal

ISSUED = "issued"
OF_BEFORE = "there before papers were sealed"
CAME_IN = "came in with a shop's data"
STRUCK_OUT = "what names the customer struck out, who asked to be taken out"


def digest_of(seal: Seal, number: int) -> str:
    """The hash of a seal: of all it says, the paper's number and the seal before it."""
    said = (seal.before, str(number), seal.pdf_sha256, seal.why, seal.at.isoformat())
    return hashlib.sha256("\n".join(said).encode()).hexdigest()


def sha256_of(pdf: bytes | memoryview) -> str:
    """Of a file."""
    return hashlib.sha256(bytes(pdf)).hexdigest()


def seal(paper: Paper, why: str) -> Seal:
    """Seal a paper's file as it is now; the job's row is held by the caller."""
    last = Seal.objects.filter(paper__job=paper.job_id).order_by("-pk").first()
    made = Seal(
        paper=paper,
        why=why,
        at=timezone.now(),
        pdf_sha256=sha256_of(paper.pdf),
        before=last.digest if last else "",
    )
    made.digest = digest_of(made, paper.number)
    made.save()
    return made


def broken(job: Job) -> Iterator[str]:
    """What of a job's papers is not as it was sealed, in words."""
    before = ""
    for one in Seal.objects.filter(paper__job=job).select_related("paper").order_by("pk"):
        if one.before != before or one.digest != digest_of(one, one.paper.number):
            yield f"paper {one.paper.number}: its seal of {one.at:%Y-%m-%d} was altered"
        before = one.digest
    for paper in job.papers.all():
        if not is_as_sealed(paper):
            yield f"paper {paper.number}: its file is not the one that was sealed"


def is_as_sealed(paper: Paper) -> bool:
    """Whether its file is that of its last seal; one of before there were seals is."""
    last = paper.seals.order_by("-pk").first()
    return last is None or last.pdf_sha256 == sha256_of(paper.pdf)
