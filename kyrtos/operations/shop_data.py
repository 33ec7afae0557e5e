"""All that a shop owns as open files in a ZIP, and back.

``shop.json`` its settings, ``people.json`` who belongs to it, ``rules.json``, ``pumps.json`` with
``pumps.csv`` for other programs, ``prices.json``, ``suppliers.json``, ``jobs/ID.json`` with every
revision, note and paper, ``papers/ID-N.pdf`` as they were sent, ``customers.json`` with their
sites, ``installed.json`` with all that happened and was read, ``files/`` the photos, ``audit.csv``.
"""

from __future__ import annotations

import csv
import io
import json
import uuid
import zipfile
from collections.abc import Callable, Iterable, Mapping
from typing import Any, cast

from django.core.exceptions import ValidationError
from django.db import Error, InterfaceError, OperationalError, transaction

from kyrtos.accounts.models import User
from kyrtos.catalogue import publishing, services
from kyrtos.catalogue.models import CatalogueEntry, PriceNote, SupplierColumns
from kyrtos.house_rules.models import HouseRule
from kyrtos.jobs import linking
from kyrtos.jobs.models import Job, JobNote, Recording, Revision, State
from kyrtos.operations import plain_rows, shop_sites, unpacking
from kyrtos.paper import seals
from kyrtos.paper.models import Paper
from kyrtos.shops.logo import redrawn
from kyrtos.shops.models import Shop
from kyrtos.shops.services import letterhead_judged
from sizing.base.errors import SizingError
from sizing.base.rules import defaults
from sizing.base.spreadsheet import harmless
from sizing.base.units import PREFERABLE
from sizing.document import job as document
from sizing.editing.edit import FITTING_METHODS
from sizing.hydraulics.pipes import SERIES
from sizing.kinds import kinds
from sizing.kinds.start import EVERY_KIND
from sizing.over_time.simulation.measured import read_log
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_file import read_csv
from sizing.pump.catalogue_write import write_csv
from sizing.storage import basin_list

FORMAT = "kyrtos-shop/1"
Progress = Callable[[int, int], object]
_MOST_BYTES, _MOST_PARTS, _MOST_OF_A_PART = 2_000_000_000, 300_000, 400_000_000
_VERDICTS = ("good", "watch", "ask", "bad", "open")
_RECORDS = ("customer_record", "site_record")
_OWN_COUNTS = {"catalogue_revision", "published_revision", "published_digest"}
_LISTS = (
    ("rules", HouseRule),
    ("pumps", CatalogueEntry),
    ("prices", PriceNote),
    ("suppliers", SupplierColumns),
)


class CalledOff(SizingError):
    """Somebody called it off meanwhile."""


class CannotTakeIn(SizingError):
    """A file that is no shop's data, or a shop that is not empty."""


# --- out


def write(shop: Shop, told: Progress) -> bytes:
    """The whole of a shop's data as a ZIP; ``told`` hears how many of its jobs are in."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as out:
        settings = {k: v for k, v in plain_rows.plain(shop).items() if k not in _OWN_COUNTS}
        out.writestr("shop.json", plain_rows.as_json({"format": FORMAT} | settings))
        people = shop.memberships.select_related("user")
        out.writestr(
            "people.json",
            plain_rows.as_json([[one.user.username, str(one.user), one.role] for one in people]),
        )
        for name, model in _LISTS:
            rows = model._default_manager.filter(shop=shop).order_by("pk")
            out.writestr(
                f"{name}.json", plain_rows.as_json([plain_rows.plain(row) for row in rows])
            )
        out.writestr("pumps.csv", write_csv(_pumps(shop)))
        out.writestr("audit.csv", _audit(shop))
        jobs = shop.jobs.order_by("created", "pk")
        count = jobs.count()
        customer_at, site_at = shop_sites.places(shop)
        for at, job in enumerate(jobs.iterator(chunk_size=100)):
            told(at, count)
            records = {
                "customer_record": customer_at.get(job.customer_record_id or 0),
                "site_record": site_at.get(job.site_record_id or 0),
            }
            _write_job(out, job, records)
        shop_sites.write(out, shop)
    return stream.getvalue()


def _pumps(shop: Shop) -> Iterable[Pump]:
    rows = CatalogueEntry.objects.filter(shop=shop, archived=False).order_by("pump_id")
    return (publishing.to_pump(row) for row in rows.values(*services.COLUMNS))


def _write_job(out: zipfile.ZipFile, job: Job, records: Mapping[str, int | None]) -> None:
    held = plain_rows.plain(job) | {"id": str(job.pk), "follows": str(job.follows_id or "")}
    held |= records
    lists = (
        ("revisions", job.revisions, "user"),
        ("notes", job.notes, "user"),
        ("recordings", job.recordings, "user"),
    )
    for name, rows, person in lists:
        held[name] = [
            plain_rows.plain(row) | {"by": str(getattr(row, person) or "")}
            for row in rows.select_related(person).order_by("pk")
        ]
    held["papers"] = []
    for paper in job.papers.select_related("issued_by").order_by("pk"):
        held["papers"].append(plain_rows.plain(paper) | {"by": str(paper.issued_by)})
        out.writestr(f"papers/{job.pk}-{paper.number}.pdf", bytes(paper.pdf))
    out.writestr(f"jobs/{job.pk}.json", plain_rows.as_json(held))


def _audit(shop: Shop) -> str:
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(("when", "who", "from", "what", "about"))
    for one in shop.audit.order_by("pk").iterator(chunk_size=2000):
        cells = (one.when.isoformat(), one.who, one.address, one.what, one.about)
        writer.writerow([harmless(cell) for cell in cells])
    return stream.getvalue()


# --- in


def is_empty(shop: Shop) -> bool:
    """Whether a shop has neither jobs, customers nor pumps: another's data can be taken in."""
    kept = (shop.jobs, shop.customers, shop.sites, shop.installed)
    return not (
        any(rows.exists() for rows in kept) or CatalogueEntry.objects.filter(shop=shop).exists()
    )


def judged(content: bytes) -> zipfile.ZipFile:
    """The ZIP, looked at before anything of it is unpacked.

    Raises
    ------
    CannotTakeIn
        It is none, or unpacks to more than a shop has.
    """
    try:
        held = zipfile.ZipFile(io.BytesIO(content))
    except (zipfile.BadZipFile, ValueError, NotImplementedError):
        raise CannotTakeIn("this is not a ZIP file that can be read") from None
    sizes = [one.file_size for one in held.infolist()]
    if (
        len(sizes) > _MOST_PARTS
        or sum(sizes) > _MOST_BYTES
        or max(sizes, default=0) > (_MOST_OF_A_PART)
    ):
        raise CannotTakeIn("this file unpacks to far more than the data of a shop")
    if "shop.json" not in held.namelist():
        raise CannotTakeIn("this is no shop's data: it holds no shop.json")
    return held


def take_in(shop: Shop, user: User, content: bytes, told: Progress) -> str:
    """Put a shop's data into an empty shop, whole or not at all; says what came.

    Who did what comes as a name only: what is taken in is put down to ``user``. People come in by
    links of their own.

    Raises
    ------
    CannotTakeIn
        It is none, it is broken somewhere, or the shop is not empty.
    """
    wrong = unpacking.problem_of(content) if zipfile.is_zipfile(io.BytesIO(content)) else ""
    if wrong:
        raise CannotTakeIn(f"the file is broken, nothing was taken in: {wrong}")
    try:
        with transaction.atomic():
            held_shop = Shop.objects.select_for_update().get(pk=shop.pk)
            if not is_empty(held_shop):
                raise CannotTakeIn("this shop has jobs or pumps already: nothing was taken in")
            return _take_in(held_shop, user, judged(content), told)
    except (CannotTakeIn, CalledOff, OperationalError, InterfaceError):
        raise  # the last two: the database went away, which says nothing of the file
    except (SizingError, ValidationError, Error) as problem:
        raise CannotTakeIn(f"the file is broken, nothing was taken in: {problem}"[:400]) from None
    except (LookupError, TypeError, ValueError, AttributeError, zipfile.BadZipFile) as problem:
        raise CannotTakeIn(
            f"the file is broken, nothing was taken in ({type(problem).__name__}: {problem})"[:400]
        ) from None


def _take_in(shop: Shop, user: User, held: zipfile.ZipFile, told: Progress) -> str:
    settings = _read(held, "shop.json")
    if settings.get("format") != FORMAT:
        raise CannotTakeIn(f"this file is no {FORMAT}")
    plain_rows.fill(shop, settings, but=_OWN_COUNTS | {"name"}).full_clean(exclude=["logo"])
    _check_terms(shop)
    shop.save()
    counts = []
    for name, model in _LISTS:
        rows = [plain_rows.fill(model(shop=shop), row) for row in _read(held, f"{name}.json")]
        if model is CatalogueEntry:
            _check_pumps(rows)
        if model is HouseRule and not {row.rule_id for row in rows} <= set(defaults()):
            raise CannotTakeIn("it holds a house rule that there is none of: nothing was taken in")
        if model is SupplierColumns:
            for row in rows:
                _check_words(row.by_hand, row.fixed)
        model._default_manager.bulk_create(rows, batch_size=2000)
        plain_rows.keep_moments(*rows)
        counts.append(f"{len(rows)} {name}")
    parts = [name for name in held.namelist() if name.startswith("jobs/")]
    ids = {name[5:-5]: _own_id(name[5:-5]) for name in parts}
    follows: dict[uuid.UUID, uuid.UUID] = {}
    pointing: dict[uuid.UUID, dict[str, Any]] = {}
    for at, name in enumerate(parts):
        told(at, len(parts))
        row = _read(held, name)
        job = _take_job(shop, user, held, row, ids[name[5:-5]])
        if row["follows"] in ids:
            follows[job.pk] = ids[row["follows"]]
        pointing[job.pk] = {key: row[key] for key in _RECORDS if key in row}
    taken = shop_sites.take_in(shop, user, held, ids)
    for job in shop.jobs.all():
        records = taken.linked(pointing[job.pk])
        if records is None:
            linking.link(job)
        else:
            job.customer_record, job.site_record = records.customer, records.site
        Job.objects.filter(pk=job.pk).update(
            customer_record=job.customer_record, site_record=job.site_record
        )
    for one, other in follows.items():
        Job.objects.filter(pk=one).update(follows_id=other)
    publishing.changed(shop)
    return ", ".join([f"{len(parts)} jobs", *counts, *taken.told])


def _read(held: zipfile.ZipFile, name: str) -> Any:
    """A part as JSON; no figure is infinite or none at all."""

    def no_number(text: str) -> None:
        raise ValueError(f"{text} is no number")

    return json.loads(held.read(name), parse_constant=no_number)


def _check_terms(shop: Shop) -> None:
    """A shop's terms are such as its settings can be set to.

    Raises
    ------
    CannotTakeIn
        A unit, pipe, school or logo that there is none of.
    """
    units = {name: {one for each in by.values() for one in each} for name, by in PREFERABLE.items()}
    known = (*kinds(), EVERY_KIND)
    allowed: tuple[tuple[Any, dict[str, set[str]]], ...] = (
        (shop.own_units, units),
        (shop.own_pipes, {code: set(SERIES) for code in known}),
        (shop.own_fittings, {code: set(FITTING_METHODS) for code in known}),
    )
    for held, may in allowed:
        _check_words(held)
        wrong = [f"{name} {one}" for name, one in held.items() if one not in may.get(name, ())]
        if wrong:
            raise CannotTakeIn(f"the shop's settings hold {wrong[0]}: nothing was taken in")
    basin_list.read(shop.basins, "metric")
    shop.logo_type = ""
    if shop.logo:
        shop.logo, shop.logo_type = redrawn(bytes(shop.logo))


def _check_words(*held: Any) -> None:
    """Only texts by texts."""
    for one in held:
        if not isinstance(one, dict) or not all(
            isinstance(word, str) for pair in one.items() for word in pair
        ):
            raise CannotTakeIn("the file is broken: texts are asked for; nothing was taken in")


def _check_job(job: Job, revisions: list[Revision]) -> None:
    """A job agrees with its revisions.

    Raises
    ------
    CannotTakeIn
        The one in force is not there, a parent is not, or its columns say another kind or state.
    """
    numbers = {one.number: one for one in revisions}
    now = numbers.get(job.current_revision)
    parents = {one.parent for one in revisions} - {None}
    if now is None or not parents <= set(numbers):
        raise CannotTakeIn(f"{job} lacks a revision that it needs: nothing was taken in")
    right = job.kind == now.document["kind"] and job.verdict in _VERDICTS and job.state in State
    if not right:
        raise CannotTakeIn(f"{job} says what its document does not: nothing was taken in")


def _check_pumps(rows: list[CatalogueEntry]) -> None:
    """Pumps come in by the same door as those of any file.

    Raises
    ------
    CannotTakeIn
        One would be refused there.
    """
    pumps = [publishing.to_pump(row.__dict__) for row in rows]
    for one in read_csv(write_csv(pumps)) if pumps else ():
        if one.problems:
            raise CannotTakeIn(f"{one.name}: {one.problems[0]}; nothing was taken in")


def _own_id(old: str) -> uuid.UUID:
    """The id that a job had, unless it is taken on this server."""
    found = uuid.UUID(old)
    return uuid.uuid4() if Job.objects.filter(pk=found).exists() else found


def _take_job(
    shop: Shop, user: User, held: zipfile.ZipFile, row: dict[str, Any], new_id: uuid.UUID
) -> Job:
    old = row["id"]
    job = cast(Job, plain_rows.fill(Job(shop=shop), row))
    job.pk, job.sized_revision = new_id, None  # this shop counts its catalogue anew
    job.save(force_insert=True)
    revisions, notes, papers, recordings = [], [], [], []
    for one in row["revisions"]:
        document.load(one["document"])
        revisions.append(plain_rows.fill(Revision(job=job, user=user), one))
    for one in row["notes"]:
        notes.append(plain_rows.fill(JobNote(job=job, user=user), one))
    for one in row.get("recordings", ()):  # none in files of before there were any
        recordings.append(plain_rows.fill(Recording(job=job, user=user), one))
        if recordings[-1].text:
            read_log(recordings[-1].text)
    for one in row["papers"]:
        pdf = held.read(f"papers/{old}-{int(one['number'])}.pdf")
        if not pdf.startswith(b"%PDF-"):
            raise CannotTakeIn(f"paper {one['number']} of {job} is no PDF: nothing was taken in")
        papers.append(plain_rows.fill(Paper(job=job, issued_by=user, pdf=pdf), one))
        papers[-1].drawn_here = False
        papers[-1].letterhead = letterhead_judged(one.get("letterhead"))
    for model, made in (
        (Revision, revisions),
        (JobNote, notes),
        (Paper, papers),
        (Recording, recordings),
    ):
        model._default_manager.bulk_create(made)
        plain_rows.keep_moments(*made)
    for paper in papers:
        seals.seal(paper, seals.CAME_IN)
    plain_rows.keep_moments(job)
    _check_job(job, revisions)
    return job
