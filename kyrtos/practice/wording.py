"""What is wrong with a hand sum, figure by figure, with both sums side by side."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.second_look import (
    instead_of,
    lines_of,
    parts_of,
    state_of,
    verdict_of,
)
from sizing.analysis.second_look import side_by_side
from sizing.base import units
from sizing.base.units import System
from sizing.pump.catalogue import Catalogue, Pump
from sizing.second_look.buys import by_duty, by_power
from sizing.second_look.explain import Explained
from sizing.second_look.hand_sum import HandSum, right
from sizing.second_look.written import GOT, Written


@dataclass(frozen=True)
class FigureView:
    """One figure that somebody got."""

    label: str
    state: str
    verdict: str
    instead: tuple[str, ...]
    has_slips: bool
    matters: str
    lines: tuple[tuple[str, str, str, bool], ...]


@dataclass(frozen=True)
class LookView:
    """What the page shows: every figure, and the right sum where none was told."""

    figures: tuple[FigureView, ...]
    right: tuple[tuple[str, str], ...]


def look_view(
    read: Written, system: System, *, catalogue: Catalogue, family: str, currency: str
) -> LookView:
    """Everything in the reader's units."""
    if read.facts is None:
        return LookView((), ())
    facts = read.facts
    figures = tuple(
        FigureView(
            label=GOT[code].label,
            state=state_of(found),
            verdict=verdict_of(found, read.values[code], GOT[code].dimension, system),
            instead=instead_of(found) or parts_of(facts, found, code, read.values[code], system),
            has_slips=bool(found.slips),
            matters=_matters(found, code, read.values[code], facts, catalogue, family, currency),
            lines=lines_of(side_by_side(facts, found), system),
        )
        for code, found in read.explained.items()
    )
    done = right(facts).figures()
    rows = (
        ("Flow", "flow", done.flow),
        ("Head", "length", done.head),
        ("Power of the water", "power", done.hydraulic_power),
        ("Power at the shaft", "power", done.shaft_power),
        ("Power drawn", "power", done.input_power),
        ("NPSH available", "length", done.npsh),
    )
    return LookView(
        figures,
        tuple(
            (label, units.show(value, dimension, system))
            for label, dimension, value in rows
            if value is not None
        ),
    )


def _matters(
    found: Explained,
    code: str,
    value_si: float,
    facts: HandSum,
    catalogue: Catalogue,
    family: str,
    currency: str,
) -> str:
    """Which pump the figure would have bought, and which the right one."""
    if found.is_right or not family or code == "npsh" or facts.curve is not None:
        return ""
    done = right(facts).figures()
    if code == "head":
        theirs = by_duty(catalogue, [family], done.flow, value_si)
        ours = by_duty(catalogue, [family], done.flow, done.head)
    else:
        share = value_si / found.right_figure
        theirs = by_power(catalogue, [family], done.shaft_power * share)
        ours = by_power(catalogue, [family], done.shaft_power)
    return _bought(theirs, ours, currency)


def _bought(theirs: Pump | None, ours: Pump | None, currency: str) -> str:
    if theirs == ours:
        return "It would have bought the same pump here." if ours else ""
    said = [
        "it would have bought no pump here" if theirs is None else f"it buys the {theirs.name}",
        "none here does it" if ours is None else f"the {ours.name} does it",
    ]
    money = ""
    if theirs and ours and theirs.price and ours.price:
        apart = theirs.price - ours.price
        money = (
            f": {abs(apart):,.0f} {currency} {'more' if apart > 0 else 'less'} for the wrong one"
        )
    return f"{said[0][:1].upper()}{said[0][1:]}; {said[1]}{money}."
