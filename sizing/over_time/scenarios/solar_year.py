"""A solar well through a typical year, hour by hour: what the tank holds, and days of shortage."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from sizing.base.message import Measure, message
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Running
from sizing.demand.day_pattern import HOUSEHOLD
from sizing.demand.sun import MONTHS
from sizing.document.answers import Answers, Facts
from sizing.hydraulics.friction import Array
from sizing.kinds.base import Kind
from sizing.kinds.solar_days import SolarDays, power_to_flow, solar_days
from sizing.over_time.scenarios.base import (
    Event,
    Line,
    Mark,
    Outcome,
    Scenario,
    SimulationResult,
    Table,
    asked,
    factor,
)
from sizing.over_time.simulation.solar_year import Panels, SolarYears, flows_m3s, solar_years
from sizing.over_time.simulation.sun_year import (
    DAYS,
    HOURS,
    SunYear,
    by_hour_of_year,
    monthly,
    sun_year,
)

_YEAR_S = HOURS * SECONDS_PER_HOUR
_FEW_DAYS = 7  # without water in a year: watched up to it, fails beyond
_DRY_MONTH = 8  # August; February in the south
NEED = factor("need", "Need as told, times", 10.0)
YIELD = factor("well", "The well gives, times", 3.0)
PANELS = asked(
    "panels", "Panels", "count", ("×", "×"), (1.0, 400.0), help_text="Left blank: as on the job."
)


def sun_of(facts: Facts, days: SolarDays) -> SunYear:
    """The job's year of sun; months whose sun was told are scaled to that."""
    year = sun_year(facts.si("latitude"), facts.si("tilt"), (facts.si("clearness"),) * 12)
    told = np.array(days.irradiance_w_m2).reshape(12, 24).mean(axis=1)
    has = np.array([row.optional("sun") is not None for row in facts.rows("months")])
    ours = monthly(year.slope_w_m2)
    scale = by_hour_of_year(np.where(has & (ours > 0), told / np.where(ours > 0, ours, 1), 1.0))
    return replace(year, slope_w_m2=year.slope_w_m2 * scale)


def _year(running: Running, given: Answers, *, dry_month: int = 0) -> SimulationResult:
    """``dry_month``: in it the need and the yield are times what is asked, else all through."""
    facts = running.facts
    days = solar_days(facts, running.rules)
    told = given.optional("panels")
    panels = facts.si("panels") if told is None else told
    sun, table = sun_of(facts, days), power_to_flow([running.pump.pump], running.system)[0]
    months = np.arange(1, 13)
    in_it = np.ones(12, dtype=bool) if not dry_month else months == _dry(facts, dry_month)
    needs = np.array(days.needs_m3) * np.where(in_it, given.si("need"), 1.0)
    gives = days.yield_m3s * by_hour_of_year(np.where(in_it, given.si("well"), 1.0))
    shares = np.array(HOUSEHOLD) / sum(HOUSEHOLD)
    hourly_need = (by_hour_of_year(needs).reshape(DAYS, 24) * shares).ravel()

    def flows(count: float) -> Array:
        array = Panels(count * facts.si("panel_power"), days.share_that_arrives)
        watts = array.power_w(sun.slope_w_m2, sun.air_c)
        return flows_m3s(watts, table, days.start_share, gives)

    counts = [panels, max(panels - 1, 1.0), panels + 1]
    ran = solar_years(np.array([flows(one) for one in counts]), hourly_need, facts.si("tank"))
    return _told(ran, sun, hourly_need, counts, facts.si("tank"))


def _dry(facts: Facts, month: int) -> int:
    return month if facts.si("latitude") >= 0 else (month + 5) % 12 + 1


def _told(
    ran: SolarYears,
    sun: SunYear,
    need_m3: Array,
    counts: list[float],
    tank_m3: float,
) -> SimulationResult:
    short, days = ran.short_m3[0], [int(one) for one in ran.days_short]
    stored, pumped = ran.stored_m3[0], ran.pumped_m3[0]
    times = np.arange(1.0, HOURS + 1.0) * SECONDS_PER_HOUR
    runs_dry = short.reshape(DAYS, 24).sum(axis=1) > 1e-4
    sun_h = monthly(sun.slope_w_m2) * 24 / 1000 * SECONDS_PER_HOUR  # of full sun, in seconds
    given, needed, lacking = (monthly(one) * 24 for one in (pumped, need_m3, short))
    month_of = by_hour_of_year(range(12))
    table = Table(
        ("month", "sun a day", "pumped a day", "needed a day", "short a day", "lowest in the tank"),
        tuple(
            (
                MONTHS[at][:3],
                Measure(sun_h[at], "time", 1),
                Measure(given[at], "volume"),
                Measure(needed[at], "volume"),
                Measure(lacking[at], "volume"),
                Measure(float(stored[month_of == at].min()), "volume"),
            )
            for at in range(12)
        ),
        "Sun a day: hours of full sun on the panels.",
    )
    first = int(np.argmax(short > 1e-4)) if days[0] else None
    return SimulationResult(
        end_s=_YEAR_S,
        line=Line(
            "in the tank",
            "volume",
            _held(times, stored, tank_m3),
        ),
        marks=(Mark("bound", "full", tank_m3), Mark("rim", "empty", 0.0)),
        bands=(),
        events=tuple(
            Event(day * 24 * SECONDS_PER_HOUR, "somebody goes without water", 0.0)
            for day in np.flatnonzero(runs_dry).tolist()
        ),
        sums=(
            ("Days without enough water", f"{days[0]} of {DAYS}"),
            (f"With {counts[1]:g} panels", f"{days[1]} days"),
            (f"With {counts[2]:g} panels", f"{days[2]} days"),
            ("Pumped in the year", Measure(float(pumped.sum()), "volume")),
            ("Needed in the year", Measure(float(need_m3.sum()), "volume")),
            ("Short in the year", Measure(float(short.sum()), "volume")),
            ("Ran over or was not pumped", Measure(float(ran.spilt_m3[0].sum()), "volume")),
        ),
        outcome=_outcome(days, counts, float(short.sum()), ran),
        below=Line(
            "pumped",
            "flow",
            tuple(zip((times - SECONDS_PER_HOUR).tolist(), (pumped / SECONDS_PER_HOUR).tolist())),
            steps=True,
        ),
        over_at_s=None if first is None else float(times[first]),
        table=table,
        worse=float(short.sum()),
    )


def _held(times: Array, stored: Array, tank_m3: float) -> tuple[tuple[float, float], ...]:
    """What the tank holds at the end of each hour, full at the beginning."""
    return ((0.0, tank_m3), *zip(times.tolist(), stored.tolist(), strict=True))


def _outcome(days: list[int], counts: list[float], short_m3: float, ran: SolarYears) -> Outcome:
    if not days[0]:
        lowest = float(ran.stored_m3[0].min())
        return Outcome(
            "hold",
            message(
                "It holds all year; the tank is never under {lowest}.",
                lowest=Measure(lowest, "volume"),
            ),
        )
    by_month = monthly(ran.short_m3[0])
    said = message(
        "On {days} days of the year somebody goes without, {short} in all, most in {month}.",
        days=days[0],
        short=Measure(short_m3, "volume"),
        month=MONTHS[int(by_month.argmax())],
    )
    helps = days[2] < days[0]
    remedy = (
        f"With {counts[2]:g} panels it is {days[2]} days; else a larger tank, a stronger pump, or"
        " less water then."
        if helps
        else "One panel more changes nothing: the well or the pump gives no more. A larger tank, a"
        " second source, or less water then."
    )
    return Outcome("watch" if days[0] <= _FEW_DAYS else "fail", said, remedy)


def _has_sun_and_tank(kind: Kind, running: Running) -> bool:
    facts = running.facts
    return facts.asks("panels") and facts.optional("tank") is not None


_SUN = (
    "days differ as they do in nature about the clearness told, the same year each time; the air is"
    " rough, by latitude; the water is drawn by the hours of a household; the tank is full at New"
    " Year; the well gives its tested yield and no more"
)
SCENARIOS = (
    Scenario(
        "solar_year",
        "a year of sun",
        _SUN,
        _has_sun_and_tank,
        _year,
        (PANELS, NEED, YIELD),
        rank=60,
    ),
    Scenario(
        "dry_august",
        "a dry late summer",
        "as a year of sun; in August, south of the equator in February, need and yield are times"
        " what is asked",
        _has_sun_and_tank,
        partial(_year, dry_month=_DRY_MONTH),
        (
            replace(NEED, label="Need then, times", default="1.5 ×"),
            replace(YIELD, label="The well gives then, times", default="0.5 ×"),
            PANELS,
        ),
        rank=60,
    ),
)
