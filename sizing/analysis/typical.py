"""A usual site of a kind, to be drawn before the facts are there: what a job lacks, made up."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, Rules
from sizing.document.answers import Question
from sizing.document.job import JobDocument, LegEntry
from sizing.editing.edit import edit
from sizing.kinds import kind
from sizing.pump.catalogue import EMPTY
from sizing.size import Sizing, size

_ROUNDS = 6
_FACTS = {
    "lists.fixtures.r1.count": "2",
    "lists.taps.r1.count": "1",
    "lists.taps.r1.flow": "6 l/min",
    "lists.jets.r1.count": "8",
    "answers.pit_diameter": "600 mm",
    "answers.pit_length": "900 mm",
    "answers.pit_width": "600 mm",
    "answers.pit_depth": "1.2 m",
    "answers.rise": "60 mm",
    "answers.rise_time": "60 s",
    "answers.static_level": "12 m",
    "answers.pump_setting": "32 m",
    "answers.well_depth": "45 m",
    "answers.test_drawdown": "6 m",
    "answers.tested_yield": "3 m3/h",
    "answers.supply_pressure": "1.5 bar",
    "answers.latitude": "40 N",
    "answers.daily_need": "5 m3",
    "answers.source_level": "1 m",
    "answers.tank_volume": "400 l",
}
# What says nothing without another.
_WITH = {"lists.taps.r1.count": ("lists.taps.r1.flow",)}


@dataclass(frozen=True)
class TypicalSite:
    """A whole job to be drawn, and the paths of what was made up for it."""

    sizing: Sizing
    made_up: frozenset[str]


def typical_site(job: JobDocument, rules: Rules = SHIPPED) -> TypicalSite | None:
    """The job with all that it lacks made up; None where no such site comes out."""
    pipes = {path for path in job.pending if path.endswith(".pipe")}
    filled = job.model_copy(
        update={"pending": {path: text for path, text in job.pending.items() if path not in pipes}}
    )
    made_up = set(pipes)
    for _ in range(_ROUNDS):
        found = size(filled, EMPTY, rules)
        lacking = [one.path for one in found.missing if one.path not in made_up]
        if not lacking:
            return TypicalSite(found, frozenset(made_up)) if found.ledger else None
        for path in lacking:
            for one in (path, *_WITH.get(path, ())):
                made_up.add(one)
                try:
                    filled = edit(filled, one, _usual(filled, one), rules).job
                except SizingError:
                    return None
    return None


def _usual(job: JobDocument, path: str) -> str:
    """What usually stands in a field, as text."""
    head, _, rest = path.partition(".")
    if head == "legs":
        leg_id, _, name = rest.partition(".")
        return _of_leg(job, job.leg(leg_id), name)
    if path in _FACTS:
        return _FACTS[path]
    question = next((one for one in kind(job.kind).questions if one.key == rest), None)
    return _middle(question) if question else "1"


def _middle(question: Question) -> str:
    """The middle of what is usual, by ratio."""
    low, high = question.usual or (1.0, 1.0)
    middle_si = (low * high) ** 0.5 if low > 0 else (low + high) / 2
    unit = units.unit(question.unit("metric"), question.dimension)
    return f"{unit.from_si(middle_si):.3g} {unit.symbol}"


def _of_leg(job: JobDocument, entry: LegEntry, name: str) -> str:
    """A length or an end that goes with what is known of the leg."""
    index = job.legs.index(entry)
    usual = kind(job.kind).usual_legs
    length_m, end_m = usual[min(index, len(usual) - 1)]
    begin_m = usual[index - 1][1] if 0 < index < len(usual) else 0.0
    before = job.legs[index - 1].ends_at if index else None
    if before is not None:
        begin_m = before.si("length")
    if name == "length":
        climb_m = abs(entry.ends_at.si("length") - begin_m) if entry.ends_at else 0.0
        return f"{max(length_m, 1.1 * climb_m):.3g} m"
    known_m = entry.length.si("length") if entry.length else length_m
    return f"{begin_m + (end_m - begin_m) * min(known_m / length_m, 1.0):.3g} m"
