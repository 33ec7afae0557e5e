"""A pump as plain JSON content, for what has to hold it for years."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, fields
from typing import Any

from sizing.base.errors import SizingError
from sizing.pump.catalogue import Pump
from sizing.pump.curve import PumpCurve

FORMAT = "kyrtos-pump/1"
_CURVE = tuple(field.name for field in fields(PumpCurve))
_PLAIN = tuple(field.name for field in fields(Pump) if field.name != "curve")


def record(pump: Pump) -> dict[str, Any]:
    """A pump as plain JSON content in SI; :func:`pump_of` gives the same pump back.

    >>> curve = PumpCurve((0.0, 0.001, 0.002, 0.003), (9.0, 8.0, 6.0, 3.0))
    >>> pump = Pump("quorl-s-1", "Quorl", "S 1", "sump", curve, price=142.0)
    >>> pump_of(record(pump)) == pump
    True
    """
    content = asdict(pump)
    content["curve"] = {
        name: None if values is None else list(values) for name, values in content["curve"].items()
    }
    return {"format": FORMAT, **content}


def pump_of(content: Mapping[str, Any]) -> Pump:
    """The pump of a record; fields that were not known when it was written are not stated.

    Raises
    ------
    SizingError
        Content that is no such record.
    """
    if content.get("format") != FORMAT:
        raise SizingError(f"this is no record of a pump: its format is {content.get('format')!r}")
    kept = content["curve"]
    lists = {name: None if kept.get(name) is None else tuple(kept[name]) for name in _CURVE}
    plain = {name: content[name] for name in _PLAIN if name in content}
    return Pump(curve=PumpCurve(**lists), **plain)  # type: ignore[arg-type]
