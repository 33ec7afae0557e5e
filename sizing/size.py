"""The whole calculation, readable on one page: a job document in, everything about it out."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import partial

from sizing.base.failure import Failure
from sizing.base.message import Measure, Message, message
from sizing.base.rules import SHIPPED, Rules
from sizing.checks.base import Check, Running, Site
from sizing.checks.frost import frost_check
from sizing.checks.gathering import Gathering
from sizing.checks.ground import ground_checks
from sizing.checks.line import air_lock_check, own_suction_check
from sizing.checks.materials import materials_check
from sizing.checks.method_range import range_check
from sizing.checks.motor import motor_check
from sizing.checks.pit import holds_back
from sizing.checks.pressure import pressure_check
from sizing.checks.pump_curve import strength_check
from sizing.checks.standby import standby_check
from sizing.checks.surge import siphon_check, surge_checks
from sizing.checks.velocity import velocities
from sizing.demand.method import Demand
from sizing.document.answers import Fact, Facts, MissingFact, WrongFact
from sizing.document.build_route import legs_in_use
from sizing.document.job import JobDocument, LegEntry
from sizing.document.own_pumps import with_own_pumps
from sizing.find_pumps import (
    found_for,
    match_roughly,
    system_of,
    told_head_m,
    wanted_of,
)
from sizing.head_breakdown import HeadBreakdown, head_breakdown
from sizing.hydraulics.system_curve import Ledger, SystemCurve
from sizing.kinds import kind as find_kind
from sizing.kinds.base import Kind, Place
from sizing.operating_point.one import OperatingPoint, operating_point
from sizing.operating_point.outlets import held
from sizing.over_time.scenarios import kept_checks
from sizing.pump.catalogue import Catalogue
from sizing.selection.match import Candidate, Match, candidate
from sizing.selection.sweep import Wanted

_PUMP_GONE = (
    "the pump that was picked is not in the catalogue any more: pick another, or let the rules pick"
)


@dataclass(frozen=True)
class Chosen:
    """The pump on the job: picked by a person, the first of those that fit, or the best try."""

    candidate: Candidate
    operating_point: OperatingPoint
    by_person: bool
    fits: bool

    @property
    def asks(self) -> bool:
        """Whether a person picked it and only its maker's word is wanting for it to fit."""
        return self.by_person and not self.fits and self.candidate.might_do


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
    wrong: tuple[WrongFact, ...] = ()
    rough_head_m: float | None = None  # told instead of a run: what matches is only rough
    no_pump_needed: Message | None = None
    failures: tuple[Failure, ...] = ()  # parts that broke; the rest stands
    decisive: tuple[str, ...] = ()  # levels, lengths and flow that are merely assumed

    @property
    def site_faults(self) -> tuple[Check, ...]:
        """What the site does that no pump would live with."""
        return tuple(one for one in self.checks if one.fatal and one.about == "site")

    @property
    def needed_head_m(self) -> float | None:
        """The head that the site asks for at the flow needed; None while either is not known."""
        if self.demand is None or self.system is None:
            return None
        return max(self.system.head_at(self.demand.needed_m3s), 0.0)

    @property
    def recommended(self) -> Candidate | None:
        """What the rules would take; None where nothing may be recommended on what is known."""
        if self.match is None or self.problems or self.site_faults or self.no_pump_needed:
            return None
        if self.rough_head_m is not None:  # nothing is proved
            return None
        return next(iter(self.match.fits), None)


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
    facts = Facts(job, kind.questions, kind.lists, rules)
    gathering = Gathering()
    demand = gathering.find("the flow", lambda: kind.demand(facts, rules))
    mark = facts.mark
    ends = gathering.find("the ends of the pipe", lambda: kind.ends(facts, rules))
    at_ends = facts.noted(mark)
    system = None
    if ends is not None:
        system = gathering.find("the system curve", lambda: system_of(job, ends, facts))
    place = gathering.find("the place of the pump", lambda: kind.place(facts, rules))
    gathering.part(
        "what is still needed",
        lambda: gathering.tell_all_missing(job, facts, closed_loop=kind.closed_loop),
        None,
    )
    legs = legs_in_use(job)
    site = None
    if demand is not None and system is not None:
        site = Site(job, facts, rules, demand, system, legs)
    wanted = wanted_of(gathering, kind, facts, demand, site)
    here = gathering.find("the pumps on this supply", lambda: on_site(catalogue, job, kind, facts))
    here = catalogue if here is None else here
    found, rough = None, None
    if site is not None and wanted is not None and ends is not None:
        found = found_for(gathering, kind, site, wanted, ends, here)
    if system is None:
        rough = gathering.find("a head that was told", lambda: told_head_m(job, facts))
    if rough is not None and demand is not None:
        found = gathering.find(
            "the matching pumps", lambda: match_roughly(kind, facts, demand, rough, here)
        )
    if job.pump is not None and here.find(job.pump) is None:
        gathering.problems.append(_PUMP_GONE)
    unneeded = None
    if site is not None:
        unneeded = gathering.find("whether a pump is needed", lambda: _no_pump_needed(site))
    chosen = gathering.find(
        "the pump's operating point",
        lambda: _choose(job, here, system, wanted, found, rules, unneeded is not None),
    )
    flow = _flow_at(chosen, demand)
    ledger = None
    if system is not None and flow is not None:
        ledger = gathering.find("the head", lambda: system.ledger(flow))
    running = None
    if site is not None:
        running = gathering.find(
            "the pump at work", lambda: _running(kind, site, chosen, ledger, here)
        )
    breakdown = None
    if ledger is not None and system is not None:
        breakdown = gathering.find(
            "the head breakdown", lambda: head_breakdown(legs, ledger, system, at_ends)
        )
    checks = () if site is None else _checks(gathering, kind, site, running)
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
        head_breakdown=breakdown,
        running=running,
        checks=checks,
        missing=tuple(gathering.missing.values()),
        problems=tuple(dict.fromkeys(gathering.problems)),
        wrong=tuple(gathering.wrong.values()),
        rough_head_m=None if found is None else rough,
        no_pump_needed=unneeded,
        failures=tuple(gathering.failures),
        decisive=_merely_assumed(legs, at_ends),
    )


def _merely_assumed(legs: tuple[LegEntry, ...], at_ends: tuple[Fact, ...]) -> tuple[str, ...]:
    """Labels of what decides the duty and nobody has said: levels and lengths of the run."""
    found = [
        one.question.label
        for one in at_ends
        if one.provenance == "assumed" and one.question.dimension == "length"
    ]
    for leg in legs:
        for figure, what in ((leg.length, "length"), (leg.ends_at, "end")):
            if figure is not None and figure.provenance == "assumed":
                found.append(f"{what} of {leg.name}")
    return tuple(dict.fromkeys(found))


def _no_pump_needed(site: Site) -> Message | None:
    """Where the flow needed comes by itself: by the main's pressure, or downhill."""
    system, needed = site.system, site.demand.needed_m3s
    spare_m = -system.head_at(needed)
    if system.route.closed_loop or spare_m < 0:
        return None
    brings = "the main alone" if system.route.supply_pressure_pa > 0 else "the fall alone"
    return message(
        "No pump is needed: " + brings + " brings {flow}, with {spare} of head to spare.",
        flow=Measure(needed, "flow"),
        spare=Measure(spare_m, "length"),
    )


def on_site(catalogue: Catalogue, job: JobDocument, kind: Kind, facts: Facts) -> Catalogue:
    """The catalogue as it runs on a site: on the mains there are, so many of each together.

    The job's own pumps stand behind it. Whoever asks for single pumps asks this one, or they would
    run otherwise than on the sheet; :func:`size` makes it itself.
    """
    supply_hz = kind.supply_hz(facts)
    if job.own_pumps:
        volts = facts.optional("voltage") if facts.asks("voltage") else None
        phases = int(facts.choice("phases")) if facts.asks("phases") else None
        catalogue = with_own_pumps(catalogue, job, volts, phases)
    here = catalogue if supply_hz is None else catalogue.at_mains(supply_hz)
    return here.arranged(job.arrangement, job.running_pumps, job.standby)


def _running(
    kind: Kind, site: Site, chosen: Chosen | None, ledger: Ledger | None, catalogue: Catalogue
) -> Running | None:
    """The pump at work; None while there is none that runs."""
    if not (chosen and chosen.operating_point.point and ledger):
        return None
    return Running(
        job=site.job,
        facts=site.facts,
        rules=site.rules,
        demand=site.demand,
        system=site.system,
        legs=site.legs,
        pump=chosen.candidate,
        curve=chosen.candidate.pump.curve,
        operating_point=chosen.operating_point,
        flow_m3s=ledger.flow_m3s,
        ledger=ledger,
        bought=catalogue.bought,
        running=catalogue.running,
        starts_higher_by_m=kind.starts_higher_by_m(site.facts),
    )


def _all(make: Callable[[], Iterable[Check]]) -> tuple[Check, ...]:
    return tuple(make())


def _checks(
    gathering: Gathering, kind: Kind, site: Site, running: Running | None
) -> tuple[Check, ...]:
    """What must and should hold: of the site, seen without a pump too, then of the pump at work."""
    flow = site.demand.needed_m3s if running is None else running.flow_m3s
    groups: list[tuple[str, Callable[[], Iterable[Check]]]] = []
    if running is not None:
        groups += [
            ("the checks of the pump", lambda: kind.checks(running)),
            ("what is run over time", lambda: kept_checks(kind, running)),
        ]
    groups += [
        ("the checks of the site", lambda: kind.site_checks(site)),
        ("the suction pipe", lambda: (*air_lock_check(site), *own_suction_check(site))),
        ("the standby pump", lambda: standby_check(site, kind.cannot_be_without(site.facts))),
        ("the frost", lambda: frost_check(site, drains_back=not holds_back(site))),
        ("the siphon", lambda: () if kind.held_by_outlets else siphon_check(site)),
        ("the velocities", lambda: velocities(site, flow, kind.speeds_of(site.facts))),
    ]
    if running is not None:
        groups += [
            ("the materials", lambda: materials_check(running, kind.waters(site.facts))),
            ("the strength of the pump", lambda: strength_check(running)),
            ("the motor load", lambda: motor_check(running)),
            ("the surge", lambda: surge_checks(running)),
            ("the pressure rating", lambda: pressure_check(running)),
            ("the ground", lambda: ground_checks(running)),
            ("the range of the formula", lambda: range_check(running)),
        ]
    found: list[Check] = []
    for about, make in groups:
        found += gathering.find(about, partial(_all, make)) or ()
    return gathering.judged(tuple(found))


def _choose(
    job: JobDocument,
    catalogue: Catalogue,
    system: SystemCurve | None,
    wanted: Wanted | None,
    found: Match | None,
    rules: Rules,
    unneeded: bool,
) -> Chosen | None:
    """The pump that a person picked, else the first that fits, else the best try.

    Its duty is solved exactly.
    """
    if system is None or wanted is None or found is None:
        return None
    row = None if job.pump is None else catalogue.find(job.pump)
    if row is not None:
        picked = candidate(catalogue, system, wanted, rules, row)
        listed = found.find(picked.pump.pump_id)
        picked = replace(picked, chance=listed.chance if listed else None)
    elif unneeded:
        return None
    elif found.fits:
        picked = found.fits[0]
    elif found.nearest:
        picked = found.nearest
    else:
        return None
    found_point = operating_point(picked.pump.curve, system)
    if wanted.held_by_outlets:
        found_point = held(found_point, picked.pump.curve, system, wanted.flow_m3s)
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
