"""Typed readers of the environment: a wrong or missing variable stops the start with its name."""

from __future__ import annotations

import os

from django.core.exceptions import ImproperlyConfigured


def text(name: str, default: str | None = None) -> str:
    """A variable's text.

    Raises
    ------
    ImproperlyConfigured
        When it is not set and has no default.
    """
    value = os.environ.get(name, default)
    if value is None or (not value and default is None):
        raise ImproperlyConfigured(
            f"the environment variable {name} must be set; see docs/deploy.md"
        )
    return value


def truth(name: str, *, default: bool) -> bool:
    """A variable that is 1 or 0.

    Raises
    ------
    ImproperlyConfigured
        When it is anything else.
    """
    value = os.environ.get(name, "1" if default else "0")
    if value not in ("0", "1"):
        raise ImproperlyConfigured(
            f"the environment variable {name} is '{value}'; it must be 1 or 0"
        )
    return value == "1"


def number(name: str, *, default: int) -> int:
    """A variable that is a whole number.

    Raises
    ------
    ImproperlyConfigured
        When it is anything else.
    """
    value = os.environ.get(name, str(default))
    if not (value.isascii() and value.isdigit()):
        raise ImproperlyConfigured(f"the environment variable {name} is '{value}', no whole number")
    return int(value)


def names(name: str, default: str = "") -> list[str]:
    """A variable that holds names parted by commas."""
    return [part.strip() for part in os.environ.get(name, default).split(",") if part.strip()]


def only_here(name: str, places: list[str]) -> None:
    """Where a variable is set, the server answers to this very machine and to nobody else.

    Raises
    ------
    ImproperlyConfigured
        A host or an address to listen on is another.
    """
    here = ("", "127.0.0.1", "localhost", "[::1]", "unix")
    for place in places:
        host = place if place.endswith("]") else place.rpartition(":")[0] or place
        if host not in here and not place.startswith("unix:"):
            raise ImproperlyConfigured(
                f"{name}=1 lets anybody in at one click, so it is for this machine alone: '{place}'"
                " (KYRTOS_HOSTS, KYRTOS_BIND) is not"
            )
