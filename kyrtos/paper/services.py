"""Issuing a paper: freeze what it rests on, then print it.

The frozen facts print the same paper again.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.dispatch import receiver
from django.utils import timezone

from kyrtos import VERSION
from kyrtos.accounts.models import User
from kyrtos.catalogue.publishing import catalogue_of
from kyrtos.customers.crossing_out import Names
from kyrtos.customers.forgetting import Done, customer_forgotten
from kyrtos.customers.models import Customer
from kyrtos.house_rules.services import rules_of
from kyrtos.jobs import services as jobs
from kyrtos.jobs.linking import without
from kyrtos.jobs.models import Job, State
from kyrtos.paper import seals
from kyrtos.paper.models import Paper
from kyrtos.paper.pdf import render_pdf
from kyrtos.paper.view_model import PaperView, Replaced, paper_view
from kyrtos.shops import quota
from kyrtos.shops.services import as_on_paper, letterhead_of
from sizing.base.rules import Rules, thawed
from sizing.document import job as document
from sizing.document.own_pumps import with_own_pumps
from sizing.editing.differences import differences
from sizing.editing.intake import agreeing
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.catalogue_file import read_csv
from sizing.pump.record import pump_of, record
from sizing.size import Sizing, size

_MOST_TRIES = 5


class CannotIssue(Exception):
    """A paper that cannot be issued; the text says why and what to do."""


@dataclass(frozen=True)
class Frozen:
    """Everything that a paper rests on."""

    document: document.JobDocument
    pump: Pump
    rules: Rules

    def sizing(self) -> Sizing:
        """The sizing again, from nothing but what was frozen."""
        return size(self.document, Catalogue([self.pump]), self.rules)


def freeze(job: Job) -> Frozen:
    """What a paper of the job's present state rests on.

    Raises
    ------
    CannotIssue
        While facts are missing or no pump is chosen.
    """
    content = agreeing(jobs.current(job)).job
    sizing = jobs.size_document(job.shop, content)
    if content.pending:
        raise CannotIssue("Some fields hold text that cannot be read. Mend or clear them first.")
    if sizing.problems:
        raise CannotIssue(f"Something is wrong first: {sizing.problems[0]}.")
    if sizing.no_pump_needed and sizing.chosen is None:
        raise CannotIssue("No pump is needed, so there is none to put on paper.")
    if sizing.chosen and not (sizing.chosen.fits or sizing.chosen.by_person):
        raise CannotIssue(
            f"No pump fits, the {sizing.chosen.candidate.pump.name} only comes nearest. Pick a pump"
            " by hand to put it on paper with what is wrong."
        )
    if sizing.missing or sizing.chosen is None or sizing.chosen.operating_point.point is None:
        raise CannotIssue(
            "Facts are still missing, or no pump that runs is chosen. Fill them in first."
        )
    catalogue = with_own_pumps(catalogue_of(job.shop), content)
    row = catalogue.find(sizing.chosen.candidate.pump.pump_id)
    if row is None:
        raise CannotIssue(
            "The pump was taken out of the catalogue this moment. Look at the worksheet again."
        )
    pump = catalogue.pumps[row]  # one of it: how many stand together is in the document
    return Frozen(content.model_copy(update={"pump": pump.pump_id}), pump, rules_of(job.shop))


def issue(*, job: Job, user: User) -> Paper:
    """Issue a paper of the job's present state; where one says it already, that one.

    The PDF is made before the job is locked: nobody waits for it.

    Raises
    ------
    CannotIssue
    """
    seen = Job.objects.select_related("shop").get(pk=job.pk)
    quota.check("papers of a job", seen.papers.count())
    frozen = freeze(seen)
    same = _same(seen, frozen)
    if same is not None:
        return same
    for _ in range(_MOST_TRIES):
        number = (seen.papers.aggregate(most=Max("number"))["most"] or 0) + 1
        pdf = print_paper(seen, frozen, number=number, issued=timezone.now(), issued_by=str(user))
        paper = _keep(seen, frozen, number=number, pdf=pdf, user=user)
        if paper:
            return paper
    raise CannotIssue("Other papers of this job were issued at the same time. Try once more.")


def _same(job: Job, frozen: Frozen) -> Paper | None:
    """The last paper, where it says what another one would: nothing it rests on has changed."""
    last = job.papers.filter(revision=job.current_revision).order_by("-number").first()
    if last is None or last.program_version != VERSION:
        return None
    basis = (last.document, last.pump_record, last.rules, last.letterhead)
    now = (document.dump(frozen.document), record(frozen.pump), frozen.rules.frozen())
    return last if basis == (*now, letterhead_of(job.shop)) else None


@transaction.atomic
def _keep(job: Job, frozen: Frozen, *, number: int, pdf: bytes, user: User) -> Paper | None:
    """Keep a printed paper; None when another took its number meanwhile.

    Raises
    ------
    CannotIssue
        The job is another by now.
    """
    locked = Job.objects.select_for_update().get(pk=job.pk)
    if locked.current_revision != job.current_revision:
        raise CannotIssue("The job changed this moment. Look at it again, then issue.")
    same = _same(locked, frozen)  # sent twice at once
    if same is not None:
        return same
    if locked.papers.filter(number=number).exists():
        return None
    paper = Paper.objects.create(
        job=locked,
        number=number,
        revision=locked.current_revision,
        document=document.dump(frozen.document),
        pump_record=record(frozen.pump),
        rules=frozen.rules.frozen(),
        catalogue_revision=job.shop.published_revision,
        program_version=VERSION,
        letterhead=letterhead_of(job.shop),
        pump_name=frozen.pump.name,
        pdf=pdf,
        issued_by=user,
    )
    seals.seal(paper, seals.ISSUED)
    Job.objects.filter(pk=locked.pk).update(
        state=State.ISSUED, pump=frozen.pump.name, issued_revision=locked.current_revision
    )
    return paper


def thaw(paper: Paper) -> Frozen:
    """What a paper rests on, from the paper alone.

    Neither today's catalogue nor today's rules are looked at.
    """
    if paper.pump_record is None:
        pump = read_csv(paper.pump)[0].pump
        assert pump is not None  # a paper of the first version: it was written by write_csv
    else:
        pump = pump_of(paper.pump_record)
    return Frozen(document.load(paper.document), pump, thawed(paper.rules))


def print_paper(
    job: Job,
    frozen: Frozen,
    *,
    number: int,
    issued: datetime,
    issued_by: str,
    revision: int | None = None,
    letterhead: Mapping[str, str] | None = None,
) -> bytes:
    """The PDF of a frozen sizing; under the shop's letterhead of now, unless one was kept."""
    with timezone.override(job.shop.zone):  # a worker prints, too
        return render_pdf(_view(job, frozen, number, issued, issued_by, revision, letterhead))


def _view(
    job: Job,
    frozen: Frozen,
    number: int,
    issued: datetime,
    issued_by: str,
    revision: int | None,
    letterhead: Mapping[str, str] | None,
) -> PaperView:
    last = job.papers.filter(number__lt=number).first()
    changed = differences(document.load(last.document), frozen.document) if last else ()
    return paper_view(
        frozen.sizing(),
        shop=as_on_paper(job.shop, letterhead),
        number=number,
        revision=job.current_revision if revision is None else revision,
        issued=issued,
        issued_by=issued_by,
        replaces=Replaced(last.number, last.issued, changed) if last else None,
        job=job.pk,
    )


@receiver(customer_forgotten)
def _forgotten(customer: Customer, names: Names, instead: str, dry: bool, **_: Any) -> list[Done]:
    """Papers stay, as a shop has to be able to show them: printed again without the name."""
    of_shop = Paper.objects.select_related("issued_by", "job__shop")
    changed = {
        paper: without(paper.document, names, instead)
        for paper in of_shop.filter(job__customer_record=customer)
    }
    others = of_shop.filter(job__shop=customer.shop_id).exclude(job__customer_record=customer)
    for paper in names.holding(others, "document"):
        changed[paper] = names.out_of(paper.document)
    changed = {paper: held for paper, held in changed.items() if held != paper.document}
    for paper, held in changed.items() if not dry else ():
        _print_again(paper, held)
    told = "printed again under the letterhead of their day, the name struck out; a seal says why"
    return [Done("papers", len(changed), told)]


def _print_again(paper: Paper, held: dict[str, Any]) -> None:
    Job.objects.select_for_update().get(pk=paper.job_id)
    if not paper.seals.exists():
        seals.seal(paper, seals.OF_BEFORE)
    paper.document = held
    paper.pdf = print_paper(
        paper.job,
        thaw(paper),
        number=paper.number,
        issued=paper.issued,
        issued_by=str(paper.issued_by),
        revision=paper.revision,
        letterhead=paper.letterhead,
    )
    paper.save(update_fields=["document", "pdf"])
    seals.seal(paper, seals.STRUCK_OUT)
