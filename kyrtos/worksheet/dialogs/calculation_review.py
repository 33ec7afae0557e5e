"""Somebody else's figure for the job: which slip, or which two, explain it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.aftercare.calculation_review.buys import by_duty, by_power
from sizing.aftercare.calculation_review.explain import Explained, parts_that_would
from sizing.aftercare.calculation_review.hand_sum import HandSum, right
from sizing.aftercare.calculation_review.slip import Slip
from sizing.analysis.calculation_review import (
    DIMENSIONS,
    FLOW_UNITS,
    SecondLook,
    SideBySide,
    calculation_review,
)
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.document.job import Figure, OthersFigure
from sizing.pump.catalogue import Catalogue
from sizing.size import Sizing

_LONGEST = 40
_MOST_RIVALS = 3
_LABELS = {
    "head": "head",
    "flow": "flow",
    "input_power": "power drawn",
    "shaft_power": "power at the shaft",
    "hydraulic_power": "power of the water",
}
_UNIT_WORDS = {"m³/h": "m³/h", "L/min": "l/min", "gpm": "US gpm", "gph": "US gph"}
_BARE = {"flow": ("m³/h", "gpm"), "length": ("m", "ft"), "power": ("W", "hp")}


@dataclass(frozen=True)
class CalculationReviewView:
    """What the dialog shows."""

    quantities: tuple[tuple[str, str, bool], ...]
    flow_units: tuple[tuple[str, str, bool], ...]
    of_a_pump: bool
    text: str
    problem: str
    state: str
    verdict: str
    instead: tuple[str, ...]
    slipped: bool
    matters: str
    lines: tuple[tuple[str, str, str, bool], ...]
    kept: bool  # whether one stands on the job, for its paper


def calculation_review_view(asked: Asked) -> CalculationReviewView:
    """What explains the figure that was typed; nothing yet where none was."""
    system = asked.base.sizing.job.units
    name = asked.given.get("quantity", "head")
    name = name if name in DIMENSIONS else "head"
    unit = asked.given.get("flow_unit", "gpm" if system == "us" else "m³/h")
    unit = unit if unit in FLOW_UNITS else "m³/h"
    text, of_a_pump = asked.given.get("figure", "")[:_LONGEST], bool(asked.given.get("of_a_pump"))
    found, problem = None, ""
    if text.strip():
        try:
            figure = figure_of(text, name, system)
            found = calculation_review(
                asked.base, name, figure, flow_unit=unit, of_a_pump=of_a_pump
            )
        except SizingError as told:
            problem = str(told)
    return CalculationReviewView(
        quantities=tuple((code, label, code == name) for code, label in _LABELS.items()),
        flow_units=tuple(
            (code, _UNIT_WORDS.get(code, "imperial gpm"), code == unit) for code in FLOW_UNITS
        ),
        of_a_pump=of_a_pump,
        text=text,
        problem=problem,
        state="" if found is None else state_of(found.explained),
        verdict=""
        if found is None
        else verdict_of(found.explained, found.value_si, DIMENSIONS[found.quantity], system),
        instead=()
        if found is None
        else instead_of(found.explained)
        or parts_of(found.facts, found.explained, found.quantity, found.value_si, system),
        matters="" if found is None else _matters(asked, found),
        slipped=found is not None and bool(found.explained.slips),
        lines=() if found is None else lines_of(found.lines, system),
        kept=asked.base.sizing.job.second_look is not None,
    )


def figure_of(text: str, name: str, system: System) -> Figure:
    """A figure as typed; raises SizingError where it cannot be read."""
    bare = _BARE[DIMENSIONS[name]][system == "us"]
    return Figure.typed(text, DIMENSIONS[name], bare)


def asked_of(given: Mapping[str, str], system: System) -> OthersFigure:
    """What was typed into the dialog, to stand on the job.

    Raises
    ------
    SizingError
        The figure cannot be read, or is asked for of something that there is none of.
    """
    name, unit = given.get("quantity", "head"), given.get("flow_unit", "m³/h")
    if name not in DIMENSIONS or unit not in FLOW_UNITS:
        raise SizingError("there is no such quantity or unit to look at")
    figure = figure_of(given.get("figure", "")[:_LONGEST], name, system)
    return OthersFigure(
        quantity=name,
        figure=figure,
        flow_unit=unit,
        of_a_pump=bool(given.get("of_a_pump")),
    )


def state_of(found: Explained) -> str:
    """The state's one word."""
    return "good" if found.is_right else "watch" if found.slips else "bad"


def verdict_of(found: Explained, value_si: float, dimension: str, system: System) -> str:
    """What explains a figure, in a sentence."""
    shown, ours = (units.show(one, dimension, system) for one in (value_si, found.right_figure))
    if found.is_right:
        return f"Right: {shown} is {ours} within three per cent."
    if not found.slips:
        return (
            f"None of the usual slips, alone or in pairs, gives {shown}; the right figure is"
            f" {ours}. Compare the lines below with theirs one by one."
        )
    names, got = _named(found.slips), units.show(found.figure, dimension, system)
    times = f"The right figure is {ours}; theirs is {value_si / found.right_figure:.2g} times that."
    if not found.exactly:
        return f"{shown} is not explained: {names} gives {got}, which only comes near. {times}"
    if found.rivals:
        others = [_named(one) for one in found.rivals]
        left = len(others) - _MOST_RIVALS
        more = f", or in {left} more ways" if left > 0 else ""
        return (
            f"Not unique: {shown} is explained by {names} ({got}), and just as well by"
            f" {', or by '.join(others[:_MOST_RIVALS])}{more}. {times}"
        )
    return f"{shown} is explained by {names} ({got}). {times}"


def _named(slips: tuple[Slip, ...]) -> str:
    return " and ".join(one.label for one in slips)


def instead_of(found: Explained) -> tuple[str, ...]:
    """What went wrong in each slip, and what to do; nothing of what only comes near."""
    if not found.exactly:
        return ()
    return tuple(f"{one.told[:1].upper()}{one.told[1:]}: {one.instead}." for one in found.slips)


def _matters(asked: Asked, found: SecondLook) -> str:
    """Which pump of the job's families their figure would have bought, and which the right one."""
    if found.facts.curve is not None:
        return ""
    sizing = asked.base.sizing
    families = sizing.kind.families(sizing.facts)
    return bought(
        found.explained,
        found.quantity,
        found.value_si,
        facts=found.facts,
        catalogue=asked.on_site,
        families=families,
        currency=asked.currency,
    )


def bought(
    found: Explained,
    quantity: str,
    value_si: float,
    *,
    facts: HandSum,
    catalogue: Catalogue,
    families: Iterable[str],
    currency: str,
) -> str:
    """How much a figure matters: the pump that it buys, the right one, what that costs."""
    if found.is_right or quantity in ("npsh", "flow") or facts.curve is not None:
        return ""
    able, done = list(families), right(facts).figures()
    if quantity == "head":
        theirs = by_duty(catalogue, able, done.flow, value_si)
        ours = by_duty(catalogue, able, done.flow, done.head)
    else:
        times = value_si / found.right_figure
        theirs = by_power(catalogue, able, done.shaft_power * times)
        ours = by_power(catalogue, able, done.shaft_power)
    if theirs == ours:
        return "It would have bought the same pump here." if ours else ""
    first = "It buys no pump here" if theirs is None else f"It buys the {theirs.name}"
    then = "none here does it" if ours is None else f"the {ours.name} does it"
    money = ""
    if theirs and ours and theirs.price and ours.price:
        apart = theirs.price - ours.price
        more = "more" if apart > 0 else "less"
        money = f": {abs(apart):,.0f} {currency} {more} for the wrong one"
    return f"{first}; {then}{money}."


def parts_of(
    facts: HandSum, found: Explained, quantity: str, value_si: float, system: System
) -> tuple[str, ...]:
    """Where a figure that no slip gives may come from, part by part; nothing else."""
    if found.is_right or (found.slips and found.exactly):
        return ()
    said = []
    for one in parts_that_would(facts, quantity, value_si):
        theirs, ours = (units.show(end, one.dimension, system) for end in (one.theirs, one.right))
        said.append(
            f"If all else is right, their {one.label} is {theirs} where {ours} is right"
            f" ({one.times:.2g} times)."
        )
    return tuple(said)


def lines_of(
    rows: tuple[SideBySide, ...], system: System
) -> tuple[tuple[str, str, str, bool], ...]:
    """Both sums, line by line."""
    return tuple(
        (row.label, row.right.text(system), row.theirs.text(system), row.wrong) for row in rows
    )


def _applies(sizing: Sizing) -> bool:
    return sizing.system is not None and sizing.demand is not None


DIALOG = Dialog(
    name="calculation_review",
    words="somebody else got …",
    key="h",
    tells="which slip explains somebody else's figure",
    place="head",
    rank=9,
    view=calculation_review_view,
    applies=_applies,
)
