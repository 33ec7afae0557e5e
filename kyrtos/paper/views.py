"""Issuing a paper and fetching it again."""

from __future__ import annotations

from typing import cast
from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from kyrtos.jobs.models import Job
from kyrtos.paper import services
from kyrtos.paper.models import Paper
from kyrtos.shop.models import User
from kyrtos.shop.permissions import ShopRequest, may


@require_POST
@may("issue paper")
def issue(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Issue and show the paper; when it cannot be, say why on the worksheet."""
    job = get_object_or_404(Job.objects.select_related("shop"), pk=job_id, shop=request.membership.shop)
    if request.POST.get("revision") not in ("", None, str(job.head)):
        messages.warning(request, "The job changed since you looked at it. Look again, then issue.")
        return redirect("worksheet", job_id=job.pk)
    try:
        paper = services.issue(job=job, user=cast(User, request.user))
    except services.CannotIssue as problem:
        messages.error(request, str(problem))
        return redirect("worksheet", job_id=job.pk)
    return redirect("paper", job_id=job.pk, number=paper.number)


@require_GET
@may("see")
def paper(request: ShopRequest, job_id: UUID, number: int) -> HttpResponse:
    """The paper as it was issued, byte for byte."""
    found = get_object_or_404(Paper.objects.select_related("job"), job_id=job_id, job__shop=request.membership.shop, number=number)
    name = f"{slugify(found.job.title) or 'job'}-paper-{found.number}.pdf"
    return HttpResponse(bytes(found.pdf), content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'})
