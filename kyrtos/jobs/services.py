"""Making, changing, undoing and finding jobs. Every change is a new revision.

None is ever overwritten.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import timedelta
from types import MappingProxyType

from django.db import InternalError, transaction
from django.db.models import Max
from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.accounts.terms import system_of
from kyrtos.catalogue.archiving import stands_for
from kyrtos.catalogue.publishing import catalogue_of
from kyrtos.house_rules.services import rules_of
from kyrtos.jobs import linking
from kyrtos.jobs.models import Job, Recheck, Revision, State
from kyrtos.shops import quota, trouble
from kyrtos.shops.models import Shop
from kyrtos.shops.services import terms_of
from sizing.analysis import basins
from sizing.analysis.changed import known as as_known
from sizing.analysis.follow_on import job_of
from sizing.analysis.remedies import Remedy, remedies
from sizing.base.errors import GoneError
from sizing.document import job as document
from sizing.editing.differences import differences
from sizing.editing.edit import edit, text_at
from sizing.editing.intake import agreeing
from sizing.kinds import kind
from sizing.kinds.start import first_document
from sizing.results.verdict import state_of as verdict_state
from sizing.selection.pump_family import answer_for
from sizing.size import Sizing, size
from sizing.storage import basin_list

_ONE_GO = timedelta(seconds=6)
_TELL_EVERY = 10  # jobs


@dataclass(frozen=True)
class Conflict:
    """Somebody else changed the same field meanwhile: what they put, and what you wanted."""

    path: str
    theirs: str
    mine: str
    who: str


@dataclass(frozen=True)
class Saved:
    """The job after an attempt to change it."""

    job: Job
    document: document.JobDocument
    problem: str | None = None
    conflict: Conflict | None = None


def create(
    *,
    shop: Shop,
    user: User,
    kind_code: str,
    title: str,
    customer: str = "",
    site: str = "",
    note: str = "",
    facts: Mapping[str, str] = MappingProxyType({}),
) -> Job:
    """A new job as the shop and the person begin one, with ``facts`` as typed elsewhere.

    Raises
    ------
    UnknownName
        A kind that does not exist.
    """
    known = linking.known(shop, customer, site)
    system = known.system or system_of(user.memberships.get(shop=shop))
    blank = first_document(kind_code, terms_of(shop, system), rules_of(shop))
    content = blank.model_copy(
        update={"title": title, "customer": customer, "site": site, "note": note}
    )
    content = with_facts(shop, content, known, {**known.facts, **facts})
    return adopt(shop=shop, user=user, content=content)


def with_facts(
    shop: Shop, content: document.JobDocument, known: linking.Known, facts: Mapping[str, str]
) -> document.JobDocument:
    """A blank job with ``facts`` by key as somebody typed them, and what was measured there."""
    asked = {question.key: question for question in kind(content.kind).questions}
    for key, text in facts.items():
        if key == "liquid" and key in asked:
            text = answer_for([choice.code for choice in asked[key].choices], text)
        if text and key in asked:
            content = edit(content, f"answers.{key}", text, rules_of(shop)).job
    measured = known.as_built.get(content.kind, "")
    if measured:
        content = edit(content, "as_built", measured, rules_of(shop)).job
    return content


@transaction.atomic
def adopt(
    *, shop: Shop, user: User | None, content: document.JobDocument, follows: Job | None = None
) -> Job:
    """A new job from a document, such as an uploaded job file or a copy.

    No figure says another amount than it is reckoned as.
    """
    quota.check("jobs", shop.jobs.count())
    content = agreeing(content).job
    job = Job(shop=shop, kind=content.kind, sized_revision=shop.published_revision, follows=follows)
    _mirror(job, content, size_alone(shop, content))
    linking.link(job)
    job.save()
    Revision.objects.create(
        job=job, number=1, edit_group=1, document=document.dump(content), user=user
    )
    return job


def add_following(*, job: Job, user: User) -> Job:
    """The job that this one leaves to be done, linked to it; the same one when asked again.

    Raises
    ------
    SizingError
        Nothing is left to be done.
    """
    with transaction.atomic():
        locked = Job.objects.select_for_update().select_related("shop").get(pk=job.pk)
        known = locked.followed_by.first()
        if known is not None:
            return known
        content = job_of(size_document(locked.shop, current(locked)))
        return adopt(shop=locked.shop, user=user, content=content, follows=locked)


def current(job: Job) -> document.JobDocument:
    """The document in force."""
    return document.load(job.revisions.get(number=job.current_revision).document)


def size_document(shop: Shop, content: document.JobDocument) -> Sizing:
    """Size a document with the shop's catalogue and rules.

    A pump that was merged since it was picked is the one that stands for it now.
    """
    catalogue = catalogue_of(shop)
    if content.pump and catalogue.find(content.pump) is None:
        content = content.model_copy(update={"pump": stands_for(shop, content.pump)})
    return size(content, catalogue, rules_of(shop))


def size_alone(shop: Shop, content: document.JobDocument, job: Job | None = None) -> Sizing | None:
    """The sizing, or None where it breaks as a whole: what asks for it goes on without."""
    about = "the sizing of a job"
    pk = None if job is None else job.pk
    return trouble.alone(shop, about, lambda: size_document(shop, content), None, pk)


def remedies_of(shop: Shop, sizing: Sizing) -> tuple[Remedy, ...]:
    """What would let a pump of the shop fit, where none does."""
    return remedies(sizing, catalogue_of(shop))


def cured(shop: Shop, content: document.JobDocument, key: str) -> document.JobDocument:
    """A job's document as the remedy of that key was tried on it.

    Raises
    ------
    GoneError
        The job is another since the remedy was told: it would not do what it said.
    """
    found = remedies_of(shop, size_document(shop, content))
    remedy = next((one for one in found if one.key == key), None)
    if remedy is None:
        raise GoneError("the job was changed since that was worked out: look at it again")
    return remedy.job


def with_basin(shop: Shop, content: document.JobDocument, wanted: str) -> document.JobDocument:
    """A job's document with a round basin of a size, such as '900 x 1500 mm', and its floats.

    Raises
    ------
    SizingError
        It is no size, or the job has no pit or no pump yet.
    """
    size_m = basin_list.size(wanted, "metric")
    return basins.taken(as_known(size_document(shop, content)), *size_m)


_NONE_NEEDED = "none needed"


def change_field(
    *, job: Job, user: User, path: str, text: str, base: int, page: str, keep_mine: bool = False
) -> Saved:
    """Edit one field of a job, unless somebody on another page changed that field since revision
    ``base``.
    """
    rules = rules_of(job.shop)

    def apply(content: document.JobDocument) -> tuple[document.JobDocument, str | None]:
        edited = edit(content, path, text, rules)
        return edited.job, edited.problem

    def check(locked: Job) -> Conflict | None:
        return None if keep_mine else _conflict(locked, path, text, base, page)

    return _change(job, user, path, page, apply, check)


def change(
    *,
    job: Job,
    user: User,
    path: str,
    page: str,
    apply: Callable[[document.JobDocument], document.JobDocument],
) -> Saved:
    """Change a job's document by a function, such as adding a leg."""
    return _change(
        job, user, path, page, lambda content: (apply(content), None), lambda locked: None
    )


@transaction.atomic
def _change(
    job: Job,
    user: User,
    path: str,
    page: str,
    apply: Callable[[document.JobDocument], tuple[document.JobDocument, str | None]],
    check: Callable[[Job], Conflict | None],
) -> Saved:
    locked = Job.objects.select_for_update().select_related("shop").get(pk=job.pk)
    before = current(locked)
    after, problem = apply(before)  # an edit of what is gone is told as that
    conflict = check(locked)
    if conflict:
        return Saved(locked, before, None, conflict)
    if after != before:
        _add_revision(locked, user, path, page, after)
    return Saved(locked, after, problem)


def _add_revision(
    job: Job, user: User, path: str, page: str, content: document.JobDocument
) -> None:
    head = job.revisions.get(number=job.current_revision)
    number = (job.revisions.aggregate(most=Max("number"))["most"] or 0) + 1
    same_go = (
        bool(path)
        and (head.path, head.page, head.user_id) == (path, page, user.pk)
        and timezone.now() - head.at < _ONE_GO
    )
    Revision.objects.create(
        job=job,
        number=number,
        parent=head.number,
        edit_group=head.edit_group if same_go else number,
        path=path,
        page=page,
        document=document.dump(content),
        user=user,
    )
    job.current_revision = number
    mirror(job, content)


def mirror(job: Job, content: document.JobDocument, sizing: Sizing | None = None) -> None:
    """Bring the job's searchable columns in step with its document, and save it."""
    before = (job.customer, job.site)
    _mirror(job, content, sizing)
    if before != (job.customer, job.site):
        linking.link(job)
    job.save()
    linking.tidy(job)


def _mirror(job: Job, content: document.JobDocument, sizing: Sizing | None) -> None:
    job.title, job.customer, job.site = content.title, content.customer, content.site
    if sizing is not None:
        state = state_of(sizing)
        job.verdict = trouble.alone(
            job.shop, "the verdict", lambda: verdict_state(sizing), "open", job.pk
        )
        job.flow_m3s = sizing.demand.needed_m3s if sizing.demand else None
        job.head_m = sizing.needed_head_m
        job.state = State.ISSUED if job.issued_revision == job.current_revision else state
        job.pump = (
            sizing.chosen.candidate.pump.name
            if sizing.chosen and job.state in (State.SIZED, State.ISSUED)
            else _NONE_NEEDED
            if sizing.no_pump_needed
            else ""
        )


def state_of(sizing: Sizing) -> State:
    """Where a job stands, by its sizing."""
    broke = bool(sizing.failures) and sizing.chosen is None
    if sizing.missing or sizing.problems or sizing.match is None or broke:
        return State.OPEN
    chosen = sizing.chosen  # one that a person picked is on the job, whatever its verdict says
    fits = sizing.no_pump_needed or (chosen and (chosen.fits or chosen.by_person))
    return State.SIZED if fits else State.NO_FIT


def note_sizing(job: Job, sizing: Sizing) -> None:
    """Keep state, pump and catalogue of the list in step with a fresh sizing that somebody sees.

    A write only when they changed.
    """
    before = _seen(job)
    _mirror(job, sizing.job, sizing)
    job.sized_revision, job.turns_to = job.shop.published_revision, ""
    if _seen(job) != before:
        with suppress(InternalError), transaction.atomic():  # a database that may only be read
            same = Job.objects.filter(pk=job.pk, current_revision=job.current_revision)
            same.update(**_seen(job))


_SEEN = ("state", "pump", "verdict", "flow_m3s", "head_m", "sized_revision", "turns_to")


def _seen(job: Job) -> dict[str, object]:
    return {name: getattr(job, name) for name in _SEEN}


def recheck(shop: Shop) -> Recheck:
    """Size every job that is not issued with the catalogue and the rules as they are now, and mark
    those whose answer would be another.

    A job's own columns stay as somebody last saw them, until somebody looks at it again.
    """
    ids = list(
        Job.objects.filter(shop=shop, archived=None)
        .exclude(state=State.ISSUED)
        .values_list("pk", flat=True)
    )
    known, _ = Recheck.objects.update_or_create(
        shop=shop,
        defaults={
            "revision": shop.published_revision,
            "total": len(ids),
            "done": 0,
            "begun": timezone.now(),
            "ended": None,
        },
    )
    for done, pk in enumerate(ids, 1):
        job = Job.objects.filter(pk=pk).first()
        if job is not None:  # it was there a moment ago
            _recheck(shop, job)
        if done % _TELL_EVERY == 0:
            Recheck.objects.filter(pk=known.pk).update(done=done)
    known.done, known.ended = len(ids), timezone.now()
    known.save(update_fields=["done", "ended"])
    return known


def _recheck(shop: Shop, job: Job) -> None:
    sizing = size_alone(shop, current(job), job)
    if sizing is None:
        return  # its answer stands as somebody last saw it, and the owner's page tells why
    trouble.note(shop, sizing.failures, job.pk)
    state = state_of(sizing)
    pump = sizing.chosen.candidate.pump.name if sizing.chosen and state == State.SIZED else ""
    same = (state, pump) == (job.state, job.pump)
    Job.objects.filter(pk=job.pk, current_revision=job.current_revision).update(
        turns_to="" if same else (pump or str(state.label))
    )


def _conflict(job: Job, path: str, text: str, base: int, page: str) -> Conflict | None:
    """A conflict when another page changed this field after ``base``, and not to the same.

    Taking a change back is one, and so is an edit of all the legs at once.
    """
    if base == job.current_revision:
        return None
    seen = job.revisions.filter(number=base).first()
    if seen is None:
        return None
    before, theirs = text_at(document.load(seen.document), path), text_at(current(job), path)
    if theirs in (before, text):
        return None
    since = job.revisions.filter(number__gt=base).order_by("-number").select_related("user")
    last = since.filter(path=path).first() or since.first()
    if last is None:  # the head went back to an older one
        return Conflict(path, theirs, text, "somebody, by undo")
    return None if last.page == page else Conflict(path, theirs, text, str(last.user))


@transaction.atomic
def undo(job: Job, base: int) -> bool:
    """Step back before the last change (a row of edits to one field counts as one).

    False at the beginning, and when ``base``, the revision that the person saw, is no longer the
    one in force: nobody takes back what somebody else did meanwhile without having seen it.
    """
    locked = Job.objects.select_for_update().get(pk=job.pk)
    if base != locked.current_revision:
        return False
    head = locked.revisions.get(number=locked.current_revision)
    first = locked.revisions.get(number=head.edit_group)
    return _move(locked, first.parent)


@transaction.atomic
def redo(job: Job, base: int) -> bool:
    """Step forward along the newest line of changes.

    False at its end, and when ``base`` is not in force any more.
    """
    locked = Job.objects.select_for_update().get(pk=job.pk)
    if base != locked.current_revision:
        return False
    following = locked.revisions.filter(parent=locked.current_revision).order_by("-number").first()
    if following is None:
        return False
    last = locked.revisions.filter(edit_group=following.edit_group).order_by("-number").first()
    return _move(locked, last.number if last else following.number)


def _move(job: Job, number: int | None) -> bool:
    if number is None:
        return False
    job.current_revision = number
    mirror(job, current(job))
    return True


@dataclass(frozen=True)
class Steps:
    """Whether there is something to undo and to redo."""

    back: bool
    forward: bool


def steps(job: Job) -> Steps:
    """What undo and redo would find."""
    head = job.revisions.get(number=job.current_revision)
    return Steps(head.number > 1, job.revisions.filter(parent=head.number).exists())


def changed_since(
    job: Job, content: document.JobDocument, issued: Mapping[str, object] | None
) -> tuple[str, ...]:
    """What differs from the document that was last issued; nothing where none was."""
    if issued is None or job.issued_revision == job.current_revision:
        return ()
    return differences(document.load(dict(issued)), content)
