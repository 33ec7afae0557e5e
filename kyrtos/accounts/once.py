"""What is sent twice (a double click, a phone that retries, four at once) is done once."""

from __future__ import annotations

import uuid
from datetime import timedelta
from functools import wraps
from typing import cast

from django.db import transaction
from django.http import HttpResponse, HttpResponseRedirect
from django.utils import timezone

from kyrtos.accounts.models import SentOnce
from kyrtos.accounts.permissions import ShopRequest, View

FIELD = "once"
_KEPT = timedelta(days=30)


def once(view: View) -> View:
    """Marks what is to be done once for each form that was opened; under ``may``.

    A form carries an id of its own. The second sending waits for the first and is led to where that
    went; one that was refused may be sent again.
    """

    @wraps(view)
    def guarded(request: ShopRequest, *args: object, **given: object) -> HttpResponse:
        token = _token(request.POST.get(FIELD, "")) if request.method == "POST" else None
        if token is None:
            return view(request, *args, **given)
        with transaction.atomic():
            sent, is_new = SentOnce.objects.get_or_create(
                token=token, user_id=request.membership.user_id
            )
            if is_new:
                SentOnce.objects.filter(at__lt=timezone.now() - _KEPT).delete()
            else:
                return HttpResponseRedirect(sent.place or "/")
            answer = view(request, *args, **given)
            if isinstance(answer, HttpResponseRedirect):
                SentOnce.objects.filter(pk=sent.pk).update(place=answer.url)
            else:
                sent.delete()
        return answer

    return cast(View, guarded)


def _token(text: str) -> uuid.UUID | None:
    try:
        return uuid.UUID(text)
    except ValueError:
        return None
