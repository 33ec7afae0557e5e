"""What a pump gives by the sun alone: litres a day, month by month, against the need."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.demand.sun import day_profile_w_m2, solar_day, sun_hours_h
from sizing.document.answers import Answers, Facts
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import operating_points
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.curve import PumpCurve
from sizing.selection.chance import Routes
from sizing.selection.sweep import Sweep

_SPEEDS = tuple(np.linspace(0.3, 1.0, 15).tolist())
_MOST_PANELS = 400
_FLOWS = 41  # at which a sampled route is looked at
Table = list[tuple[float, float]]  # (input power [W], flow [m3/s]), rising


def profile_w_m2(facts: Facts, row: Answers, month: int) -> list[float]:
    """The month's mean day on the panels, scaled to the sun that was answered for it."""
    profile = day_profile_w_m2(facts.si("latitude"), facts.si("tilt"), month, facts.si("clearness"))
    told = row.optional("sun")
    share = 1.0 if told is None else told / SECONDS_PER_HOUR / sun_hours_h(profile)
    return [share * value for value in profile]


def need_m3(facts: Facts, row: Answers) -> float:
    """What a day of the month needs: its own figure, else that of the whole year."""
    own = row.optional("need")
    return facts.si("daily_need") if own is None else own


@dataclass(frozen=True)
class SolarDays:
    """The mean days of the year on the panels, and what each needs.

    ``irradiance_w_m2`` holds 24 hours of every month one after the other, ``needs_m3`` a day of
    each month; no hour gives more than the well does.
    """

    irradiance_w_m2: tuple[float, ...]
    needs_m3: tuple[float, ...]
    array_w: float
    share_that_arrives: float
    start_share: float
    yield_m3s: float

    def volumes_m3(self, table: Table) -> Array:
        """Litres of every month's mean day [m3], hour by hour."""
        full_w = table[-1][0]
        day = solar_day(
            self.irradiance_w_m2,
            panel_peak_w=self.array_w,
            derating=self.share_that_arrives,
            maximum_power_w=full_w,
            start_power_w=self.start_share * full_w,
            model="flow_table",
            table=table,
        )
        hourly = np.minimum(day.hourly_flow_m3s, self.yield_m3s)
        return np.asarray(hourly.reshape(len(self.needs_m3), -1).sum(axis=1) * SECONDS_PER_HOUR)

    def served(self, table: Table) -> tuple[float, int]:
        """The share of its need that the worst month gets, and which month that is (from 0).

        Infinite where no month needs anything; NaN where the maker gives no power.
        """
        if not table:
            return math.nan, 0
        needs = np.array(self.needs_m3)
        shares = np.where(needs > 0, self.volumes_m3(table) / np.where(needs > 0, needs, 1), np.inf)
        worst = int(shares.argmin())
        return float(shares[worst]), worst

    def panels_needed(self, table: Table, panel_w: float) -> int | None:
        """The least number of panels with which the worst month is served.

        None where none would do: the pump at full speed, or the well, gives too little.
        """
        low, high = 0, _MOST_PANELS
        if not self.with_array(high * panel_w).served(table)[0] >= 1.0:
            return None
        while high - low > 1:
            middle = (low + high) // 2
            enough = self.with_array(middle * panel_w).served(table)[0] >= 1.0
            low, high = (low, middle) if enough else (middle, high)
        return high

    def with_array(self, array_w: float) -> SolarDays:
        """The same days on another array."""
        return replace(self, array_w=array_w)


def solar_days(facts: Facts, rules: Rules) -> SolarDays:
    """The year of a job.

    Raises
    ------
    MissingFact
        Latitude, need or yield not known.
    """
    rows = facts.rows("months")
    sun = [profile_w_m2(facts, row, month) for month, row in enumerate(rows, 1)]
    return SolarDays(
        irradiance_w_m2=tuple(value for day in sun for value in day),
        needs_m3=tuple(need_m3(facts, row) for row in rows),
        array_w=facts.si("panels") * facts.si("panel_power"),
        share_that_arrives=rules.value("SOL-01"),
        start_share=facts.si("start_share"),
        yield_m3s=facts.si("tested_yield"),
    )


def power_to_flow(pumps: list[Pump], system: SystemCurve) -> list[Table]:
    """Flow on this site over input power, at speeds up to the catalogue's, by the affinity laws.

    A table for each pump; empty where the maker gives no power.
    """
    catalogue = Catalogue(pumps)
    rows = np.arange(len(pumps))
    first = catalogue.table.first_flow_m3s if pumps else np.zeros(0)
    found: list[set[tuple[float, float]]] = [set() for _ in pumps]
    for speed in _SPEEDS:
        points = operating_points(catalogue.table.scaled(speed, speed**2), system)
        runs = np.isfinite(points.flow_m3s)
        at = np.where(runs, points.flow_m3s / speed, first)
        powers = catalogue.power_at(rows, at) * speed**3
        flows = np.where(runs, points.flow_m3s, 0.0)
        for table, power, flow in zip(found, powers.tolist(), flows.tolist(), strict=True):
            if not math.isnan(power):
                table.add((power, flow))
    return [sorted(table) for table in found]


@dataclass(frozen=True)
class ServedBySun:
    """What each pump of a sweep serves of its worst month's need; NaN where that is not known."""

    days: SolarDays

    def __call__(self, sweep: Sweep) -> Array:
        pumps = [sweep.catalogue.pumps[row] for row in sweep.rows]
        return np.array([self.days.served(one)[0] for one in power_to_flow(pumps, sweep.system)])

    def met_on(self, curves: Sequence[PumpCurve], routes: Routes, head_factor: Array) -> Array:
        """Whether each pump serves its worst month on each sampled route.

        What is in doubt of need and sun moves the flow needed, and so the need here.
        """
        needs = routes.needed_m3s / routes.needed_now_m3s
        flows = np.linspace(0.0, max(curve.last_flow_m3s for curve in curves), _FLOWS)
        asked = np.array([routes.head_m(np.full_like(needs, flow)) for flow in flows])
        return np.array(
            [self._served_on(curve, flows, asked, head_factor) >= needs for curve in curves]
        )

    def _served_on(
        self, curve: PumpCurve, flows_m3s: Array, asked_m: Array, head_factor: Array
    ) -> Array:
        """The share of its worst month's need that one pump serves on each route."""
        powers, given = [], []
        for speed in _SPEEDS:
            at = np.clip(flows_m3s / speed, curve.flows_m3s[0], curve.last_flow_m3s)
            spare = speed**2 * curve.head_m(at)[:, None] * head_factor - asked_m
            spare[flows_m3s / speed > curve.last_flow_m3s] = -np.inf
            flow = _last_crossing(flows_m3s, spare, speed * curve.last_flow_m3s)
            own = np.clip(flow / speed, curve.flows_m3s[0], None)
            powers.append(speed**3 * curve.powers_at(own))
            given.append(flow)
        power, flow = np.array(powers), np.array(given)
        return np.array(
            [
                self.days.served(list(zip(power[:, at], flow[:, at], strict=True)))[0]
                for at in range(asked_m.shape[1])
            ]
        )


def _last_crossing(flows_m3s: Array, spare_m: Array, most_m3s: float) -> Array:
    """Flow up to which each route (a column) leaves head to spare; none gives no flow [m3/s]."""
    runs = spare_m > 0
    last = len(flows_m3s) - 1 - np.argmax(runs[::-1], axis=0)
    beyond, columns = np.minimum(last + 1, len(flows_m3s) - 1), np.arange(spare_m.shape[1])
    here, there = spare_m[last, columns], spare_m[beyond, columns]
    step = flows_m3s[beyond] - flows_m3s[last]
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.where(np.isfinite(there), here / (here - there), 1.0)
    found = np.minimum(flows_m3s[last] + np.nan_to_num(share) * step, most_m3s)
    return np.where(runs.any(axis=0), found, 0.0)
