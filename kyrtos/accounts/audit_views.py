"""The owner's page of who did what."""

from __future__ import annotations

import csv
import io

from django.core.paginator import Paginator
from django.db.models import Q
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from kyrtos.accounts.permissions import ShopRequest, may
from sizing.base.spreadsheet import harmless

_PER_PAGE, _MOST_OUT = 60, 100_000


@require_safe
@may("set shop")
def audit(request: ShopRequest) -> HttpResponse:
    """The record, the newest first; searched, and as a file."""
    words = request.GET.get("q", "")[:100]
    found = request.membership.shop.audit.all()
    for word in words.split():
        found = found.filter(
            Q(who__icontains=word) | Q(what__icontains=word) | Q(about__icontains=word)
        )
    if "csv" in request.GET:
        stream = io.StringIO(newline="")
        writer = csv.writer(stream, lineterminator="\n")
        writer.writerow(("when", "who", "from", "what", "about"))
        for one in found[:_MOST_OUT].iterator(chunk_size=2000):
            cells = (
                one.when.isoformat(timespec="seconds"),
                one.who,
                one.address,
                one.what,
                one.about,
            )
            writer.writerow([harmless(cell) for cell in cells])
        head = {"Content-Disposition": 'attachment; filename="audit.csv"'}
        return HttpResponse(stream.getvalue(), content_type="text/csv; charset=utf-8", headers=head)
    page = Paginator(found, _PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "accounts/audit.html", {"page": page, "words": words})
