"""Somebody else's figure for the job: which slip, or which two, explain it."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.analysis.second_look import DIMENSIONS, FLOW_UNITS, SecondLook, second_look
from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.units import System
from sizing.size import Sizing

_LONGEST = 40
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
class SecondLookView:
    """What the dialog shows."""

    quantities: tuple[tuple[str, str, bool], ...]
    flow_units: tuple[tuple[str, str, bool], ...]
    of_a_pump: bool
    text: str
    problem: str
    state: str
    verdict: str
    instead: tuple[str, ...]
    lines: tuple[tuple[str, str, str, bool], ...]


def second_look_view(asked: Asked) -> SecondLookView:
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
            bare = _BARE[DIMENSIONS[name]][system == "us"]
            value = quantity.read(numbers.as_kept(text), DIMENSIONS[name], bare).si
            found = second_look(asked.base, name, value, flow_unit=unit, of_a_pump=of_a_pump)
        except SizingError as told:
            problem = str(told)
    return SecondLookView(
        quantities=tuple((code, label, code == name) for code, label in _LABELS.items()),
        flow_units=tuple(
            (code, _UNIT_WORDS.get(code, "imperial gpm"), code == unit) for code in FLOW_UNITS
        ),
        of_a_pump=of_a_pump,
        text=text,
        problem=problem,
        state="" if found is None else _state(found),
        verdict="" if found is None else _verdict(found, system),
        instead=()
        if found is None
        else tuple(
            f"{one.told[:1].upper()}{one.told[1:]}: {one.instead}." for one in found.explained.slips
        ),
        lines=()
        if found is None
        else tuple(
            (row.label, row.right.text(system), row.theirs.text(system), row.wrong)
            for row in found.lines
        ),
    )


def _state(found: SecondLook) -> str:
    return "good" if found.explained.is_right else "watch" if found.explained.slips else "bad"


def _verdict(found: SecondLook, system: System) -> str:
    dimension = DIMENSIONS[found.quantity]
    shown, ours = (
        units.show(value, dimension, system)
        for value in (found.value_si, found.explained.right_figure)
    )
    if found.explained.is_right:
        return f"Right: {shown} is {ours} within three per cent."
    if not found.explained.slips:
        return (
            f"None of the usual slips, alone or in pairs, gives {shown}; the right figure is"
            f" {ours}. Compare the lines below with theirs one by one."
        )
    names = " and ".join(one.label for one in found.explained.slips)
    got = units.show(found.explained.figure, dimension, system)
    return (
        f"{shown} is explained by {names} ({got}); it is {ours}: {found.times:.2g} times that was"
        " got."
    )


def _applies(sizing: Sizing) -> bool:
    return sizing.system is not None and sizing.demand is not None


DIALOG = Dialog(
    name="second_look",
    words="somebody else got …",
    key="h",
    tells="which slip explains somebody else's figure",
    place="head",
    rank=9,
    view=second_look_view,
    applies=_applies,
)
