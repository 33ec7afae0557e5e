"""What a page says, as a browser reads it."""

from __future__ import annotations

from django.http import HttpResponse


def text_of(answer: HttpResponse) -> str:
    """The page with every run of blanks and line ends as one blank."""
    return " ".join(answer.content.decode().split())
