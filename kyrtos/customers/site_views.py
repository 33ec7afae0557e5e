"""Sites: one of them with its jobs, photos and files; changed, merged."""

from __future__ import annotations

from typing import cast
from urllib.parse import urlencode
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts import two_people
from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.once import once
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from kyrtos.accounts.whose import gone_page
from kyrtos.config.middleware import takes
from kyrtos.customers import held_files, photos, records
from kyrtos.customers.forms import FileForm, SiteForm
from kyrtos.customers.models import Customer, Site, SiteFile
from kyrtos.shops import merges
from sizing.base.errors import SizingError


def _site(request: ShopRequest, site_id: int) -> Site:
    rows = Site.objects.select_related("customer", "shop")
    return get_object_or_404(rows, pk=site_id, shop=request.membership.shop)


def _page(request: ShopRequest, found: Site, form: FileForm) -> HttpResponse:
    asked = {"site": found.name, "customer": found.customer.name if found.customer else ""}
    context = {
        "site": found,
        "new_job": f"{reverse('new-job')}?{urlencode(asked)}",
        "facts": records.said(found, system_of(request.membership)),
        "jobs": found.jobs.all(),
        "files": found.files.select_related("user"),
        "form": form,
        "merged": merges.that_can_be_undone(found.shop, "site", found.pk),
    }
    return render(request, "customers/site.html", context, status=422 if form.errors else 200)


@require_safe
@may("see")
def site(request: ShopRequest, site_id: int) -> HttpResponse:
    """One site: what is known of it, its jobs, what stands and stood there, its photos."""
    return _page(request, _site(request, site_id), FileForm())


@may("edit job")
@once
@transaction.atomic
def edit(request: ShopRequest, site_id: int = 0, customer_id: int = 0) -> HttpResponse:
    """A site's facts as a form; a new one of a customer without a number."""
    shop, customer = request.membership.shop, None
    if site_id:
        _site(request, site_id)
        before = Site.objects.select_for_update(of=("self",)).get(pk=site_id)
        customer = before.customer
    else:
        before = None
        customer = get_object_or_404(Customer, pk=customer_id, shop=shop)
    if customer is not None and customer.taken_out:
        return gone_page(request, "The customer of this site was taken out on request.")

    def make(sent: QueryDict | None) -> SiteForm:
        row = Site.objects.get(pk=site_id) if site_id else Site(shop=shop, customer=customer)
        return SiteForm(sent, instance=row, system=system_of(request.membership))

    form = two_people.opened(request, make)
    if request.method == "POST" and form.is_valid():
        made = form.save()
        did(request, "site kept", made.name)
        return redirect("site", site_id=made.pk)
    context = {"form": form, "before": before, "customer": customer}
    status = two_people.status_of(form)
    return render(request, "customers/site_form.html", context, status=status)


@takes(photos.LARGEST_BYTES)
@require_POST
@may("edit job")
def add_file(request: ShopRequest, site_id: int) -> HttpResponse:
    """Keep a photo or a file with a site."""
    found = _site(request, site_id)
    form = FileForm(request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, found, form)
    try:
        photos.keep(
            site=found,
            user=cast(User, request.user),
            sent=form.cleaned_data["file"],
            place=form.cleaned_data["place"],
            keep_position=form.cleaned_data["keep_position"],
            job=_job_of(found, request.POST.get("job", "")),
        )
    except SizingError as problem:
        form.add_error("file", f"Not kept: {problem}.")
        return _page(request, found, form)
    return redirect("site", site_id=found.pk)


def _job_of(site: Site, asked: str) -> UUID | None:
    """The job that a photo is for, when it is one of the site's."""
    return next((job.pk for job in site.jobs.all() if str(job.pk) == asked), None)


def _file(request: ShopRequest, file_id: UUID) -> SiteFile:
    return get_object_or_404(SiteFile, pk=file_id, site__shop=request.membership.shop)


@require_safe
@may("see")
def file(request: ShopRequest, file_id: UUID) -> HttpResponse:
    """A photo to look at, a file to take away; from a name without cookies, where there is one."""
    found = _file(request, file_id)
    if settings.FILES_HOST:
        return redirect(held_files.address(found.pk))
    return held_files.served(found)


@require_safe
def held_file(request: HttpRequest, key: str) -> HttpResponse:
    """The same on the name for files, for who was let in a moment ago."""
    if not settings.FILES_HOST or request.get_host() != settings.FILES_HOST:
        raise Http404("no such page")
    return held_files.served(held_files.found(key))


@require_POST
@may("edit job")
def remove_file(request: ShopRequest, file_id: UUID) -> HttpResponse:
    """Take a photo or a file away again."""
    found = _file(request, file_id)
    site_id = found.site_id
    did(request, "photo or file taken away", found.name)
    photos.remove(found)
    return redirect("site", site_id=site_id)
