"""An installed pump in words: its facts, its readings as a list, its wear."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from kyrtos.installations import pump_records, readings
from kyrtos.installations.models import InstalledPump, ReadingSet
from kyrtos.worksheet.dialogs.commissioning import sign_of, signed
from sizing.aftercare.commissioning.diagnosis import TABLE
from sizing.aftercare.commissioning.trend import Trend
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.units import DAYS_PER_YEAR, System
from sizing.kinds import kinds
from sizing.pump.catalogue_columns import families

_LABELS = {one.code: one.label for one in TABLE}


def facts_of(pump: InstalledPump, system: System, currency: str) -> list[tuple[str, str]]:
    """What is kept of a pump, each with its label; nothing for what is not known."""
    rows = [
        ("Family", families().get(pump.family, pump.family)),
        ("Serial number", pump.serial),
        ("Where", pump.place),
        ("Put in by", pump.installer),
        ("For", kinds()[pump.kind].label if pump.kind in kinds() else pump.kind),
        ("Settings", pump.settings),
        ("Parts", pump.parts),
        ("Price", "" if pump.price is None else f"{pump.price:,.0f} {currency}"),
        ("Runs a year", "" if pump.hours_per_year is None else f"{pump.hours_per_year:,.0f} h"),
    ]
    promise = pump_records.promise_for(pump)
    if promise is not None:
        duty = (
            f"{units.show(promise.flow_m3s, 'flow', system)} at"
            f" {units.show(promise.head_m, 'length', system)}"
        )
        rows.append(("Was to run at", duty))
        rows.append(("Needed", units.show(promise.needed_flow_m3s, "flow", system)))
        if promise.starts_per_s is not None:
            rows.append(("Was to start", units.show(promise.starts_per_s, "frequency", system)))
    return [(label, text) for label, text in rows if text]


@dataclass(frozen=True)
class ReadingRow:
    """A kept set of readings in a list."""

    kept: ReadingSet
    state: str
    says: str
    figures: str


def reading_rows(pump: InstalledPump, system: System) -> list[ReadingRow]:
    """All sets, newest first."""
    return [_row(one, system) for one in pump.readings.select_related("user")]


def _row(kept: ReadingSet, system: System) -> ReadingRow:
    come = kept.come
    if not come:
        return ReadingRow(kept, "open", kept.problem or "kept, not compared", "")
    figures = (
        f"{units.show(come['flow_m3s'], 'flow', system)} at"
        f" {units.show(come['head_m'], 'length', system)},"
        f" {units.show(come['input_w'], 'power', system)}"
    )
    says = _LABELS.get(kept.diagnosis, kept.diagnosis)
    return ReadingRow(kept, sign_of(kept.diagnosis), says, figures)


def turns(pump: InstalledPump, judged: readings.Judged) -> tuple[tuple[str, str, str, str], ...]:
    """The turns that were read, beside those of the record; nothing where they were not read."""
    read = judged.typed.read.get("turns")
    if read is None:
        return ()
    record = pump_records.pump_of_record(pump)
    of = record.speed_rpm if record is not None else None
    apart = "" if not of else f"{signed(100 * (read.value / of - 1))} %"
    return (("turns a minute", f"{read.value:,.0f}", "" if not of else f"{of:,.0f}", apart),)


def trend_said(pump: InstalledPump) -> str:
    """What the readings over the years say, or why they say nothing yet."""
    try:
        return _trend_in_words(readings.wear_over_years(pump))
    except SizingError as problem:
        return f"No trend yet: {problem}." if pump.readings.exists() else ""


def _trend_in_words(found: Trend) -> str:
    rate = f"{found.rate_per_year * 100:.1f} % ± {2 * found.rate_sigma * 100:.1f} % a year"
    if not found.is_sure:
        return f"It does not wear beyond the error of the readings ({rate} of its head)."
    told = f"It loses {rate} of its head and has lost {max(found.now, 0.0) * 100:.0f} %."
    if found.misses_in_years is None or found.misses_sigma is None:
        return f"{told} Its duty leaves no figure for how far it may sink."
    left, spread = (_months(one) for one in (found.misses_in_years, 2 * found.misses_sigma))
    if left == 0:
        return f"{told} By that it misses its duty now."
    return f"{told} It will miss its duty in about {left} months ± {spread}."


def _months(years: float) -> int:
    return round(timedelta(days=years * DAYS_PER_YEAR) / timedelta(days=pump_records.DAYS_A_MONTH))


def wear_rows(pump: InstalledPump) -> list[tuple[ReadingSet, str]]:
    """How far under its curve each reading was, oldest first."""
    return [
        (one, f"{signed(-one.come['wear'] * 100)} % ± {2 * one.come['wear_sigma'] * 100:.0f} %")
        for one in pump.readings.exclude(come={}).order_by("on")
    ]
