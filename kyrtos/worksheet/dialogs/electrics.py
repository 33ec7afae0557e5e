"""The cable to the pump's motor, its start, and the generator for it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Asked, Dialog
from kyrtos.worksheet.typed_figure import Typed, typed
from sizing.analysis.electrics import START_DROP, Electrics, electrics
from sizing.base import numbers, units
from sizing.base.units import System
from sizing.pump.conductors import DIRECT_TO_V
from sizing.size import Sizing

_LENGTH_M = 30.0  # to the panel, where nobody says
_LENGTH_DC_M = 5.0  # in a van or a boat
_MOST_M = 5000.0


@dataclass(frozen=True)
class ElectricsView:
    """What the dialog shows."""

    length: Typed
    placeholder: str
    drop: Typed
    does: bool
    verdict: str
    rows: tuple[tuple[bool, tuple[str, ...]], ...]
    starts: tuple[tuple[str, ...], ...]
    breaker: str
    fuse: str  # on direct current, instead of a breaker


def electrics_view(asked: Asked) -> ElectricsView:
    """The cable over the length typed, or that of the job."""
    sizing = asked.base.sizing
    system = sizing.job.units
    known = sizing.facts.optional("cable_length") if sizing.facts.asks("cable_length") else None
    on_battery = sizing.facts.asks("voltage") and sizing.facts.si("voltage") <= DIRECT_TO_V
    usual = (_LENGTH_DC_M if on_battery else _LENGTH_M) if known is None else known
    unit = "ft" if system == "us" else "m"
    length = typed(asked.given, "length", "length", unit, usual, (0.1, _MOST_M), system)
    drop = typed(asked.given, "drop", "ratio", "%", START_DROP, (0.01, 0.5), system)
    found = electrics(asked.base, length.si, drop.si)
    return ElectricsView(
        length=length,
        placeholder=units.show(usual, "length", system),
        drop=drop,
        does=found.best is not None,
        verdict=_verdict(found, system),
        rows=tuple(
            (
                row.does,
                (
                    row.conductor.size,
                    units.show(row.running, "ratio", system, 1),
                    "" if found.direct else units.show(row.starting, "ratio", system, 1),
                    _far(row.longest_m, system),
                    "" if found.direct else _far(row.trips_m, system),
                ),
            )
            for row in found.rows
        ),
        starts=tuple(
            (
                row.kind.label,
                units.show(row.current_a, "current", system),
                units.show(row.starting, "ratio", system, 1),
                numbers.as_read(f"{row.generator_va / 1e3:.1f} kVA"),
                row.kind.note,
            )
            for row in found.starts
        ),
        breaker="" if found.breaker_a is None or found.direct else f"{found.breaker_a:.0f} A",
        fuse=f"{found.breaker_a:g} A" if found.breaker_a and found.direct else "",
    )


def _far(metres: float, system: System) -> str:
    return "any" if math.isinf(metres) else units.show(metres, "length", system, 0)


def _verdict(found: Electrics, system: System) -> str:
    over = units.show(found.length_m, "length", system, 0)
    amps = units.show(found.amps, "current", system)
    limits = units.show(found.most_running, "ratio", system)
    if not found.direct:
        limits += f" running and {units.show(found.most_starting, 'ratio', system)} starting"
    if found.best is None:
        return (
            f"No conductor of the table keeps within {limits} over {over} at {amps}: a softer"
            " start, a higher voltage, or the panel nearer to the pump."
        )
    fault = ""
    if not found.direct and found.breaker_a is not None and found.best.trips_m < found.length_m:
        fault = (
            f" An earth fault at its end does not trip a {found.breaker_a:.0f} A C breaker at once:"
            " a residual-current device, or a thicker cable."
        )
    return (
        f"{found.best.conductor.size} is the thinnest that keeps within {limits} over {over} at"
        f" {amps}.{fault} What it may carry where it lies is for a licensed electrician."
    )


def _applies(sizing: Sizing) -> bool:
    running = sizing.running
    return running is not None and running.pump.pump.current_a is not None


DIALOG = Dialog(
    name="electrics",
    words="cable and start",
    key="v",
    tells="the motor's cable running and starting, kinds of start, the generator",
    place="choosing",
    rank=12,
    view=electrics_view,
    applies=_applies,
)
