"""What is wrong with a hand sum, figure by figure, with both sums side by side."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.calculation_review import (
    bought,
    instead_of,
    lines_of,
    parts_of,
    state_of,
    verdict_of,
)
from sizing.aftercare.calculation_review.hand_sum import right
from sizing.aftercare.calculation_review.written import GOT, Written
from sizing.analysis.calculation_review import side_by_side
from sizing.base import units
from sizing.base.units import System
from sizing.pump.catalogue import Catalogue


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
            matters=bought(
                found,
                code,
                read.values[code],
                facts=facts,
                catalogue=catalogue,
                families=[family] if family else [],
                currency=currency,
            ),
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
