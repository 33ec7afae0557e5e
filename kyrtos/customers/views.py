"""Customers: the list, one of them, merged, taken out, brought in from a list."""

from __future__ import annotations

from typing import cast

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_safe

from kyrtos.accounts import list_views, two_people
from kyrtos.accounts.audit import did
from kyrtos.accounts.list_form import LARGEST_LIST
from kyrtos.accounts.models import User
from kyrtos.accounts.once import once
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.share import share
from kyrtos.accounts.whose import gone_page
from kyrtos.config.middleware import takes
from kyrtos.customers import cards, forgetting, records
from kyrtos.customers.forms import CustomerForm
from kyrtos.customers.models import Customer
from kyrtos.shops import merges

_PER_PAGE = 60
_MOST_PARTS = 200


@require_safe
@may("see")
def customer_list(request: ShopRequest) -> HttpResponse:
    """Customers of the shop, found by anything written of them or of their sites."""
    shop, words = request.membership.shop, request.GET.get("q", "")[:100]
    page = Paginator(records.found(shop, words), _PER_PAGE).get_page(request.GET.get("page"))
    context = {
        "page": page,
        "words": words,
        "loose": shop.sites.filter(customer=None)[:100],
    }
    return render(request, "customers/list.html", context)


@require_safe
@may("see")
def customer(request: ShopRequest, customer_id: int) -> HttpResponse:
    """One customer: what is known, their sites and jobs."""
    found = get_object_or_404(Customer, pk=customer_id, shop=request.membership.shop)
    context = {
        "customer": found,
        "sites": found.sites.prefetch_related("jobs"),
        "jobs": found.jobs.select_related("site_record")[:100],
        "alike": records.alike(found),
        "merged": merges.that_can_be_undone(found.shop, "customer", found.pk),
        "asked": found.forgettings.first(),
    }
    return render(request, "customers/customer.html", context)


@may("edit job")
@once
@transaction.atomic
def edit(request: ShopRequest, customer_id: int = 0) -> HttpResponse:
    """A customer's facts as a form; a new one without a number."""
    shop = request.membership.shop
    before = None
    if customer_id:
        rows = Customer.objects.select_for_update(of=("self",))
        before = get_object_or_404(rows, pk=customer_id, shop=shop)
        if before.taken_out:
            return gone_page(request, "This customer was taken out on request.")

    def make(sent: QueryDict | None) -> CustomerForm:
        row = Customer.objects.get(pk=before.pk) if before else Customer(shop=shop)
        return CustomerForm(sent, instance=row)

    form = two_people.opened(request, make)
    if request.method == "POST" and form.is_valid():
        made = form.save()
        did(request, "customer kept", made.name)
        return redirect("customer", customer_id=made.pk)
    context = {"form": form, "before": before}
    return render(request, "customers/form.html", context, status=two_people.status_of(form))


@may("keep customers")
@share
def forget(request: ShopRequest, customer_id: int) -> HttpResponse:
    """What holds a customer and what would become of it; then, asked for, it is done as a task."""
    found = get_object_or_404(Customer, pk=customer_id, shop=request.membership.shop)
    if found.taken_out:
        return redirect("customer", customer_id=found.pk)
    parts = [one[:200] for one in request.POST.getlist("part")][:_MOST_PARTS]
    if request.method == "POST" and request.POST.get("sure") == "on":
        forgetting.ask(found, cast(User, request.user), parts)
        list(messages.get_messages(request))  # one that waits may name them
        did(request, "taking out of a customer asked for", f"customer {found.pk}")
        return redirect("customer", customer_id=found.pk)
    context = {
        "customer": found,
        "plan": forgetting.forget(found, dry=True),
        "parts": parts if request.method == "POST" else None,
        "not_sure": request.method == "POST",
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "customers/forget.html", context, status=status)


_LIST = list_views.Kind(
    code="customers",
    noun="customers",
    label="A table (.csv, .xlsx) or vCards (.vcf)",
    accept=".csv,.xlsx,.vcf,text/csv,text/vcard",
    address="import-customers",
    back="customers",
    about="customers/_list_holds.html",
    take=cards.take_in,
)


@takes(LARGEST_LIST)
@may("keep customers")
def bring_in(request: ShopRequest) -> HttpResponse:
    """Customers from a CSV table or vCards."""
    return list_views.page(request, _LIST)


_FILES = {"csv": (cards.as_csv, "text/csv"), "vcf": (cards.as_vcards, "text/vcard")}


@require_safe
@may("keep customers")
@share
def export(request: ShopRequest, kind: str, customer_id: int = 0) -> HttpResponse:
    """All customers, or one, as CSV or vCards."""
    found = request.membership.shop.customers.prefetch_related("sites")
    if customer_id:
        found = found.filter(pk=customer_id)
        get_object_or_404(found)
    write, media_type = _FILES[kind]
    did(request, "customers taken out as a file", f"{found.count()} as {kind}")
    head = {"Content-Disposition": f'attachment; filename="customers.{kind}"'}
    return HttpResponse(write(found), content_type=f"{media_type}; charset=utf-8", headers=head)
