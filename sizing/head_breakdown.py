"""The head tape: the ledger in words, its shown figures rounded so that they add up as shown."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from sizing.base import units
from sizing.base.message import Measure, Working
from sizing.base.units import System
from sizing.document.answers import Fact, stands_on
from sizing.document.build_route import leg_name, length_label, pipes_label, share
from sizing.document.job import PROVENANCE_WORDS, LegEntry
from sizing.hydraulics import fittings, friction
from sizing.hydraulics.system_curve import Ledger, LedgerLine, Leg, SystemCurve


@dataclass(frozen=True)
class BreakdownLine:
    """A line of the tape; ``leg_id`` ties it to the leg's row and its piece of the picture."""

    code: str
    label: str
    detail: str
    head_m: float
    counted: bool
    velocity: Measure | None
    leg_id: str
    working: Working


@dataclass(frozen=True)
class HeadBreakdown:
    flow_m3s: float
    lines: tuple[BreakdownLine, ...]
    total_head_m: float
    governing_leg: str

    def leg_loss_m(self, leg_id: str) -> float:
        """What one leg loses in pipe, fittings and items [m]."""
        return sum(
            line.head_m
            for line in self.lines
            if line.leg_id == leg_id and line.code in ("pipe", "fittings", "device")
        )

    def rounded(self, system: System) -> tuple[list[float], float]:
        """The lines' heads and the total in the shown unit, rounded.

        So that the shown lines add up to the shown total.
        """
        shown = units.shown("length", system)
        unit = units.unit(shown.unit, "length")
        values = round_to_sum(
            [unit.from_si(line.head_m) if line.counted else 0.0 for line in self.lines],
            shown.decimals,
        )
        return values, round(math.fsum(values), shown.decimals)

    def figures(self, system: System) -> tuple[list[str], str]:
        """The same as text."""
        values, total = self.rounded(system)
        decimals = units.shown("length", system).decimals
        return [units.number_text(value, decimals) for value in values], units.number_text(
            total, decimals
        )


def round_to_sum(values: Sequence[float], decimals: int) -> list[float]:
    """Round values so that they add up to their rounded sum (largest remainder).

    No line is off by a whole step.
    """
    scale = 10.0**decimals
    floors = [math.floor(value * scale) for value in values]
    short = round(round(math.fsum(values), decimals) * scale) - sum(
        floors
    )  # rounded as the total is when it is shown
    by_remainder = sorted(
        range(len(values)), key=lambda i: values[i] * scale - floors[i], reverse=True
    )
    for index in by_remainder[: max(short, 0)]:
        floors[index] += 1
    return [floor / scale for floor in floors]


def table(made: HeadBreakdown, system: System) -> list[list[str | float]]:
    """The tape as rows for a spreadsheet: a heading with the units, a row each line, the total.

    The heads add up as shown.
    """
    length, speed = units.shown("length", system), units.shown("velocity", system)
    heads, total = made.rounded(system)
    velocity = units.unit(speed.unit, "velocity")
    rows: list[list[str | float]] = [
        [
            "what the water costs",
            "of what",
            f"speed [{speed.unit}]",
            f"head [{length.unit}]",
            "counts",
        ]
    ]
    label = ""
    for line, head in zip(made.lines, heads, strict=True):
        label = line.label or label  # fittings stand under the leg that they sit in
        shown = (
            round(velocity.from_si(line.velocity.value_si), speed.decimals) if line.velocity else ""
        )
        rows.append(
            [
                label,
                line.detail,
                shown,
                head if line.counted else "",
                "yes" if line.counted else "runs down",
            ]
        )
    rows.append([f"Total head at {units.show(made.flow_m3s, 'flow', system)}", "", "", total, ""])
    return rows


def as_text(made: HeadBreakdown, system: System) -> str:
    """The tape as plain text with its figures in line, to be copied into a message."""
    rows = table(made, system)
    unit = units.shown("length", system).unit
    words = [f"{label}{': ' if detail else ''}{detail}" for label, detail, *_ in rows[1:]]
    heads = [
        (
            f"{row[3]:.{units.shown('length', system).decimals}f} {unit}"
            if row[3] != ""
            else str(row[4])
        )
        for row in rows[1:]
    ]
    wide, high = max(map(len, words)), max(map(len, heads))
    return "\n".join(
        f"{word:<{wide}}  {head:>{high}}" for word, head in zip(words, heads, strict=True)
    )


def head_breakdown(
    legs: Sequence[LegEntry], ledger: Ledger, system: SystemCurve, at_ends: Sequence[Fact] = ()
) -> HeadBreakdown:
    """The tape of a ledger over these legs, in order of flow.

    ``at_ends`` are the facts that gave the route its ends.
    """
    lines = tuple(_line(legs, line, ledger, system, at_ends) for line in ledger.lines)
    return HeadBreakdown(
        ledger.flow_m3s,
        lines,
        ledger.total_head_m,
        leg_name(legs[ledger.governing_leg], ledger.governing_leg + 1),
    )


def _stands_on(
    line: LedgerLine, entry: LegEntry, at_ends: Sequence[Fact]
) -> tuple[tuple[str, str], ...]:
    """Where the figures of a line are from."""
    if line.code in ("pipe", "fittings", "device"):
        figures = (
            {"length": entry.length, "share of the flow": entry.share, "bore": entry.bore}
            if line.code == "pipe"
            else {}
        )
        items = (
            {f"loss of the {item.name}": item.points[0].loss for item in entry.items}
            if line.code == "device"
            else {}
        )
        return tuple(
            (name, PROVENANCE_WORDS[figure.provenance])
            for name, figure in (figures | items).items()
            if figure is not None
        )
    dimensions = {
        "static": ("length",),
        "delivery_pressure": ("pressure", "length"),
        "supply_pressure": ("pressure",),
    }.get(line.code)
    ends = stands_on(
        fact
        for fact in at_ends
        if dimensions is None or units.base(fact.question.dimension) in dimensions
    )
    level = (
        (
            (
                f"level at which the {entry.name or 'leg'} ends",
                PROVENANCE_WORDS[entry.ends_at.provenance],
            ),
        )
        if line.code == "static" and entry.ends_at
        else ()
    )
    return (*level, *ends)


def _line(
    legs: Sequence[LegEntry],
    line: LedgerLine,
    ledger: Ledger,
    system: SystemCurve,
    at_ends: Sequence[Fact],
) -> BreakdownLine:
    index = ledger.governing_leg if line.leg is None else line.leg
    entry, number = legs[index], index + 1
    name, velocity = (
        leg_name(entry, number),
        (None if line.velocity_m_s is None else Measure(line.velocity_m_s, "velocity")),
    )
    label, detail = _words(legs, line, index, name, ledger)
    working = replace(
        _WORKINGS[line.code](line, index, ledger, system),
        stands_on=_stands_on(line, entry, at_ends),
    )
    return BreakdownLine(
        code=line.code,
        label=label,
        detail=detail,
        head_m=line.head_m,
        counted=line.counted,
        velocity=velocity,
        leg_id=entry.id if line.leg is not None else "",
        working=working,
    )


def _words(
    legs: Sequence[LegEntry], line: LedgerLine, index: int, name: str, ledger: Ledger
) -> tuple[str, str]:
    entry = legs[index]
    if line.code == "static":
        where = "the outlet" if index == len(legs) - 1 else f"the high end of the {name}"
        if line.name == "top":
            where = f"the highest ground of the {name}"
        return f"Up from the water to {where}", ""
    if line.code == "pipe":
        if not line.counted and line.leg == ledger.governing_leg:
            return "", "the rest, beyond the highest ground"
        carries = (
            f", {units.show(share(entry), 'ratio', 'metric')} of the flow" if entry.share else ""
        )
        return (
            name[:1].upper() + name[1:],
            f"{length_label(entry)} of {pipes_label(entry)}{carries}",
        )
    if line.code == "fittings":
        return "", ", ".join(
            (f"{one.count} × " if one.count > 1 else "") + fittings.fitting(one.fitting).label
            for one in entry.fittings
        )
    if line.code == "device":
        return line.name[:1].upper() + line.name[1:], ""
    words = {
        "delivery_pressure": "Pressure wanted at the end",
        "supply_pressure": "Pressure at the start",
        "drawdown": "The water sinks while pumping",
    }
    return words[line.code], ""


def _static(line: LedgerLine, index: int, ledger: Ledger, system: SystemCurve) -> Working:
    start = system.route.start_level_m
    end = line.head_m + start
    inputs = (
        ("level it must reach", Measure(end, "length")),
        ("water level when the pump stops", Measure(start, "length")),
    )
    return Working(
        "Static head",
        "level reached − water level",
        inputs,
        Measure(line.head_m, "length"),
        "Water to outlet, never from the pump's body",
    )


def _pressure(line: LedgerLine, index: int, ledger: Ledger, system: SystemCurve) -> Working:
    density = f"{system.water.density_kg_m3:.1f} kg/m³"
    return Working(
        "Pressure as head",
        "p / (ρ g)",
        (("density ρ", density),),
        Measure(line.head_m, "length"),
        "hydrostatics",
    )


def _pipe(line: LedgerLine, index: int, ledger: Ledger, system: SystemCurve) -> Working:
    leg, water = system.route.legs[index], system.water
    velocity = line.velocity_m_s or 0.0
    common: tuple[tuple[str, Measure | str], ...] = (
        ("length L", Measure(leg.length_m, "length")),
        ("bore d", Measure(leg.inside_diameter_m, "bore")),
        ("speed v", Measure(velocity, "velocity")),
    )
    common = (*common, *_as_built(leg))
    if system.route.method == "hazen_williams":
        inputs: tuple[tuple[str, Measure | str], ...] = (
            *common,
            ("coefficient C", f"{leg.hazen_williams_c:.0f}"),
        )
        return Working(
            "Pipe friction",
            "10.67 L Q^1.852 / (C^1.852 d^4.8704)",
            inputs,
            Measure(line.head_m, "length"),
            friction.VALIDITY["hazen_williams"].source,
        )
    reynolds = float(
        friction.reynolds(velocity, leg.inside_diameter_m, water.kinematic_viscosity_m2_s)
    )
    factor = float(
        friction.darcy_friction_factor(reynolds, leg.roughness_m / leg.inside_diameter_m)
    )
    inputs = (
        *common,
        ("roughness", f"{leg.roughness_m * 1000:.4g} mm"),
        ("Reynolds number", units.number_text(reynolds, 0)),
        ("friction factor f", f"{factor:.4f}"),
    )
    return Working(
        "Pipe friction",
        "f L/d v²/2g",
        inputs,
        Measure(line.head_m, "length"),
        friction.VALIDITY["darcy_weisbach"].source,
    )


def _as_built(leg: Leg) -> tuple[tuple[str, Measure | str], ...]:
    """What was measured of the run over what is reckoned, where that was told."""
    if leg.loss_share == 1.0:
        return ()
    return (("times, as built", Measure(leg.loss_share, "ratio")),)


_FITTINGS_BY: dict[str, tuple[str, str]] = {
    "k": ("sum of K × v²/2g", "TP-410, K = f_T L/D"),
    "hooper": ("(sum of K∞ + sum of K1 / Re) × v²/2g", "Hooper 2-K, 1981"),
    "darby": ("(sum of K∞ + sum of K1 / Re) × v²/2g", "Darby 3-K, 2001"),
    "equivalent_length": ("friction of their equivalent length, L/D × d", "TP-410 length ratios"),
    "percent": (
        "a share of the pipe's friction",
        "crude school: never for short runs with many fittings",
    ),
}


def _fittings(line: LedgerLine, index: int, ledger: Ledger, system: SystemCurve) -> Working:
    leg, velocity = system.route.legs[index], Measure(line.velocity_m_s or 0.0, "velocity")
    result = Measure(line.head_m, "length")
    formula, source = _FITTINGS_BY[system.route.fittings_by]
    if leg.equivalent_length_m:
        return Working(
            "Fittings",
            formula,
            (
                ("equivalent length", Measure(leg.equivalent_length_m, "length")),
                ("speed v", velocity),
                *_as_built(leg),
            ),
            result,
            source,
        )
    inputs: tuple[tuple[str, Measure | str], ...] = (
        ("sum of K", f"{leg.k_sum:.2f}"),
        ("speed v", velocity),
    )
    if leg.k1_sum:
        reynolds = float(
            friction.reynolds(
                velocity.value_si, leg.inside_diameter_m, system.water.kinematic_viscosity_m2_s
            )
        )
        inputs = (
            ("sum of K∞", f"{leg.k_sum:.2f}"),
            ("sum of K1", f"{leg.k1_sum:.0f}"),
            ("Reynolds number", units.number_text(reynolds, 0)),
            ("speed v", velocity),
        )
    return Working("Fittings", formula, (*inputs, *_as_built(leg)), result, source)


def _drawdown(line: LedgerLine, index: int, ledger: Ledger, system: SystemCurve) -> Working:
    inputs = (
        ("flow", Measure(ledger.flow_m3s, "flow")),
        (
            "flow for each metre (specific capacity)",
            Measure(1.0 / system.route.drawdown_s_m2, "flow"),
        ),
    )
    return Working(
        "Drawdown",
        "flow / specific capacity",
        inputs,
        Measure(line.head_m, "length"),
        "taken as constant, from the well's test",
    )


def _device(line: LedgerLine, index: int, ledger: Ledger, system: SystemCurve) -> Working:
    leg = None if line.leg is None else system.route.legs[line.leg]
    device = next(
        one for one in (leg.devices if leg else system.route.devices) if one.name == line.name
    )
    inputs = (
        ("flow", Measure(ledger.flow_m3s * (leg.pipe_share if leg else 1.0), "flow")),
        ("rated flow", Measure(device.rated_flow_m3s, "flow")),
        ("loss at the rated flow", Measure(device.rated_head_m, "length")),
    )
    return Working(
        "Loss of a device",
        "along its own curve" if device.points else "rated loss × (flow / rated flow)²",
        inputs,
        Measure(line.head_m, "length"),
        (
            f"{len(device.points)} points of its maker, the root of the loss straight between them"
            if device.points
            else "turbulent loss grows with the flow squared"
        ),
    )


_WORKINGS = {
    "drawdown": _drawdown,
    "device": _device,
    "static": _static,
    "delivery_pressure": _pressure,
    "supply_pressure": _pressure,
    "pipe": _pipe,
    "fittings": _fittings,
}
