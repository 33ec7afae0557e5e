"""A demo site that runs by the simulators, read with noise and drop-outs like real devices.

The cellar's pit is run over a day by the core; a moment of it is what the devices say. It starts at
noon and goes on as fast as asked, day after day.
"""

from __future__ import annotations

import math
import random
import time
from dataclasses import dataclass
from pathlib import Path

from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Running
from sizing.editing import intake
from sizing.over_time.scenarios.pit_model import pit_of
from sizing.over_time.simulation.delivery import delivery
from sizing.over_time.simulation.pit import Inflow, Pit, PitRun, run_pit
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.size import size

DEMO = Path(__file__).parents[1] / "demo"
JOB = "01-bookbinders-cellar.json"
HEADINGS = "time,level [m],flow [m³/h],pressure [bar],power [W]"
# A drier night than the day: (from [h], share of the inflow told).
_DAY = ((0.0, 0.45), (6.0, 0.7), (9.0, 1.0), (14.0, 0.8), (20.0, 0.55))
_LEVEL_NOISE_M, _FLOW_NOISE, _PRESSURE_NOISE_BAR, _POWER_NOISE = 0.0015, 0.015, 0.01, 0.01
_DROPS = 0.01  # of the readings, a device at a time


@dataclass(frozen=True)
class Reading:
    """One moment; None where a device dropped out."""

    moment_s: float
    level_m: float | None
    flow_m3s: float | None
    pressure_pa: float | None
    power_w: float | None

    def csv(self, stamp: str) -> str:
        """A row under :data:`HEADINGS`."""
        cells = (
            (self.level_m, 1.0, 4),
            (self.flow_m3s, 3600.0, 3),
            (self.pressure_pa, 1e-5, 3),
            (self.power_w, 1.0, 0),
        )
        return ",".join(
            [stamp, *("" if one is None else f"{one * by:.{places}f}" for one, by, places in cells)]
        )

    def as_json(self, stamp: str) -> dict[str, float | str | None]:
        """The same with the units in the names."""
        return {
            "time": stamp,
            "level_m": self.level_m,
            "flow_m3h": None if self.flow_m3s is None else self.flow_m3s * 3600.0,
            "pressure_bar": None if self.pressure_pa is None else self.pressure_pa * 1e-5,
            "power_w": self.power_w,
        }


class Site:
    """The devices of the demo cellar."""

    def __init__(self, *, speed: float = 60.0, seed: int = 7) -> None:
        pumps = Catalogue(tuple(r.pump for r in read_csv((DEMO / "pumps.csv").read_text())))
        job = intake.loads((DEMO / "jobs" / JOB).read_bytes())
        running = size(job, pumps).running
        if running is None:
            raise SystemExit("the demo job has no pump that runs: its files were changed")
        self.running: Running = running
        self.pit: Pit = pit_of(running)
        self.inflow_m3s = running.demand.inflow_m3s
        rows = tuple((hour * 3600.0, share * self.inflow_m3s) for hour, share in _DAY)
        self.run: PitRun = run_pit(self.pit, Inflow(rows), initial_level_m=self.pit.stop_m)
        self._gives = delivery([self.pit.pumps[0]], self.pit.against)
        self._speed, self._begun = speed, time.monotonic()
        self._random = random.Random(seed)

    def now_s(self) -> float:
        """The moment of the demo's own day [s]; it began at noon."""
        gone = (time.monotonic() - self._begun) * self._speed
        return (SECONDS_PER_DAY / 2 + gone) % SECONDS_PER_DAY

    def read(self, moment_s: float) -> Reading:
        """What the devices say at a moment of the day, noise and drop-outs included."""
        level = self.run.timeline.level_m(moment_s)
        runs = any(
            one.running and one.from_s <= moment_s < one.to_s for one in self.run.timeline.pieces
        )
        flow = self._gives.flow_m3s(level) if runs else 0.0
        water, curve = self.running.system.water, self.running.curve
        head = float(curve.head_m(flow)) if runs else 0.0
        power = float(curve.powers_at([flow])[0]) if runs and curve.powers_w else 0.0
        noise = self._random.gauss
        return Reading(
            moment_s,
            self._dropped(level + noise(0.0, _LEVEL_NOISE_M)),
            self._dropped(max(flow * (1 + noise(0.0, _FLOW_NOISE)), 0.0)),
            self._dropped(water.pressure_pa(head) + 1e5 * noise(0.0, _PRESSURE_NOISE_BAR)),
            self._dropped(0.0 if math.isnan(power) else power * (1 + noise(0.0, _POWER_NOISE))),
        )

    def _dropped(self, value: float) -> float | None:
        return None if self._random.random() < _DROPS else value


def stamp(moment_s: float) -> str:
    """A moment of the demo's own day as a device writes it."""
    whole = int(moment_s)
    return f"2026-11-26T{whole // 3600:02}:{whole % 3600 // 60:02}:{whole % 60:02}"
