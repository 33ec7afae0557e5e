"""Whether the place is well: for watchdogs, balancers and ./run."""

from __future__ import annotations

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse

from kyrtos.operations import background


def _said(text: str, status: int = 200) -> HttpResponse:
    head = {"Cache-Control": "no-store"}
    return HttpResponse(f"kyrtos {text}\n", status=status, content_type="text/plain", headers=head)


def web(request: HttpRequest) -> HttpResponse:
    """Whether this machine can serve: what a balancer asks before it sends anybody here."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
    except DatabaseError:
        return _said("serves, but its database does not answer", status=503)
    return _said("ok")


def health(request: HttpRequest) -> HttpResponse:
    """Whether all of it works: database, queue and worker; what a watchdog asks."""
    here = web(request)
    if here.status_code != 200:
        return here
    problem = background.standing().problem
    return _said(f"serves, but {problem}", status=503) if problem else _said("ok")
