"""A pit's day and year, against a loop of one-second steps in the same run."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np

from sizing.over_time.simulation.delivery import Against, Pump, delivery
from sizing.over_time.simulation.pit import Inflow, Pit, run_pit
from sizing.over_time.simulation.plan_area import AreaByLevel
from sizing.over_time.simulation.solar_year import Panels, flows_m3s, solar_years
from sizing.over_time.simulation.sun_year import HOURS, sun_year

_DAY_S = 86_400
PIT = Pit(
    area=AreaByLevel.upright(0.283),
    stop_m=0.12,
    start_m=0.34,
    alarm_m=0.44,
    inlet_m=0.5,
    rim_m=0.7,
    pumps=(Pump(8.2, 1.05e6),),
    against=Against(3.4, 4.2e5),
)
FLOWS = ((0.0, 9e-5), (21_600.0, 4.2e-4), (30_600.0, 2e-4), (61_200.0, 3.1e-4), (69_300.0, 8e-5))


def stepped(days: int) -> int:
    """The same by seconds, as anybody would write it; the starts."""
    how, level, on, starts = delivery(PIT.pumps, PIT.against), 0.2, False, 0
    for second in range(days * _DAY_S):
        flow = [one for begin, one in FLOWS if begin <= second % _DAY_S][-1]
        if not on and level >= PIT.start_m:
            on, starts = True, starts + 1
        elif on and level <= PIT.stop_m:
            on = False
        level += (flow - (how.flow_m3s(level) if on else 0.0)) / 0.283
    return starts


def main() -> None:
    """Measure, report."""
    began = time.perf_counter()
    slow = stepped(1)
    loop_s = time.perf_counter() - began
    year = tuple((day * _DAY_S + begin, flow) for day in range(365) for begin, flow in FLOWS)
    for label, rows, days in (("day", FLOWS, 1), ("year", year, 365)):
        best = float("inf")
        for _ in range(3):
            began = time.perf_counter()
            found = run_pit(
                PIT, Inflow(rows), initial_level_m=0.2, end_s=days * _DAY_S, keep=days == 1
            )
            best = min(best, time.perf_counter() - began)
        told = f"{best * 1e3:.1f} ms, {loop_s * days / best:.0f} times the loop"
        print(f"a pit's {label}: {told}; {sum(found.starts)} starts (loop: {slow} a day)")
    candidates = [replace(PIT, pumps=(Pump(8.2 + 0.1 * at, 1.05e6),)) for at in range(50)]
    began = time.perf_counter()
    for pit in candidates:
        run_pit(pit, Inflow(FLOWS), initial_level_m=0.2, keep=False)
    spent = time.perf_counter() - began
    print(f"the day of 50 candidates: {spent:.2f} s, {50 * loop_s / spent:.0f} times the loop")
    sun_year.cache_clear()
    began = time.perf_counter()
    sun = sun_year(46.5, 50.0, (0.48,) * 12)
    watts = Panels(780.0, 0.8).power_w(sun.slope_w_m2, sun.air_c)
    most = np.full(HOURS, 5e-4)
    tables = [[(60.0, 0.0), (300.0 + at, 3e-4), (600.0 + at, 5e-4)] for at in range(20)]
    flows = np.array([flows_m3s(watts, table, 0.1, most) for table in tables])
    solar_years(flows, np.full(HOURS, 0.06), 9.0)
    print(f"a solar year of 8,760 h for 20 pumps: {time.perf_counter() - began:.2f} s")


if __name__ == "__main__":
    main()
