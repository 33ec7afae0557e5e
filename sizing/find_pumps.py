"""The pumps for a job: what is asked of them, those that match, the surest first."""

from __future__ import annotations

from dataclasses import replace

from sizing.base.errors import SizingError
from sizing.base.rules import Rules
from sizing.checks.base import Site
from sizing.checks.gathering import Gathering
from sizing.demand.method import Demand
from sizing.document.answers import Facts
from sizing.document.build_route import Ends, legs_in_use, system_curve
from sizing.document.job import JobDocument
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.kinds.base import Kind
from sizing.kinds.common_questions import liquid_of
from sizing.pump.catalogue import Catalogue
from sizing.selection.chance import met_by, sampler, sure_of_it
from sizing.selection.limit import LeastFlow, MotorLoad
from sizing.selection.match import Candidate, Match, candidate, match
from sizing.selection.near_miss import close_the_gaps, outlet_governs_by_m, wider_pipes
from sizing.selection.requirement import FamilyIn, StillMade
from sizing.selection.sweep import Wanted
from sizing.selection.uncertainty import doubts

_MOST_CHANCES = 8  # fits whose chance is worked out: more than are shown at once
_MOST_BY_THE_DAY = 4  # where each sample is a whole year of days


def wanted_of(
    gathering: Gathering, kind: Kind, facts: Facts, demand: Demand | None, site: Site | None
) -> Wanted | None:
    """What the job asks of a pump, with the musts of a pump at work where the site is known."""
    if demand is None:
        return None
    wanted = gathering.find("what a pump must be", lambda: kind.wanted(facts, demand, facts.rules))
    if wanted is None or site is None:
        return wanted
    limits = gathering.find("what a pump must bear", lambda: kind.limits(site))
    return None if limits is None else replace(wanted, limits=limits)


def asked_by(kind: Kind, job: JobDocument, rules: Rules) -> tuple[Site, Wanted]:
    """The site of a job and what it asks of a pump, with all limits.

    Raises
    ------
    SizingError
        It lacks something, or a figure cannot be.
    """
    facts = Facts(job, kind.questions, kind.lists, rules)
    demand = kind.demand(facts, rules, only_taken=True)
    system = system_of(job, kind.ends(facts, rules), facts)
    site = Site(job, facts, rules, demand, system, legs_in_use(job))
    return site, replace(kind.wanted(facts, demand, rules), limits=kind.limits(site))


def found_for(
    gathering: Gathering, kind: Kind, site: Site, wanted: Wanted, ends: Ends, catalogue: Catalogue
) -> Match | None:
    """The pumps that match, with what would cure the near misses, the surest first."""
    found = gathering.find(
        "the matching pumps", lambda: match(catalogue, site.system, wanted, site.rules)
    )
    if found is None:
        return None
    cured = gathering.part(
        "what would make a near miss fit",
        lambda: _with_cures(kind, site, found, wanted, ends, catalogue),
        found,
    )
    return gathering.part(
        "how sure a pump is of its flow",
        lambda: _surest_first(kind, site, wanted, cured),
        cured,
    )


def told_head_m(job: JobDocument, facts: Facts) -> float | None:
    """A head that was told while no leg is begun; None where there is a run, or none was told."""
    begun = any(leg.length is not None or leg.ends_at is not None or leg.survey for leg in job.legs)
    if begun or not facts.asks("rough_head"):
        return None
    return facts.optional("rough_head")


def match_roughly(
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
        limits=(LeastFlow(rules), MotorLoad(liquid.density_kg_m3, rules, facts.altitude_m)),
        life_years=rules.value("CHO-07"),
        discount_rate=rules.value("CHO-10"),
        quiet=kind.quiet,
    )
    return match(catalogue, flat, wanted, rules)


def _surest_first(kind: Kind, site: Site, wanted: Wanted, found: Match) -> Match:
    """The match with the chance of the first of its fits, those that are sure enough first.

    Where none fits, with that of the nearest, when it lacks a little flow: how near tells whether
    measuring again is worth it.
    """
    near = found.nearest and next(
        (one for one in found.near_misses if one.pump is found.nearest.pump), None
    )
    if not found.fits and (near is None or near.surplus >= 0):
        return found
    job, rules = site.job, site.rules

    def moved(changed: JobDocument) -> tuple[SystemCurve, float] | None:
        facts = Facts(changed, kind.questions, kind.lists, rules)
        try:
            system = system_of(changed, kind.ends(facts, rules), facts)
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
    if not first and near is not None:
        first = (near,)
    _, _, met = met_by(wanted, drawn, [one.pump.curve for one in first])
    sure = [
        replace(one, chance=float(share), reasons=(*one.reasons, sure_of_it(float(share))))
        for one, share in zip(first, met.mean(axis=1), strict=True)
    ]
    if found.nearest is not None:
        misses = tuple(sure[0] if one is near else one for one in found.near_misses)
        nearest = replace(found.nearest, chance=sure[0].chance)
        return replace(found, near_misses=misses, nearest=nearest)
    least = rules.value("CHO-16")
    in_order = sorted(sure, key=lambda one: (one.chance or 0.0) < least)
    return replace(found, fits=(*in_order, *rest))


def system_of(job: JobDocument, ends: Ends, facts: Facts) -> SystemCurve:
    """The system curve of a job between its ends."""
    return system_curve(job, ends, liquid_of(facts))


def _with_cures(
    kind: Kind, site: Site, found: Match, wanted: Wanted, ends: Ends, catalogue: Catalogue
) -> Match:
    """The match with what would make each near miss do."""
    if not found.near_misses:
        return found
    job, system, facts, flow = site.job, site.system, site.facts, wanted.flow_m3s

    def does(near: Candidate, changed: JobDocument) -> bool:
        try:
            there, asked = asked_by(kind, changed, site.rules)
        except SizingError:
            return False
        return candidate(catalogue, there.system, asked, site.rules, near.row).fits

    wider = wider_pipes(
        job, legs_in_use(job), system, flow, lambda changed: system_of(changed, ends, facts)
    )
    return close_the_gaps(found, wider, outlet_governs_by_m(system, flow), does)
