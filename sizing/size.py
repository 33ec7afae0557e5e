"""The whole calculation, readable on one page: a job document in, everything about it out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TypeVar

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.base.rules import SHIPPED, Rules
from sizing.checks.base import Check, Running, Site
from sizing.checks.ground import ground_checks
from sizing.checks.method_range import range_check
from sizing.checks.motor import motor_check
from sizing.checks.pressure import pressure_check
from sizing.checks.velocity import velocities
from sizing.demand.method import Demand
from sizing.document.answers import Facts, MissingFact, WrongFact
from sizing.document.build_route import Ends, lacking, left_out, legs_in_use, system_curve
from sizing.document.job import JobDocument, LegEntry
from sizing.document.own_pumps import with_own_pumps
from sizing.hydraulics.system_curve import Ledger, Leg, Route, SystemCurve
from sizing.kinds import kind as find_kind
from sizing.kinds.asking import liquid_of
from sizing.kinds.base import Kind, Place
from sizing.operating_point.one import OperatingPoint, operating_point
from sizing.operating_point.outlets import held
from sizing.pump.catalogue import Catalogue
from sizing.results.head_breakdown import HeadBreakdown, head_breakdown
from sizing.scenarios import kept_checks
from sizing.selection.chance import met_by, sampler, sure_of_it
from sizing.selection.limit import LeastFlow, MotorLoad
from sizing.selection.match import Candidate, Match, candidate, match
from sizing.selection.near_miss import close_the_gaps, outlet_governs_by_m, wider_pipes
from sizing.selection.requirement import FamilyIn, StillMade
from sizing.selection.sweep import Wanted
from sizing.selection.uncertainty import doubts

T = TypeVar("T")
_MOST_CHANCES = 8  # fits whose chance is worked out: more than are shown at once
_MOST_BY_THE_DAY = 4  # where each sample is a whole year of days
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


class _Gathering:
    """Runs the parts one by one; what one part lacks is noted and the rest goes on."""

    def __init__(self) -> None:
        self.missing: dict[str, MissingFact] = {}
        self.problems: list[str] = []
        self.wrong: dict[str, WrongFact] = {}

    def tell_all_missing(self, job: JobDocument, facts: Facts, *, closed_loop: bool) -> None:
        """What legs and questions lack is told at once, not one after the other."""
        for blank in (*lacking(job, closed_loop=closed_loop), *left_out(job)):
            self.missing.setdefault(blank.path, blank)
        if self.missing:
            for fact in facts.required():
                self.missing.setdefault(fact.path, fact)

    def part(self, work: Callable[[], T]) -> T | None:
        """The part's result, or None when it lacks something."""
        try:
            return work()
        except MissingFact as missing:
            self.missing.setdefault(missing.path, missing)
        except WrongFact as wrong:
            self.wrong.setdefault(wrong.path, wrong)
            self.problems.append(str(wrong))
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
    facts = Facts(job, kind.questions, kind.lists, rules)
    gathering = _Gathering()
    demand = gathering.part(lambda: kind.demand(facts, rules))
    mark = facts.mark
    ends = gathering.part(lambda: kind.ends(facts, rules))
    at_ends = facts.noted(mark)
    system = None if ends is None else gathering.part(lambda: _system(job, ends, facts))
    place = gathering.part(lambda: kind.place(facts, rules))
    gathering.tell_all_missing(job, facts, closed_loop=kind.closed_loop)
    wanted = None if demand is None else gathering.part(lambda: kind.wanted(facts, demand, rules))
    legs = legs_in_use(job)
    site = None
    if demand is not None and system is not None:
        site = Site(job, facts, rules, demand, system, legs)
    if site is not None and wanted is not None:
        limits = gathering.part(lambda: kind.limits(site))
        wanted = None if limits is None else replace(wanted, limits=limits)
    catalogue = on_site(catalogue, job, kind, facts)
    found = None
    if system is not None and wanted is not None:
        found = gathering.part(lambda: match(catalogue, system, wanted, rules))
    if found and system and wanted and ends:
        found = _with_cures(job, found, system, wanted, ends, facts)
    if found and site is not None and wanted is not None:
        found = _surest_first(kind, site, wanted, found)
    rough = _rough_head_m(job, facts) if system is None else None
    if rough is not None and demand is not None:
        found = gathering.part(lambda: _match_roughly(kind, facts, demand, rough, catalogue))
    if job.pump is not None and catalogue.find(job.pump) is None:
        gathering.problems.append(_PUMP_GONE)
    unneeded = None if site is None else _no_pump_needed(site)
    chosen = _choose(job, catalogue, system, wanted, found, rules, unneeded is not None)
    flow = _flow_at(chosen, demand)
    ledger = None if system is None or flow is None else system.ledger(flow)
    running = None if site is None else _running(kind, site, chosen, ledger, catalogue)
    checks = None
    if site is not None:
        checks = gathering.part(lambda: _checks(kind, site, running))
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
        wrong=tuple(gathering.wrong.values()),
        rough_head_m=None if found is None else rough,
        no_pump_needed=unneeded,
    )


def _rough_head_m(job: JobDocument, facts: Facts) -> float | None:
    """A head that was told while no leg is begun; None where there is a run, or none was told."""
    begun = any(leg.length is not None or leg.ends_at is not None or leg.survey for leg in job.legs)
    if begun or not facts.asks("rough_head"):
        return None
    return facts.optional("rough_head")


def _match_roughly(
    kind: Kind, facts: Facts, demand: Demand, head_m: float, catalogue: Catalogue
) -> Match:
    """The pumps that give the flow at a head, whatever makes it up; of the right family and supply.

    Where the head splits into lift and friction is not known, so it counts the same at every flow.
    """
    liquid, rules = liquid_of(facts), facts.rules
    nothing = Leg(
        inside_diameter_m=1.0, length_m=0.0, roughness_m=0.0, k_sum=0.0, end_elevation_m=0.0
    )
    route = Route((nothing,), 0.0, delivery_pressure_pa=liquid.pressure_pa(head_m))
    flat = SystemCurve(route, liquid)
    wanted = Wanted(
        flow_m3s=demand.needed_m3s,
        requirements=(
            FamilyIn(kind.families(facts)),
            StillMade(),
            *kind.electrical(facts, rules),
        ),
        limits=(LeastFlow(rules), MotorLoad(liquid.density_kg_m3, rules)),
        life_years=rules.value("CHO-07"),
        discount_rate=rules.value("CHO-10"),
        quiet=kind.quiet,
    )
    return match(catalogue, flat, wanted, rules)


def _surest_first(kind: Kind, site: Site, wanted: Wanted, found: Match) -> Match:
    """The match with the chance of the first of its fits, those that are sure enough first."""
    if not found.fits:
        return found
    job, rules = site.job, site.rules

    def moved(changed: JobDocument) -> tuple[SystemCurve, float] | None:
        facts = Facts(changed, kind.questions, kind.lists, rules)
        try:
            system = _system(changed, kind.ends(facts, rules), facts)
            return system, kind.demand(facts, rules, only_taken=True).needed_m3s
        except SizingError:
            return None

    figures = doubts(
        job, site.facts, site.legs, kind.questions, rules, closed_loop=kind.closed_loop
    )
    drawn = sampler(
        site.system, wanted.flow_m3s, site.legs, job, figures, moved, rules.value("TRU-09")
    )
    most = _MOST_CHANCES if wanted.served is None else _MOST_BY_THE_DAY
    first, rest = found.fits[:most], found.fits[most:]
    _, _, met = met_by(wanted, drawn, [one.pump.curve for one in first])
    sure = [
        replace(one, chance=float(share), reasons=(*one.reasons, sure_of_it(float(share))))
        for one, share in zip(first, met.mean(axis=1), strict=True)
    ]
    least = rules.value("CHO-16")
    in_order = sorted(sure, key=lambda one: (one.chance or 0.0) < least)
    return replace(found, fits=(*in_order, *rest))


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


def _system(job: JobDocument, ends: Ends, facts: Facts) -> SystemCurve:
    return system_curve(job, ends, liquid_of(facts))


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


def _checks(kind: Kind, site: Site, running: Running | None) -> tuple[Check, ...]:
    """What must and should hold: of the site, seen without a pump too, then of the pump at work."""
    flow = site.demand.needed_m3s if running is None else running.flow_m3s
    of_the_site = (*kind.site_checks(site), *velocities(site, flow, kind.speeds_of(site.facts)))
    if running is None:
        return of_the_site
    return (
        *kind.checks(running),
        *kept_checks(kind, running),
        *of_the_site,
        *motor_check(running),
        *pressure_check(running),
        *ground_checks(running),
        *range_check(running),
    )


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
