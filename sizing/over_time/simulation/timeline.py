"""What happened and when: events, the states between them, and the sums of it all."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from sizing.base.errors import SizingError

MOST_EVENTS = 500_000


class TooMuchHappens(SizingError):
    """Something starts and stops without end: the message says what."""


@dataclass(frozen=True)
class Event:
    """Something that happens at one moment."""

    time_s: float
    code: str  # such as "start 1", "stop 1", "alarm", "overflow", "power off"
    level_m: float


@dataclass(frozen=True)
class Piece:
    """A stretch between two events in which nothing changes but the level.

    ``level_after_s`` gives the level so many seconds after its beginning.
    """

    from_s: float
    to_s: float
    from_level_m: float
    to_level_m: float
    running: tuple[int, ...]  # the pumps that run, from 1
    inflow_m3s: float
    level_after_s: Callable[[float], float]


@dataclass
class Timeline:
    """Events and pieces in the order of time; nothing is kept where only sums are asked."""

    events: list[Event] = field(default_factory=list)
    pieces: list[Piece] = field(default_factory=list)

    def level_m(self, time_s: float) -> float:
        """The level at a moment.

        Raises
        ------
        SizingError
            Before the beginning or after the end.
        """
        for piece in self.pieces:
            if piece.from_s <= time_s <= piece.to_s:
                return piece.level_after_s(time_s - piece.from_s)
        raise SizingError("that moment lies outside of what was run")

    def samples(self, count: int) -> list[tuple[float, float]]:
        """Times and levels to draw by: each event's, and more between them, about ``count``."""
        if not self.pieces:
            return []
        whole = self.pieces[-1].to_s - self.pieces[0].from_s
        found: list[tuple[float, float]] = []
        for piece in self.pieces:
            long = piece.to_s - piece.from_s
            parts = max(1, round(count * long / whole)) if whole else 1
            found += [
                (piece.from_s + long * at / parts, piece.level_after_s(long * at / parts))
                for at in range(parts + 1)
            ]
        return found
