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
from sizing.document.build_route import Ends, left_out, legs_in_use, system_curve
from sizing.document.job import JobDocument, LegEntry
from sizing.hydraulics.system_curve import Ledger, SystemCurve
from sizing.kinds import kind as find_kind
from sizing.kinds.base import Kind, Place
from sizing.operating_point.one import OperatingPoint, operating_point
from sizing.pump.catalogue import Catalogue
from sizing.results.head_breakdown import HeadBreakdown, head_breakdown
from sizing.selection.match import Candidate, Match, candidate, match
from sizing.selection.near_miss import close_the_gaps, outlet_governs_by_m, wider_pipes
from sizing.selection.sweep import Wanted

T = TypeVar("T")
_PUMP_GONE = (
    "the pump that was picked is not in the catalogue any more: pick another, or let the rules pick"
)


@dataclass(frozen=True)
class Chosen:
    """The pump on the job: picked by a person, or the first of those that fit."""

    candidate: Candidate
    operating_point: OperatingPoint
    by_person: bool
    fits: bool


@dataclass(frozen=True)
class Sizing:
    """Everything that was found out. A part is None while something that it needs is missing."""

    job: JobDocument
    kind: Kind
    facts: Facts
    rules: Rules
    demand: Demand | None
    system: SystemCurve | None
    legs: tuple[LegEntry, ...]
    place: Place | None
    wanted: Wanted | None
    match: Match | None
    chosen: Chosen | None
    at_flow_m3s: float | None
    ledger: Ledger | None
    head_breakdown: HeadBreakdown | None
    running: Running | None
    checks: tuple[Check, ...]
    missing: tuple[MissingFact, ...]
    problems: tuple[str, ...]


class _Gathering:
    """Runs the parts one by one; what one part lacks is noted and the rest goes on."""

    def __init__(self) -> None:
        self.missing: dict[str, MissingFact] = {}
        self.problems: list[str] = []

    def tell_all_missing(self, job: JobDocument, facts: Facts) -> None:
        """What legs and questions lack is told at once, not one after the other."""
        for blank in left_out(job):
            self.missing.setdefault(blank.path, blank)
        if self.missing:
            for lacking in facts.required():
                self.missing.setdefault(lacking.path, lacking)

    def part(self, work: Callable[[], T]) -> T | None:
        """The part's result, or None when it lacks something."""
        try:
            return work()
        except MissingFact as missing:
            self.missing.setdefault(missing.path, missing)
        except SizingError as problem:
            self.problems.append(str(problem))
        return None


def size(job: JobDocument, catalogue: Catalogue, rules: Rules = SHIPPED) -> Sizing:
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
    catalogue = catalogue.arranged(job.arrangement, job.running_pumps, job.standby)
    facts = Facts(job, kind.questions, kind.lists, rules)
    gathering = _Gathering()
    demand = gathering.part(lambda: kind.demand(facts, rules))
    mark = facts.mark
    ends = gathering.part(lambda: kind.ends(facts, rules))
    at_ends = facts.noted(mark)
    system = None if ends is None else gathering.part(lambda: _system(job, ends, facts))
    place = gathering.part(lambda: kind.place(facts, rules))
    gathering.tell_all_missing(job, facts)
    wanted = None if demand is None else gathering.part(lambda: kind.wanted(facts, demand, rules))
    found = None
    if system is not None and wanted is not None:
        found = gathering.part(lambda: match(catalogue, system, wanted, rules))
    if found and system and wanted and ends:
        found = _with_cures(job, found, system, wanted, ends, facts)
    if job.pump is not None and catalogue.find(job.pump) is None:
        gathering.problems.append(_PUMP_GONE)
    chosen = _choose(job, catalogue, system, wanted, found, rules)
    flow = _flow_at(chosen, demand)
    ledger = None if system is None or flow is None else system.ledger(flow)
    legs = legs_in_use(job)
    running = _running(chosen, demand, system, ledger, facts, rules, legs)
    checks = running and gathering.part(lambda: _checks(kind, running))
    return Sizing(
        job=job,
        kind=kind,
        facts=facts,
        rules=rules,
        demand=demand,
        system=system,
        legs=legs,
        place=place,
        wanted=wanted,
        match=found,
        chosen=chosen,
        at_flow_m3s=flow,
        ledger=ledger,
        head_breakdown=head_breakdown(legs, ledger, system, at_ends) if ledger and system else None,
        running=running,
        checks=checks or (),
        missing=tuple(gathering.missing.values()),
        problems=tuple(dict.fromkeys(gathering.problems)),
    )


def _system(job: JobDocument, ends: Ends, facts: Facts) -> SystemCurve:
    return system_curve(job, ends, facts.si("water_temperature"))


def _with_cures(
    job: JobDocument, found: Match, system: SystemCurve, wanted: Wanted, ends: Ends, facts: Facts
) -> Match:
    """The match with what would make each near miss do."""
    if not found.near_misses:
        return found
    flow = wanted.flow_m3s
    wider = wider_pipes(
        job, legs_in_use(job), system, flow, lambda changed: _system(changed, ends, facts)
    )
    return close_the_gaps(found, wider, outlet_governs_by_m(system, flow))


def _running(
    chosen: Chosen | None,
    demand: Demand | None,
    system: SystemCurve | None,
    ledger: Ledger | None,
    facts: Facts,
    rules: Rules,
    legs: tuple[LegEntry, ...],
) -> Running | None:
    """The pump at work; None while there is none that runs."""
    if not (chosen and chosen.operating_point.point and demand and system and ledger):
        return None
    return Running(
        facts=facts,
        rules=rules,
        demand=demand,
        system=system,
        legs=legs,
        pump=chosen.candidate,
        curve=chosen.candidate.pump.curve,
        operating_point=chosen.operating_point,
        flow_m3s=ledger.flow_m3s,
        ledger=ledger,
    )


def _checks(kind: Kind, running: Running) -> tuple[Check, ...]:
    return (*kind.checks(running), *ground_checks(running), *range_check(running))


def _choose(
    job: JobDocument,
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
    found_point = operating_point(picked.pump.curve, system)
    if found_point.point:
        picked = replace(
            picked, flow_m3s=found_point.point.flow_m3s, head_m=found_point.point.head_m
        )
    return Chosen(picked, found_point, row is not None, picked.fits)


def _flow_at(chosen: Chosen | None, demand: Demand | None) -> float | None:
    """The flow at which heads are told: where the pump really runs, else the flow needed."""
    if chosen and chosen.operating_point.point:
        return chosen.operating_point.point.flow_m3s
    return None if demand is None else demand.needed_m3s
