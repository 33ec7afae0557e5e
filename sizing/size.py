"""The whole calculation, readable on one page: a job document in, everything about it out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TypeVar

from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, Rules
from sizing.checks.base import Check, Running
from sizing.checks.ground import ground_checks
from sizing.checks.method_range import range_check
from sizing.demand.method import Demand
from sizing.document.answers import Facts, MissingFact
from sizing.document.build_route import left_out, legs_in_use, system_curve
from sizing.document.job import Job, LegEntry
from sizing.hydraulics.system_curve import Ledger, SystemCurve
from sizing.kinds import kind as find_kind
from sizing.kinds.base import Kind, Place
from sizing.operating_point.one import Duty, duty
from sizing.pump.catalogue import Catalogue
from sizing.results.head_breakdown import Tape, tape
from sizing.selection.match import Candidate, Match, candidate, match
from sizing.selection.near_miss import close_the_gaps, outlet_governs_by_m, wider_pipes
from sizing.selection.sweep import Wanted

T = TypeVar("T")


@dataclass(frozen=True)
class Chosen:
    """The pump on the job: picked by a person, or the first of those that fit."""

    candidate: Candidate
    duty: Duty
    by_person: bool
    fits: bool


@dataclass(frozen=True)
class Sizing:
    """Everything that was found out. A part is None while something that it needs is missing."""

    job: Job
    kind: Kind
    facts: Facts
    demand: Demand | None
    system: SystemCurve | None
    legs: tuple[LegEntry, ...]
    place: Place | None
    wanted: Wanted | None
    match: Match | None
    chosen: Chosen | None
    at_flow_m3s: float | None
    ledger: Ledger | None
    tape: Tape | None
    checks: tuple[Check, ...]
    missing: tuple[MissingFact, ...]
    problems: tuple[str, ...]


class _Gathering:
    """Runs the parts one by one; what one part lacks is noted and the rest goes on."""

    def __init__(self) -> None:
        self.missing: dict[str, MissingFact] = {}
        self.problems: list[str] = []

    def part(self, work: Callable[[], T]) -> T | None:
        """The part's result, or None when it lacks something."""
        try:
            return work()
        except MissingFact as missing:
            self.missing.setdefault(missing.path, missing)
        except SizingError as problem:
            self.problems.append(str(problem))
        return None


def size(job: Job, catalogue: Catalogue, rules: Rules = SHIPPED) -> Sizing:
    """Size a job against a catalogue.

    Parameters
    ----------
    job : the document; whatever it lacks is listed in ``missing``, never raised.
    catalogue : the pumps to choose from.
    rules : house rules in force.

    Raises
    ------
    UnknownName
        A kind, pipe or fitting that no table holds.
    """
    kind = find_kind(job.kind)
    catalogue = catalogue.arranged(job.arrangement, job.pumps, job.standby)
    facts = Facts(job, kind.questions, kind.lists)
    gathering = _Gathering()
    demand = gathering.part(lambda: kind.demand(facts, rules))
    mark = facts.mark
    ends = gathering.part(lambda: kind.ends(facts, rules))
    at_ends = facts.noted(mark)
    system = (
        None
        if ends is None
        else gathering.part(lambda: system_curve(job, ends, facts.si("water_temperature")))
    )
    place = gathering.part(lambda: kind.place(facts, rules))
    legs = legs_in_use(job)
    for blank in left_out(job):
        gathering.missing.setdefault(blank.path, blank)
    if gathering.missing:  # told at once, not one after the other
        for lacking in facts.required():
            gathering.missing.setdefault(lacking.path, lacking)
    wanted = None if demand is None else gathering.part(lambda: kind.wanted(facts, demand, rules))
    found = (
        None
        if wanted is None or system is None
        else gathering.part(lambda: match(catalogue, system, wanted, rules))
    )
    if found and found.near_misses and system and wanted and ends:
        wider = wider_pipes(
            job,
            legs,
            system,
            wanted.flow_m3s,
            lambda changed: system_curve(changed, ends, facts.si("water_temperature")),
        )
        found = close_the_gaps(found, wider, outlet_governs_by_m(system, wanted.flow_m3s))
    if job.pump is not None and catalogue.find(job.pump) is None:
        gathering.problems.append(
            "the pump that was picked is not in the catalogue any more: pick another, or let the"
            " rules pick"
        )
    chosen = _choose(job, catalogue, system, wanted, found, rules)
    flow = _flow_at(chosen, demand)
    ledger = None if system is None or flow is None else system.ledger(flow)
    checks: tuple[Check, ...] = ()
    if chosen and chosen.duty.point and demand and system and ledger and flow is not None:
        running = Running(
            facts,
            rules,
            demand,
            system,
            legs,
            chosen.candidate,
            chosen.candidate.pump.curve,
            chosen.duty,
            flow,
            ledger,
        )
        checks = tuple(
            gathering.part(
                lambda: [*kind.checks(running), *ground_checks(running), *range_check(running)]
            )
            or ()
        )
    made = None if ledger is None or system is None else tape(legs, ledger, system, at_ends)
    return Sizing(
        job,
        kind,
        facts,
        demand,
        system,
        legs,
        place,
        wanted,
        found,
        chosen,
        flow,
        ledger,
        made,
        checks,
        tuple(gathering.missing.values()),
        tuple(dict.fromkeys(gathering.problems)),
    )


def _choose(
    job: Job,
    catalogue: Catalogue,
    system: SystemCurve | None,
    wanted: Wanted | None,
    found: Match | None,
    rules: Rules,
) -> Chosen | None:
    """The pump that a person picked, else the first that fits; its duty solved exactly."""
    if system is None or wanted is None or found is None:
        return None
    row = None if job.pump is None else catalogue.find(job.pump)
    if row is not None:
        picked = candidate(catalogue, system, wanted, rules, row)
    elif found.fits:
        picked = found.fits[0]
    else:
        return None
    found_duty = duty(picked.pump.curve, system)
    if found_duty.point:
        picked = replace(picked, flow_m3s=found_duty.point.flow_m3s, head_m=found_duty.point.head_m)
    return Chosen(picked, found_duty, row is not None, picked.fits)


def _flow_at(chosen: Chosen | None, demand: Demand | None) -> float | None:
    """The flow at which heads are told: where the pump really runs, else the flow needed."""
    if chosen and chosen.duty.point:
        return chosen.duty.point.flow_m3s
    return None if demand is None else demand.needed_m3s
