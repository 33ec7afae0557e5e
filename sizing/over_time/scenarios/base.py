"""What a job can be run through, and what came of it: the same for every kind of job."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from sizing.base.message import Measure, Message
from sizing.checks.base import About, Check, CheckState, Running, Weight
from sizing.document.answers import Answers, Question
from sizing.document.job import Figure
from sizing.kinds.base import Kind

Role = Literal["stop", "start", "alarm", "rim", "inlet", "bound"]


@dataclass(frozen=True)
class Line:
    """Something that changes over time: (time [s], value [SI]), in the order of time.

    With ``steps`` each value holds until the next one.
    """

    label: str
    dimension: str
    points: tuple[tuple[float, float], ...]
    steps: bool = False

    def at(self, time_s: float) -> float:
        """The value at a moment, held before the first and after the last."""
        after = bisect_right(self.points, time_s, key=lambda one: one[0])
        if after == 0 or after == len(self.points):
            return self.points[min(after, len(self.points) - 1)][1]
        (begin, first), (end, last) = self.points[after - 1], self.points[after]
        if self.steps or end <= begin:
            return first
        return first + (last - first) * (time_s - begin) / (end - begin)


@dataclass(frozen=True)
class Mark:
    """A value on the line's own scale that matters, with its name."""

    role: Role
    label: str
    value: float


@dataclass(frozen=True)
class Band:
    """When something is on: (from [s], to [s])."""

    label: str
    spans: tuple[tuple[float, float], ...]

    def on(self, time_s: float) -> bool:
        """Whether it is on at a moment."""
        at = bisect_right(self.spans, time_s, key=lambda one: one[0]) - 1
        return at >= 0 and time_s < self.spans[at][1]


@dataclass(frozen=True)
class Event:
    """An event in words, with the value of the line at its moment."""

    time_s: float
    words: str
    value: float


@dataclass(frozen=True)
class Table:
    """Figures side by side, such as by month; ``note`` says what a heading means."""

    heads: tuple[str, ...]
    rows: tuple[tuple[Measure | str, ...], ...]
    note: str = ""


@dataclass(frozen=True)
class Outcome:
    """What came of it in a sentence, whose fault it is, and what to do."""

    state: CheckState
    message: Message
    remedy: str = ""
    about: About = "site"
    weight: Weight = "should"


@dataclass(frozen=True)
class SimulationResult:
    """A job run through a scenario: a line with what matters on it, events, sums, and the end.

    ``upright`` says that the line is the level of water in what stands from ``floor`` to its
    highest mark, so that it can be drawn as that.
    """

    end_s: float
    line: Line
    marks: tuple[Mark, ...]
    bands: tuple[Band, ...]
    events: tuple[Event, ...]
    sums: tuple[tuple[str, Measure | str], ...]
    outcome: Outcome
    below: Line | None = None
    beside: Line | None = None  # on the line's own scale, such as what was measured
    away: tuple[tuple[float, float], ...] = ()  # the power is away: (from [s], to [s])
    upright: bool = False
    over_at_s: float | None = None
    table: Table | None = None
    worse: float = 0.0  # orders pumps of one outcome: the larger the worse


@dataclass(frozen=True)
class Scenario:
    """Something that a job can be run through.

    ``asks`` are figures of its own, each with a default; ``run`` takes the pump at work and them.
    Raises SizingError where the job's figures cannot be run.
    """

    code: str
    label: str
    assumed: str
    applies: Callable[[Kind, Running], bool]
    run: Callable[[Running, Answers], SimulationResult]
    asks: tuple[Question, ...] = ()
    rank: int = 50  # those to begin with have a lower one

    def answers(self, given: Mapping[str, Figure]) -> Answers:
        """Its figures as given, with the defaults behind them."""
        return Answers(given, self.asks, f"scenarios.{self.code}")

    def check(self, ran: SimulationResult) -> Check:
        """What came of it, as a check among the others."""
        one = ran.outcome
        return Check(
            code=f"over_time_{self.code}",
            label=self.label[:1].upper() + self.label[1:],
            state=one.state,
            message=one.message,
            remedy=one.remedy,
            weight=one.weight,
            about=one.about,
        )


def asked(
    key: str,
    label: str,
    dimension: str,
    trade_units: tuple[str, str],
    between: tuple[float, float],
    default: str = "",
    help_text: str = "",
) -> Question:
    """A figure that a scenario asks; ``trade_units`` are metric and US, bounds in SI."""
    return Question(
        key=key,
        label=label,
        stage="proof",
        dimension=dimension,
        metric_unit=trade_units[0],
        us_unit=trade_units[1],
        low=between[0],
        high=between[1],
        default=default,
        optional=not default,
        help=help_text,
    )


def factor(key: str, label: str, most: float = 20.0) -> Question:
    """A figure that something told is taken times."""
    return asked(key, label, "count", ("×", "×"), (0.0, most), "1 ×")


def clock(seconds: float) -> str:
    """A moment of the day."""
    whole = int(seconds)
    return f"{whole // 3600:02}:{whole % 3600 // 60:02}:{whole % 60:02}"
