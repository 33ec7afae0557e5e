"""The bench: the list of jobs, a new one, one from a file."""

from __future__ import annotations

from typing import cast

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.jobs import services
from kyrtos.jobs.forms import JobFileForm, NewJobForm
from kyrtos.jobs.models import Job, Recheck, State
from kyrtos.jobs.tasks import recheck_soon
from sizing.base.errors import SizingError
from sizing.document import intake
from sizing.kinds import kinds

_PER_PAGE = 50


@require_GET
@may("see")
def job_list(request: ShopRequest) -> HttpResponse:
    """Jobs of the shop, newest change first, with search and filters."""
    shop, asked = request.membership.shop, request.GET
    found = services.search(
        shop,
        words=asked.get("q", "")[:100],
        state=asked.get("state", ""),
        kind_code=asked.get("kind", ""),
        customer=asked.get("customer", ""),
    )
    page = Paginator(found, _PER_PAGE).get_page(asked.get("page"))
    customers = (
        shop.jobs.exclude(customer="")
        .order_by("customer")
        .values_list("customer", flat=True)
        .distinct()[:300]
    )
    context = {
        "page": page,
        "states": State.choices,
        "kinds": list(kinds().values()),
        "customers": customers,
        "turned": shop.jobs.exclude(turns_to="").count(),
        "asked": {key: asked.get(key, "") for key in ("q", "state", "kind", "customer")},
    }
    return render(request, "jobs/list.html", context)


def _new_form(
    request: ShopRequest, form: NewJobForm | None = None, file_form: JobFileForm | None = None
) -> HttpResponse:
    wrong = bool((form and form.errors) or (file_form and file_form.errors))
    context = {
        "form": form or NewJobForm(initial={"kind": "sump"}),
        "file_form": file_form or JobFileForm(),
    }
    return render(request, "jobs/new.html", context, status=422 if wrong else 200)


@may("edit job")
def new(request: ShopRequest) -> HttpResponse:
    """A blank sheet."""
    if request.method != "POST":
        return _new_form(request)
    form = NewJobForm(request.POST)
    if not form.is_valid():
        return _new_form(request, form)
    typed = dict(form.cleaned_data)
    made = services.create(
        shop=request.membership.shop, user=_user(request), kind_code=typed.pop("kind"), **typed
    )
    return redirect("worksheet", job_id=made.pk)


@require_POST
@may("edit job")
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


@require_GET
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
