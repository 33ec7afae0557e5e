"""Photos and files of sites as they go out: nothing of them runs in anybody's browser."""

from __future__ import annotations

from typing import cast
from uuid import UUID

from django.conf import settings
from django.core.files.storage import default_storage
from django.core.signing import BadSignature, TimestampSigner
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse

from kyrtos.customers.models import SiteFile
from kyrtos.customers.photos import KNOWN_TYPES, PHOTO_TYPE

_GOOD_FOR_S = 300
_PLAIN = "application/octet-stream"
_POLICY = "sandbox; default-src 'none'"


def _signer() -> TimestampSigner:
    return TimestampSigner(salt="kyrtos.held-file")


def address(file_id: UUID) -> str:
    """Where a file is fetched from the name for files, for five minutes."""
    scheme = "https" if settings.SECURE else "http"
    path = reverse("held-file", args=[_signer().sign(str(file_id))])
    return f"{scheme}://{settings.FILES_HOST}{path}"


def found(key: str) -> SiteFile:
    """The file of such an address.

    Raises
    ------
    Http404
        It is too old, or was never given.
    """
    try:
        file_id = UUID(_signer().unsign(key, max_age=_GOOD_FOR_S))
    except (BadSignature, ValueError):
        raise Http404("this address was good for five minutes") from None
    return get_object_or_404(SiteFile, pk=file_id)


def served(file: SiteFile) -> HttpResponse:
    """A photo, which was drawn here, to be looked at; anything else as a file to take away."""
    if not default_storage.exists(file.stored):
        raise Http404("the store does not hold this file any more")
    drawn_here = file.is_photo and file.media_type == PHOTO_TYPE
    answer = FileResponse(
        default_storage.open(file.stored, "rb"),
        as_attachment=not drawn_here,
        filename=file.name,
        content_type=file.media_type if file.media_type in KNOWN_TYPES else _PLAIN,
    )
    answer.headers["Cache-Control"] = "private, max-age=300"
    answer.headers["Content-Security-Policy"] = _POLICY
    answer.headers["X-Content-Type-Options"] = "nosniff"
    return cast(HttpResponse, answer)
