"""Words that several dialogs share."""

from __future__ import annotations

from sizing.base import units
from sizing.base.message import Measure, Message
from sizing.base.units import System

STATUS_WORDS = {"off_end": "runs off the end of its curve", "cannot_lift": "cannot lift it"}


def measure_text(value: Measure | str | None, system: System) -> str:
    if value is None:
        return "nothing would do"
    return value if isinstance(value, str) else value.text(system)


def message_text(note: Message | None, system: System) -> str:
    return note.text(system) if note else ""


def flow_text(value: float | None, system: System) -> str:
    return "—" if value is None else units.show(value, "flow", system)


def money(value: float | None, currency: str) -> str:
    return "" if value is None else f"{currency}\u00a0{units.number_text(value, 0)}"


def shown(value: float | None, dimension: str, system: System) -> str:
    return "" if value is None else units.show(value, dimension, system)
