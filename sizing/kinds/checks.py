"""What must hold for a pump on any kind of job.

Its flow, its place on the curve, its reserve, the speed in the pipes, its suction.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from sizing.kinds.base import Check, CheckState, Running
from sizing.pipework import friction
from sizing.pipework.friction import Array
from sizing.pipework.route import SystemCurve
from sizing.power import energy_of_year
from sizing.said import Measure, Said, Working, said
from sizing.suction import suction


def state(holds: bool, nearly: bool = False) -> CheckState:
    """The state of a check that holds, nearly does, or fails."""
    return "hold" if holds else "watch" if nearly else "fail"


def pump_checks(running: Running) -> list[Check]:
    """The pump itself: enough flow, in the middle of its curve, with reserve."""
    return [_flow(running), _place_on_curve(running), _reserve(running)]


def _flow(running: Running) -> Check:
    needed, flow = running.demand.needed_m3s, running.flow_m3s
    return Check(
        "flow",
        "Enough flow",
        state(flow >= needed, flow >= min(running.demand.inflow_m3s, needed)),
        said(
            "It moves {flow}; {needed} is needed.",
            flow=Measure(flow, "flow"),
            needed=Measure(needed, "flow"),
        ),
        "Take a stronger pump, a wider pipe or a lower outlet.",
    )


def _place_on_curve(running: Running) -> Check:
    share, low, high = (
        running.pump.share_of_best_flow,
        running.rules.low("HI-01"),
        running.rules.high("HI-01"),
    )
    return Check(
        "on_curve",
        "In the middle of its curve",
        state(low <= share <= high, low * 0.6 <= share <= high * 1.15),
        said(
            "It runs at {share} of its best flow; {low} to {high} is kind to it (rule HI-01).",
            share=Measure(share, "ratio"),
            low=Measure(low, "ratio"),
            high=Measure(high, "ratio"),
        ),
        "A pump at the edge of its curve wears, heats up or shakes: take one whose best flow is"
        " nearer.",
    )


def _reserve(running: Running) -> Check:
    margin, static = running.pump.shutoff_margin_m, running.system.static_head_m
    wanted = running.rules.value("CHO-03") * abs(static)
    return Check(
        "reserve",
        "Reserve at shut-off",
        state(margin >= wanted, margin > 0),
        said(
            "With no flow it could push {margin} higher than it has to; at least {wanted} is wanted"
            " (rule CHO-03).",
            margin=Measure(margin, "length"),
            wanted=Measure(wanted, "length"),
        ),
        "Take a pump with more head at shut-off: a small error in the levels would stop this one.",
    )


def velocities(
    running: Running, slowest: str, fastest: str, why: str, *, suction_fastest: str = ""
) -> Iterator[Check]:
    """The speed in every leg against two rules by id ('' for no slowest).

    Suction legs against one of their own, where it is named.
    """
    speeds = running.system.velocities_m_s(running.flow_m3s)[:, 0]
    for index, leg in enumerate(running.legs):
        fast = suction_fastest if suction_fastest and leg.side == "suction" else fastest
        low = running.rules.low(slowest) if slowest else 0.0
        yield _velocity(
            running,
            index,
            speeds,
            low,
            running.rules.high(fast),
            sorted({slowest, fast} - {""}),
            why,
        )


def _velocity(
    running: Running, index: int, speeds: Array, low: float, high: float, rules: list[str], why: str
) -> Check:
    leg, speed, bore_m = (
        running.legs[index],
        float(speeds[index]),
        running.system.route.legs[index].inside_diameter_m,
    )
    remedy = (
        "Take a narrower pipe: slow water lets things settle."
        if speed < low
        else "Take a wider pipe: fast water costs head, hammers and wears."
    )
    share = running.system.route.legs[index].pipe_share
    return Check(
        f"velocity_{leg.id}",
        f"Speed in the {leg.name or f'leg {index + 1}'}",
        state(low <= speed <= high, speed < low or speed <= 1.25 * high),
        said(
            "{speed}; " + ("{low} to {high} " if low else "up to {high} ") + why + " ({rules}).",
            speed=Measure(speed, "velocity"),
            low=Measure(low, "velocity"),
            high=Measure(high, "velocity"),
            rules=f"rule{'s' if len(rules) > 1 else ''} {' and '.join(rules)}",
        ),
        remedy,
        Working(
            "Speed",
            "v = flow / (π d² / 4)",
            (
                ("flow in the pipe", Measure(running.flow_m3s * share, "flow")),
                ("bore", Measure(bore_m, "bore")),
            ),
            Measure(speed, "velocity"),
            "continuity",
        ),
        (low, high),
    )


def suction_check(running: Running, pump_level_m: float, altitude_m: float) -> Check:
    """Whether the water reaches the pump without boiling.

    NPSH available against what the pump wants.
    """
    route, system = running.system.route, running.system
    loss = system.suction_loss_m(running.flow_m3s)
    required = running.curve.npsh_required_at(running.flow_m3s)
    found = suction(
        water=system.water,
        altitude_m=altitude_m,
        level_above_pump_m=route.start_level_m - pump_level_m,
        suction_loss_m=loss,
        surface_pressure_pa=route.supply_pressure_pa,
        npsh_required_m=required,
        wanted_margin_m=running.rules.value("NPSH-03"),
    )
    available, wanted = (
        Measure(found.npsh_available_m, "length"),
        Measure(running.rules.value("NPSH-03"), "length"),
    )
    working = Working(
        "NPSH available",
        "air − vapour + pressure + level − loss",
        (
            ("air", Measure(found.atmospheric_head_m, "length")),
            ("vapour", Measure(found.vapour_head_m, "length")),
            (
                "pressure at the start",
                Measure(system.water.head_m(route.supply_pressure_pa), "length"),
            ),
            ("water over the pump", Measure(route.start_level_m - pump_level_m, "length")),
            ("suction loss", Measure(loss, "length")),
        ),
        available,
        "HI 9.6.1",
    )
    if required is None or found.npsh_margin_m is None:
        text = said(
            "{available} is there; the maker does not say what the pump wants. Ask for its NPSH.",
            available=available,
        )
        return Check(
            "suction",
            "Suction",
            state(False, found.npsh_available_m > 0),
            text,
            "Without the maker's figure, keep the pump below the water.",
            working,
        )
    return Check(
        "suction",
        "Suction",
        state(found.npsh_margin_m >= running.rules.value("NPSH-03"), found.npsh_margin_m > 0),
        said(
            "The water has {available} left where the pump wants {required}: {margin} to spare;"
            " {wanted} is wanted (rule NPSH-03).",
            available=available,
            required=Measure(required, "length"),
            margin=Measure(found.npsh_margin_m, "length"),
            wanted=wanted,
        ),
        "Set the pump lower, widen or shorten the suction, or take a pump that wants less.",
        working,
    )


def year_check(running: Running) -> Check:
    """What a pump that runs for most of the year costs beside its price."""
    facts, power, pump = running.facts, running.pump.power_w, running.pump.pump
    label = "Electricity of a year"
    if power is None:
        return Check(
            "year",
            label,
            "watch",
            said("The maker gives no input power: the year's electricity is not known."),
            "Ask for the power at this flow.",
        )
    found = energy_of_year(power, facts.si("hours_per_year"), facts.si("energy_price"))
    text = said(
        "It takes {power} for {hours} a year: {energy}, which costs {cost}"
        + (" beside its price of {price}." if pump.price else "."),
        power=Measure(power, "power"),
        hours=Measure(facts.si("hours_per_year"), "time"),
        energy=Measure(found.energy_j, "energy"),
        cost=f"{found.cost:,.0f}",
        price=f"{pump.price or 0:,.0f}",
    )
    dear = pump.price is not None and found.cost > pump.price
    remedy = (
        "A wider pipe or an adjustable pump pays for itself: each metre of head saved is saved year"
        " after year."
    )
    return Check("year", label, "watch" if dear else "hold", text, remedy)


_SUMMIT_RISES_M = (
    0.5  # ground that rises by less before it falls again gathers no air worth a valve
)


def ground_checks(running: Running) -> Iterator[Check]:
    """What the surveyed ground of a leg means.

    Which point governs, where air gathers, and where the pipe runs part full.
    """
    for index, leg in enumerate(running.system.route.legs):
        if leg.tops:
            yield _ground(running, index)


def _ground(running: Running, index: int) -> Check:
    route, ledger, entry = running.system.route, running.ledger, running.legs[index]
    leg = route.legs[index]
    begins = route.legs[index - 1].end_elevation_m if index else entry.survey[0].elevation_m
    ground = [
        (0.0, begins),
        *((top.share * leg.length_m, top.elevation_m) for top in leg.tops),
        (leg.length_m, leg.end_elevation_m),
    ]
    at, top = max(ground, key=lambda point: point[1])
    summits, dry = _summits(ground), _part_full_m(running, index, ground)
    parts = ["Its highest ground is {top}, {at} along."]
    values = {"top": Measure(top, "length"), "at": Measure(at, "length", 0)}
    if ledger.governing_leg == index and ledger.governing_share < 1:
        values["governs"] = Measure(ledger.governing_share * leg.length_m, "length", 0)
        parts.append(" The ground at {governs} governs the head.")
    if summits:
        values |= {
            f"summit{number}": Measure(along, "length", 0)
            for number, (along, _) in enumerate(summits)
        }
        parts.append(
            " Air gathers where it falls again: at"
            f" {', '.join(f'{{summit{number}}}' for number in range(len(summits)))}."
        )
    if dry:
        values["dry"] = Measure(dry, "length", 0)
        parts.append(
            " Behind the governing ground {dry} lies over its own grade line and runs part full."
        )
    remedy = "Set an air valve at each high point and look after it (rule RET-04)"
    remedy += (
        "; where it runs part full, hold it full by a valve at its end, or reckon with noise, air"
        " and odour."
        if dry
        else "."
    )
    return Check(
        f"ground_{entry.id}",
        f"Ground along the {entry.name or f'leg {index + 1}'}",
        "watch" if summits or dry else "hold",
        Said("".join(parts), values),
        remedy,
    )


def _summits(ground: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Points that the ground climbs to and falls from again, by enough for air to stay."""
    found: list[tuple[float, float]] = []
    low, high = ground[0][1], ground[0]
    for point in ground[1:]:
        if point[1] > high[1]:
            high = point
        if high[1] - low >= _SUMMIT_RISES_M and high[1] - point[1] >= _SUMMIT_RISES_M:
            found.append(high)
            low, high = point[1], point
        elif point[1] < low:
            low, high = point[1], point
    return found


def _part_full_m(running: Running, index: int, ground: list[tuple[float, float]]) -> float:
    """Length of a leg [m], behind the governing point, that lies over the grade line drawn back
    from the end.
    """
    system, ledger = running.system, running.ledger
    if index < ledger.governing_leg:
        return 0.0
    pipe, fittings = system.losses_m(running.flow_m3s)
    leg = system.route.legs[index]
    behind = float((pipe + fittings)[index + 1 :, 0].sum())
    end = (
        system.route.legs[-1].end_elevation_m
        + system.water.head_m(system.route.delivery_pressure_pa)
        + behind
    )
    begins = ledger.governing_share * leg.length_m if index == ledger.governing_leg else 0.0
    total = 0.0
    for (start, level), (stop, _) in pairwise(ground):
        grade = end + float(pipe[index, 0]) * (1.0 - start / leg.length_m)
        if stop > begins and level > grade + 1e-6:
            total += stop - max(start, begins)
    return total


def range_check(running: Running) -> Iterator[Check]:
    """Whether the school of friction in force holds for these pipes, water and speeds."""
    found = list(out_of_range(running.system, running.flow_m3s))
    if found:
        values: dict[str, Measure | str | int] = {
            f"{key}{number}": value
            for number, one in enumerate(found)
            for key, value in one.values.items()
        }
        parts = [
            one.template.format(**{key: f"{{{key}{number}}}" for key in one.values})
            for number, one in enumerate(found)
        ]
        label = friction.VALIDITY[running.system.route.method].label
        yield Check(
            "friction_range",
            f"Range of {label}",
            "watch",
            Said(f"{label} leaves its range: {'; '.join(parts)}.", values),
            "Reckon the friction by Darcy-Weisbach.",
        )


def out_of_range(system: SystemCurve, flow_m3s: float) -> Iterator[Said]:
    """Where a school leaves the range it was made for."""
    valid = friction.VALIDITY[system.route.method]
    low, high = valid.temperature_c
    if not low <= system.water.temperature_c <= high:
        yield said(
            "made for water of {low} to {high}",
            low=Measure(low, "temperature"),
            high=Measure(high, "temperature"),
        )
    speeds = system.velocities_m_s(flow_m3s)[:, 0]
    bores = [leg.inside_diameter_m for leg in system.route.legs]
    for values, bounds, dimension, words in (
        (
            bores,
            valid.inside_diameter_m,
            "bore",
            "made for bores of {low} to {high}; one here has {value}",
        ),
        (
            speeds,
            valid.velocity_m_s,
            "velocity",
            "made for {low} to {high}; one leg runs at {value}",
        ),
    ):
        outside = [float(value) for value in values if not bounds[0] <= value <= bounds[1]]
        if outside:
            yield said(
                words,
                low=Measure(bounds[0], dimension),
                high=Measure(bounds[1], dimension),
                value=Measure(outside[0], dimension),
            )
