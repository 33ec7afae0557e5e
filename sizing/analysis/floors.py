"""The pressure at each floor of a building, at the peak and with nobody drawing.

Where a reducing valve is wanted; the pump below beside a tank on the roof.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.analysis.changed import Known, NotYet
from sizing.base.rounding import at_least
from sizing.checks.booster import highest_rule
from sizing.checks.booster_control import at_rest_pa
from sizing.hydraulics.system_curve import Route, SystemCurve


@dataclass(frozen=True)
class FromRoof:
    """What a floor has from a tank on the roof by gravity alone; gauge pressures."""

    peak_pa: float
    still_pa: float
    too_high: bool
    too_low: bool


@dataclass(frozen=True)
class Floor:
    """One floor, its outlets at ``level_m``. Gauge pressures.

    The peak runs with the whole flow in the riser.
    """

    number: int
    level_m: float
    peak_pa: float
    still_pa: float
    wanted_pa: float
    too_high: bool
    too_low: bool
    from_roof: FromRoof


@dataclass(frozen=True)
class Floors:
    """All floors; ``worst`` has least to spare at the peak.

    ``roof_level_m`` is that of the water in the tank on the roof, ``boost_m`` the head that a pump
    up there must add for the floors that gravity leaves short (0 for none), and ``lift_m`` the
    climb that a pump below then has, against a main at its lowest.
    """

    floors: tuple[Floor, ...]
    most_pa: float
    most_rule: str
    worst: int
    flow_m3s: float
    roof_level_m: float
    boost_m: float
    lift_m: float


@dataclass(frozen=True)
class _Riser:
    """The leg that climbs most, and what is lost before, in and behind it at the peak [m]."""

    foot_m: float
    top_m: float
    before_m: float
    along_m: float
    behind_m: float

    def share_up(self, level_m: float) -> float:
        """Share of the riser that lies below a level."""
        if self.top_m == self.foot_m:
            return 1.0
        return min(max((level_m - self.foot_m) / (self.top_m - self.foot_m), 0.0), 1.0)


def floors(base: Known) -> Floors:
    """Pressures by floor for the chosen pump, and from a tank on the roof.

    The outlets of the floors stand a storey apart from the lowest one up. The leg that climbs most
    is the riser: its friction is spread by height, and what comes behind it (the branch) is lost on
    every floor. The highest branch's own end is the worst outlet of the job. From the roof the
    water comes down the same riser.

    Raises
    ------
    NotYet
        Not a building, or its floors are not told; no pump; its curve ends before the peak.
    """
    facts, system, running = base.sizing.facts, base.system, base.sizing.running
    if "floors" not in base.sizing.kind.dialogs:
        raise NotYet("only a building has floors")
    count = facts.optional("floors")
    if count is None:
        raise NotYet("give the number of floors and the height of a storey in The run")
    flow = base.demand.needed_m3s
    if not base.pump.covers(flow) or running is None:
        raise NotYet("the pump's curve ends before the peak: pick another")
    water, route = system.water, system.route
    start_m = route.start_level_m + water.head_m(route.supply_pressure_pa)
    riser = _riser(system, flow)
    rule = highest_rule(facts)
    most, wanted = base.rules.high(rule), route.delivery_pressure_pa
    levels = _levels(base, round(count))
    roof = facts.optional("roof_tank")
    roof_m = levels[-1] + facts.si("storey") if roof is None else roof

    def floor(number: int, level_m: float) -> Floor:
        share = riser.share_up(level_m)
        lost = riser.before_m + share * riser.along_m + riser.behind_m
        peak = water.pressure_pa(start_m + base.pump.head_at(flow) - level_m - lost)
        still = at_rest_pa(running) - water.pressure_pa(level_m)
        down = (1.0 - share) * riser.along_m + riser.behind_m
        roof_peak = water.pressure_pa(roof_m - level_m - down)
        roof_still = water.pressure_pa(roof_m - level_m)
        return Floor(
            number=number,
            level_m=level_m,
            peak_pa=peak,
            still_pa=still,
            wanted_pa=wanted,
            too_high=still > most,
            too_low=not at_least(peak, wanted),
            from_roof=FromRoof(
                roof_peak, roof_still, roof_still > most, not at_least(roof_peak, wanted)
            ),
        )

    found = tuple(floor(number, level) for number, level in enumerate(levels))
    short_pa = max(wanted - one.from_roof.peak_pa for one in found)
    return Floors(
        floors=found,
        most_pa=most,
        most_rule=rule,
        worst=min(found, key=lambda one: one.peak_pa).number,
        flow_m3s=flow,
        roof_level_m=roof_m,
        boost_m=max(water.head_m(short_pa), 0.0),
        lift_m=roof_m - start_m,
    )


def _levels(base: Known, count: int) -> list[float]:
    """Level of the outlets of each floor [m]; the worst one's stands where the run says."""
    facts = base.sizing.facts
    levels = [facts.si("lowest_outlet") + number * facts.si("storey") for number in range(count)]
    levels[-1] = max(levels[-1], base.system.route.legs[-1].end_elevation_m)
    return levels


def _riser(system: SystemCurve, flow_m3s: float) -> _Riser:
    route = system.route
    begins = _begins(route)
    riser = max(
        range(route.suction_legs, len(route.legs)),
        key=lambda at: abs(route.legs[at].end_elevation_m - begins[at]),
    )
    pipe, fittings = system.losses_m(flow_m3s)
    losses = (pipe + fittings + system.device_losses_m(flow_m3s))[:, 0]
    return _Riser(
        foot_m=begins[riser],
        top_m=route.legs[riser].end_elevation_m,
        before_m=float(losses[:riser].sum()),
        along_m=float(losses[riser]),
        behind_m=float(losses[riser + 1 :].sum()),
    )


def _begins(route: Route) -> list[float]:
    """Level at which each leg begins [m]: the pump's after the suction."""
    return [
        0.0 if at in (0, route.suction_legs) else route.legs[at - 1].end_elevation_m
        for at in range(len(route.legs))
    ]
