"""The address by which people reach this server: one setting for mails, links and labels."""

from __future__ import annotations

from django.conf import settings


def address(path: str) -> str:
    """A path of ours as somebody elsewhere would open it; no header decides it."""
    return f"{settings.PUBLIC_URL}{path}"
