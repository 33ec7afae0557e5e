"""A recent proof of who somebody is, before access changes hands."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from allauth.account.decorators import reauthentication_required
from allauth.account.internal.flows.login import record_authentication
from allauth.account.utils import perform_login
from django.http import HttpRequest, HttpResponse

from kyrtos.accounts.models import User

View = Callable[..., HttpResponse]


def proven(view: View) -> View:
    """What is sent to this page asks for the password or second step anew, unless that is recent.

    It is kept meanwhile, and done after the proof. Under :func:`may`; looking asks for nothing.
    """
    return cast(View, reauthentication_required(view, allow_get=True))


def sign_in_by_password(request: HttpRequest, user: User, redirect_url: str = "") -> HttpResponse:
    """Sign somebody in who has just given or chosen the password; a second step is asked after it.

    When that was is noted with the session, as a proof that grows old.
    """
    record_authentication(request, user, method="password", reauthenticated=True)
    answer = perform_login(request, user, redirect_url=redirect_url or None)
    return cast(HttpResponse, answer)
