"""How much of a thing one shop may keep: enough for a large one, too little to fill the server."""

from __future__ import annotations

from sizing.base.errors import SizingError

MOST = {
    "jobs": 100_000,
    "pumps": 300_000,
    "customers": 100_000,
    "sites": 200_000,
    "installed pumps": 200_000,
    "traced pictures": 300,
    "papers of a job": 500,
    "revisions of a job": 20_000,
}
MOST_BYTES = 10_000_000_000  # of photos and files


class NoMoreRoom(SizingError):
    """The shop keeps as many of a thing as it may."""


class StoreFailed(Exception):
    """The store of files takes nothing: it is full, or may only be read from."""


def check_bytes(held: int, more: int) -> None:
    """The same of the room that a shop's photos and files take.

    Raises
    ------
    NoMoreRoom
    """
    if held + more > MOST_BYTES:
        raise NoMoreRoom(
            f"this shop keeps {held / 1e9:.1f} GB of photos and files already, and"
            f" {MOST_BYTES / 1e9:.0f} GB are the most: take some away first, or ask whoever looks"
            " after the server"
        )


def check(thing: str, count: int, more: int = 1) -> None:
    """Raise when so many more would be too many.

    Raises
    ------
    NoMoreRoom
    """
    if count + more > MOST[thing]:
        raise NoMoreRoom(
            f"this shop keeps {count:,} {thing} already, and {MOST[thing]:,} are the most: take"
            " some away first, or ask whoever looks after the server"
        )
