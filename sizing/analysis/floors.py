"""The pressure at each floor of a building, at the peak and with nobody drawing.

Where a reducing valve is wanted.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.analysis.changed import Known, NotYet


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


@dataclass(frozen=True)
class Floors:
    floors: tuple[Floor, ...]
    most_pa: float
    worst: int  # number of the floor with least to spare at the peak
    flow_m3s: float


def floors(base: Known) -> Floors:
    """Pressures by floor for the chosen pump, whether it stands below or on the roof.

    The outlets of the floors stand a storey apart from the lowest one up. The leg that climbs most
    is the riser: its friction is spread by height, and what comes behind it (the branch) is lost on
    every floor. The highest branch's own end is the worst outlet of the job.

    Raises
    ------
    NotYet
        Not a building, or its floors are not told; no pump; its curve ends before the peak.
    """
    facts, system, rules = base.sizing.facts, base.system, base.rules
    if "floors" not in base.sizing.kind.dialogs:
        raise NotYet("only a building has floors")
    count = facts.optional("floors")
    if count is None:
        raise NotYet("give the number of floors and the height of a storey in The run")
    flow = base.demand.needed_m3s
    if not base.pump.covers(flow):
        raise NotYet("the pump's curve ends before the peak: pick another")
    legs, water = system.route.legs, system.water
    start_m = system.route.start_level_m + water.head_m(system.route.supply_pressure_pa)
    begins = [
        0.0 if at == system.route.suction_legs else legs[at - 1].end_elevation_m if at else 0.0
        for at in range(len(legs))
    ]
    riser = max(
        range(system.route.suction_legs, len(legs)),
        key=lambda at: abs(legs[at].end_elevation_m - begins[at]),
    )
    pipe, fittings = system.losses_m(flow)
    losses = (pipe + fittings + system.device_losses_m(flow))[:, 0]
    before, along, behind = (
        float(losses[:riser].sum()),
        float(losses[riser]),
        float(losses[riser + 1 :].sum()),
    )
    foot, top = begins[riser], legs[riser].end_elevation_m
    wanted = system.route.delivery_pressure_pa
    most = rules.high("BST-07")
    found = []
    for number in range(round(count)):
        level = facts.si("lowest_outlet") + number * facts.si("storey")
        share = min(max((level - foot) / (top - foot), 0.0), 1.0) if top != foot else 1.0
        peak = water.pressure_pa(
            start_m + base.pump.head_at(flow) - level - before - share * along - behind
        )
        still = water.pressure_pa(start_m + base.pump.shut_off_head_m - level)
        found.append(
            Floor(
                number=number,
                level_m=level,
                peak_pa=peak,
                still_pa=still,
                wanted_pa=wanted,
                too_high=still > most,
                too_low=peak < 0.999 * wanted,
            )
        )
    worst = min(found, key=lambda floor: floor.peak_pa)
    return Floors(tuple(found), most, worst.number, flow)
