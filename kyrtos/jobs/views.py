"""The bench: the list of jobs, a new one, one from a file."""

from __future__ import annotations

from functools import partial
from typing import cast
from uuid import UUID

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.once import once
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from kyrtos.config.middleware import takes
from kyrtos.drawing.kinds import drawings
from kyrtos.jobs import bench, in_words, services
from kyrtos.jobs.forms import LARGEST_JOB_FILE, JobFileForm, NewJobForm, SentenceForm
from kyrtos.jobs.models import Job, Recheck, State
from kyrtos.jobs.tasks import recheck_soon
from kyrtos.jobs.told_alone import told_alone
from kyrtos.shops import trouble
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.editing import intake
from sizing.kinds import kinds

_PER_PAGE = 50
_NAMES = "“cellar sump”, “sewage”, “well”, “booster”, “pond”, “hot tub”."


@require_safe
@may("see")
def job_list(request: ShopRequest) -> HttpResponse:
    """Jobs of the shop, newest change first, with search and filters."""
    shop, asked = request.membership.shop, request.GET
    found = bench.search(
        shop,
        words=asked.get("q", "")[:100],
        state=asked.get("state", ""),
        kind_code=asked.get("kind", ""),
        customer=asked.get("customer", ""),
        sort=asked.get("sort", ""),
    )
    page = Paginator(found, _PER_PAGE).get_page(asked.get("page"))
    customers = (
        shop.jobs.exclude(customer="")
        .order_by("customer")
        .values_list("customer", flat=True)
        .distinct()[:300]
    )
    system = system_of(request.membership)
    context = {
        "page": page,
        "states": [*State.choices, (bench.ARCHIVED, "put away")],
        "heads": _heads(asked.get("sort", "")),
        "rows": [
            (
                job,
                *trouble.alone(
                    shop, "a row of the bench", partial(_figures, job, system), ("", ""), job.pk
                ),
            )
            for job in page.object_list
        ],
        "kinds": list(kinds().values()),
        "customers": customers,
        "turned": shop.jobs.exclude(turns_to="").count(),
        "asked": {key: asked.get(key, "") for key in ("q", "state", "kind", "customer", "sort")},
    }
    return render(request, "jobs/list.html", context)


# The columns of the bench: what they sort by, their heading, and whether a phone shows them.
_COLUMNS = (
    ("title", "Job", ""),
    ("customer", "Customer", "less"),
    ("kind", "Kind", "less"),
    ("state", "State", ""),
    ("flow_m3s", "Needs", "less number"),
    ("head_m", "at", "less number"),
    ("pump", "Pump", "less"),
    ("-changed", "Changed", "less"),
)


def _heads(sort: str) -> list[tuple[str, str, str, str]]:
    """Each column: what a click on it sorts by, its heading, its class, and the arrow it shows."""
    found = []
    for field, label, look in _COLUMNS:
        turned = field.removeprefix("-") if field.startswith("-") else f"-{field}"
        here = sort in (field, turned)
        arrow = "" if not here else "▼" if sort.startswith("-") else "▲"
        found.append((turned if sort == field else field, label, look, arrow))
    return found


def _figures(job: Job, system: System) -> tuple[str, str]:
    """What a job needs, as the reader reads it."""
    flow = "" if job.flow_m3s is None else units.show(job.flow_m3s, "flow", system)
    head = "" if job.head_m is None else units.show(job.head_m, "length", system)
    return flow, head


def _figures_alone(job: Job, system: System) -> tuple[str, str]:
    """Its figures; none where they break, so that the other rows are shown."""
    shown = partial(_figures, job, system)
    return trouble.alone(job.shop, "a row of the bench", shown, ("", ""), job.pk)


@require_POST
@may("edit job")
def archive(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Put a job away, or bring it back."""
    job = get_object_or_404(Job, pk=job_id, shop=request.membership.shop)
    away = request.POST.get("do") == "away"
    bench.set_archived(job, away=away)
    did(request, "job put away" if away else "job brought back", job.title)
    return redirect("worksheet", job_id=job.pk)


@require_POST
@may("edit job")
def notes(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Add a note to a job, or take one's own out again."""
    job = get_object_or_404(Job, pk=job_id, shop=request.membership.shop)
    gone = request.POST.get("remove", "")
    if gone.isascii() and gone.isdigit() and len(gone) < 18:
        bench.remove_note(job=job, user=_user(request), note_id=int(gone))
    else:
        bench.add_note(job=job, user=_user(request), text=request.POST.get("text", ""))
    return redirect(f"{reverse('worksheet', args=[job.pk])}#stage-notes")


def _new_form(
    request: ShopRequest,
    form: NewJobForm | None = None,
    file_form: JobFileForm | None = None,
    told_form: SentenceForm | None = None,
) -> HttpResponse:
    wrong = any(one and one.errors for one in (form, file_form, told_form))
    begun = _begun(request)
    shop = request.membership.shop
    context = {
        "customers": shop.customers.values_list("name", flat=True)[:500],
        "sites": shop.sites.values_list("name", flat=True)[:500],
        "form": form or NewJobForm(initial=begun),
        "drawings": drawings(),
        "file_form": file_form or JobFileForm(),
        "told_form": told_form or SentenceForm(initial=begun),
    }
    return render(request, "jobs/new.html", context, status=422 if wrong else 200)


def _begun(request: ShopRequest) -> dict[str, str]:
    """What the address says already: the kind, and facts that go along."""
    return {
        "kind": request.GET.get("kind", "sump")[:24],
        "customer": request.GET.get("customer", "")[:200],
        "site": request.GET.get("site", "")[:200],
        "largest_solid": request.GET.get("largest_solid", "")[:60],
        "liquid": request.GET.get("liquid", "")[:24],
        "note": request.GET.get("note", "")[:300],
    }


@may("edit job")
@once
@told_alone("a new job")
def new(request: ShopRequest) -> HttpResponse:
    """A blank sheet."""
    if request.method != "POST":
        return _new_form(request)
    form = NewJobForm(request.POST)
    if not form.is_valid():
        return _new_form(request, form)
    typed = dict(form.cleaned_data)
    facts = {name: typed.pop(name) for name in ("largest_solid", "liquid")}
    made = services.create(
        shop=request.membership.shop,
        user=_user(request),
        kind_code=typed.pop("kind"),
        facts=facts,
        **typed,
    )
    return redirect("worksheet", job_id=made.pk)


@require_POST
@may("edit job")
@once
@told_alone("a job told in words")
def told_job(request: ShopRequest) -> HttpResponse:
    """A job read from a sentence or a mail; what was not read is told, and all of it is kept."""
    form = SentenceForm(request.POST)
    if not form.is_valid():
        return _new_form(request, told_form=form)
    made, read = in_words.tell(
        shop=request.membership.shop, user=_user(request), **form.cleaned_data
    )
    if made is None:
        wrong = "The words do not say what the pump is for. Name it, for example " + _NAMES
        form.add_error("told", wrong)
        return _new_form(request, told_form=form)
    messages.success(
        request, f"{len(read.facts)} facts were read from your words, which stand under Notes."
    )
    for words in read.not_read:
        messages.warning(request, f"Not read: “{words}”. Enter it at its place.")
    for problem in read.asked:
        messages.warning(request, f"Please look at this: {problem}.")
    return redirect("worksheet", job_id=made.pk)


@takes(LARGEST_JOB_FILE)
@require_POST
@may("edit job")
@told_alone("a job from a file")
def upload(request: ShopRequest) -> HttpResponse:
    """A job from a job file; a bad file is told and changes nothing."""
    form = JobFileForm(request.POST, request.FILES)
    if not form.is_valid():
        return _new_form(request, file_form=form)
    try:
        taken_in = intake.take_in(form.cleaned_data["file"].read())
        made = services.adopt(
            shop=request.membership.shop, user=_user(request), content=taken_in.job
        )
    except SizingError as problem:
        form.add_error("file", f"The job file was not read: {problem}")
        return _new_form(request, file_form=form)
    did(request, "job file taken in", made.title)
    for told in taken_in.told:
        messages.warning(request, f"In the file, {told}. Look whether that is what was meant.")
    return redirect("worksheet", job_id=made.pk)


def _user(request: HttpRequest) -> User:
    return cast(User, request.user)


@require_POST
@may("edit job")
def recheck_now(request: ShopRequest) -> HttpResponse:
    """Have the open jobs looked through again."""
    recheck_soon(request.membership.shop)
    return redirect("recheck")


@require_safe
@may("see")
def recheck(request: ShopRequest) -> HttpResponse:
    """Open jobs whose answer turns with the catalogue and the rules as they are now."""
    shop = request.membership.shop
    context = {
        "changed": Job.objects.filter(shop=shop).exclude(turns_to=""),
        "look": Recheck.objects.filter(shop=shop).first(),
        "waiting": shop.catalogue_revision != shop.published_revision,
        "revision": shop.published_revision,
    }
    return render(request, "jobs/recheck.html", context)
