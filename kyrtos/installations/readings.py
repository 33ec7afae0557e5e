"""What was read at a pump: kept as typed and as it came out then, compared, followed over years."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.house_rules.services import rules_of
from kyrtos.installations import pump_records
from kyrtos.installations.models import InstalledPump, ReadingSet
from kyrtos.jobs import devices
from sizing.aftercare.commissioning import typed_readings
from sizing.aftercare.commissioning.promise import Promise
from sizing.aftercare.commissioning.trend import Trend, Wear, allowed_wear, trend, wear_of
from sizing.analysis.commissioning import HandedOver, judged
from sizing.base import numbers
from sizing.base.errors import SizingError
from sizing.base.units import DAYS_PER_YEAR, SECONDS_PER_DAY, System
from sizing.pump.curve import PumpCurve

_RUNS_M3H = 0.05  # under that the meter says nothing but noise
_NOT_PROMISED = (
    "this pump came without a job here, so nothing was promised of its run: readings are kept, and"
    " compared once a job stands behind it"
)
_NO_CURVE = "only the plate of this pump is known, not its curve: readings are kept, not compared"


@dataclass(frozen=True)
class Judged:
    """Readings as typed; what they came to, or why they came to nothing."""

    typed: typed_readings.Typed
    unsteady: bool
    found: HandedOver | None
    problem: str


def curve_and_promise(pump: InstalledPump) -> tuple[PumpCurve, Promise]:
    """What readings are held against.

    Raises
    ------
    SizingError
        Nothing is known of the curve, its power, or the run.
    """
    promise, known = pump_records.promise_for(pump), pump_records.pump_of_record(pump)
    if promise is None:
        raise SizingError(_NOT_PROMISED)
    if known is None:
        raise SizingError(_NO_CURVE)
    return known.curve, promise


def judge(pump: InstalledPump, given: Mapping[str, str], system: System) -> Judged:
    """What was typed, and what it means where enough was."""
    read = typed_readings.gather(given, system)
    unsteady = bool(given.get("unsteady"))
    if not read.enough:
        return Judged(read, unsteady, None, "")
    try:
        curve, promise = curve_and_promise(pump)
        readings = typed_readings.readings_of(read, promise, unsteady=unsteady)
        return Judged(read, unsteady, judged(readings, promise, curve, rules_of(pump.shop)), "")
    except SizingError as told:
        return Judged(read, unsteady, None, str(told))


# What the devices of docs/devices.md call a reading: its field here, how it is written, its error.
_DEVICES = {
    "level_m": ("level", "{:.3f} m ± 0.003 m"),
    "flow_m3h": ("flow", "{:.3f} m3/h ± 3 %"),
    "pressure_bar": ("outlet", "{:.3f} bar ± 0.02 bar"),
    "power_w": ("watts", "{:.0f} W ± 2 %"),
}


def from_devices() -> dict[str, str]:
    """What the site's devices say now, as it would be typed; one that dropped out says nothing.

    Raises
    ------
    SizingError
        No device answers, or no pump runs.
    """
    now = devices.now()
    found = {
        name: numbers.as_read(way.format(value))
        for key, (name, way) in _DEVICES.items()
        if (value := now.get(key)) is not None
    }
    if (now.get("flow_m3h") or 0.0) < _RUNS_M3H:
        raise SizingError("no pump runs at the devices now: wait until it does, and read again")
    return found


def keep(
    *,
    pump: InstalledPump,
    user: User,
    judged_as: Judged,
    system: System,
    on: datetime | None = None,
    token: uuid.UUID | None = None,
) -> tuple[ReadingSet, bool]:
    """Keep a set of readings, and whether it is new.

    The same ``token`` again is the same set, sent twice or at once.

    Raises
    ------
    UsedElsewhere
        The token is that of another pump's readings, or of others of this pump.
    """
    found = judged_as.found
    made = {
        "user": user,
        "on": on or timezone.now(),
        "typed": {**judged_as.typed.given, "unsteady": judged_as.unsteady, "system": system},
        "come": {} if found is None else _figures(found),
        "diagnosis": "" if found is None else found.diagnosis.code,
        "problem": judged_as.problem[:300],
    }
    return pump_records.once(ReadingSet, pump, token, made)


def _figures(found: HandedOver) -> dict[str, Any]:
    """Of a comparison, what a list and a trend need [SI]."""
    compared, readings = found.compared, found.compared.readings
    wear = wear_of(compared, 0.0)
    return {
        "flow_m3s": readings.flow_m3s,
        "head_m": readings.head_m,
        "input_w": readings.input_w,
        "efficiency": readings.efficiency,
        "k_s2_m5": readings.k_s2_m5,
        "k_sigma": readings.sigma(lambda one: one.k_s2_m5),
        "flow_percent": compared.flow_percent,
        "head_percent": compared.head.percent,
        "wear": wear.share,
        "wear_sigma": wear.sigma,
    }


def again(kept: ReadingSet) -> Judged:
    """A set as it was typed, judged anew."""
    held = {key: str(value) for key, value in kept.typed.items() if key in typed_readings.FIELDS}
    if kept.typed.get("unsteady"):
        held["unsteady"] = "1"
    return judge(kept.pump, held, kept.typed.get("system", "metric"))


def wear_over_years(pump: InstalledPump) -> Trend:
    """The trend through all readings of a pump that were compared.

    Raises
    ------
    SizingError
        Too few, or nothing to hold them against.
    """
    curve, promise = curve_and_promise(pump)
    sets = pump.readings.exclude(come={}).order_by("on")
    first = min((one.on for one in sets), default=timezone.now())
    points = [
        Wear(
            (one.on - first).total_seconds() / SECONDS_PER_DAY / DAYS_PER_YEAR,
            one.come["wear"],
            one.come["wear_sigma"],
        )
        for one in sets
    ]
    return trend(points, allowed_wear(promise, curve))
