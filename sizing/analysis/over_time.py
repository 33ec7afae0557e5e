"""A job in a pit run over a day: what its pump really does, hour by hour, and what goes wrong.

The pump's own curve meets the run's own system curve at the stop level and at the rim; between the
two Q2 is taken as linear in the level (exact where both are parabolas; on the demo jobs within
0.3 % of the flow solved anew at each level). Inflows are assumed unless a day is told, and every
assumption is named with the scenario.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from scipy.optimize import brentq

from sizing.analysis.changed import Known, NotYet
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.checks.base import Running
from sizing.checks.pit import drain_back_m3, levels, turns
from sizing.kinds.base import Kind
from sizing.kinds.pit import PitKind, pit_plan
from sizing.simulation.delivery import Against, Pump
from sizing.simulation.pit import Inflow, Pit, PitRun, run_pit
from sizing.simulation.plan_area import AreaByLevel

# Share of the largest hour, by the hour of the day: people up at six, at home in the evening
# (assumed: the usual double hump of a household's water, two low hours in the night).
_HOUSEHOLD = (
    *(0.15, 0.08, 0.06, 0.06, 0.10, 0.30, 0.75, 1.00, 0.85, 0.65, 0.55, 0.55),
    *(0.60, 0.50, 0.42, 0.40, 0.48, 0.65, 0.85, 0.90, 0.75, 0.60, 0.45, 0.28),
)
_QUIET, _STORM = 0.15, 1.5  # of the inflow told: a dry day, the worst hour of a wet night
_OUT_H = 4.0


@dataclass(frozen=True)
class Scenario:
    """A day that a job can be run through.

    ``shares`` are of the inflow told, by (from [h], share).
    """

    code: str
    label: str
    assumed: str
    shares: tuple[tuple[float, float], ...]
    power_cuts_h: tuple[tuple[float, float], ...] = ()
    failed: tuple[int, ...] = ()
    begins_at_start: bool = False
    of_people: bool = False  # makes sense where people's water comes in, not the ground's


def _storm() -> tuple[tuple[float, float], ...]:
    rising = ((0.0, 0.3), (1.0, 0.6), (2.0, 1.0), (3.0, _STORM), (4.0, 1.0), (6.0, 0.7))
    return (*rising, (9.0, 0.5), (14.0, 0.3))


_ALL = (
    Scenario(
        "wettest",
        "at the inflow told, all day",
        "what was told as the most comes in from midnight to midnight",
        ((0.0, 1.0),),
    ),
    Scenario(
        "ordinary",
        "an ordinary day",
        "the usual double hump of a household, its largest hour as told",
        tuple((float(hour), share) for hour, share in enumerate(_HOUSEHOLD)),
        of_people=True,
    ),
    Scenario(
        "dry",
        "a dry day",
        f"{_QUIET:.0%} of what was told comes in",
        ((0.0, _QUIET),),
    ),
    Scenario(
        "wet_night",
        "a wet night",
        f"rising to what was told, {_STORM:g} times that for an hour at three, and back",
        _storm(),
    ),
    Scenario(
        "failed",
        "pump 1 failed",
        "the first pump never runs, and what was told comes in all day",
        ((0.0, 1.0),),
        failed=(1,),
    ),
    Scenario(
        "out",
        f"out for {_OUT_H:g} h",
        f"no power from 1 to {1 + _OUT_H:g} o'clock while what was told comes in",
        ((0.0, 1.0),),
        power_cuts_h=((1.0, 1.0 + _OUT_H),),
        begins_at_start=True,
    ),
)
SCENARIOS: Mapping[str, Scenario] = MappingProxyType({one.code: one for one in _ALL})


@dataclass(frozen=True)
class Day:
    """A pit, run through one scenario, and how often its pumps may start [1/h]."""

    scenario: Scenario
    pit: Pit
    run: PitRun
    inflow_m3s: float  # as told
    usual_starts_per_h: float
    most_starts_per_h: float

    @property
    def busiest_starts_per_h(self) -> float:
        """Of each pump in the busiest hour of the clock, those that take turns sharing."""
        busy = self.run.most_starts_in_an_hour
        working = sum(1 for starts in self.run.starts if starts)
        return busy / (working if self.pit.alternating and working > 1 else 1)

    @property
    def lasted_s(self) -> float | None:
        """From when the power goes until it overflows; None where either does not happen."""
        first, cuts = self.run.first_overflow_s, self.scenario.power_cuts_h
        return None if first is None or not cuts else first - cuts[0][0] * SECONDS_PER_HOUR

    @property
    def state(self) -> str:
        """``fail`` where it overflows or starts too often, ``watch`` near that, else ``hold``."""
        if self.run.overflow_m3 > 0 or self.busiest_starts_per_h > self.most_starts_per_h:
            return "fail"
        stood = self.run.first_alarm_s is not None or self.run.total_above_inlet_s > 0
        return "watch" if stood or self.busiest_starts_per_h > self.usual_starts_per_h else "hold"


def scenarios(kind: Kind) -> tuple[Scenario, ...]:
    """The days that make sense for a kind of job, the one to begin with first."""
    people = kind.code != "sump"
    found = [one for one in SCENARIOS.values() if people or not one.of_people]
    return tuple(sorted(found, key=lambda one: not one.of_people))


def applies(base: Known) -> bool:
    """Whether the job's water stands in a pit."""
    return isinstance(base.sizing.kind, PitKind)


def day(base: Known, code: str, times_inflow: float = 1.0) -> Day:
    """Run a job through a scenario, with so many times the inflow told.

    Raises
    ------
    NotYet
        The job has no pit, or no pump yet that runs.
    SizingError
        Its levels cannot be.
    """
    running, kind = base.sizing.running, base.sizing.kind
    if not isinstance(kind, PitKind):
        raise NotYet("this job has no pit: only a pit fills and empties over a day")
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    scenario = SCENARIOS.get(code, SCENARIOS["wettest"])
    pit, most = pit_of(running), base.demand.inflow_m3s * times_inflow
    rows = tuple((hour * SECONDS_PER_HOUR, share * most) for hour, share in scenario.shares)
    found = run_pit(
        pit,
        Inflow(rows),
        end_s=SECONDS_PER_DAY,
        initial_level_m=pit.start_m if scenario.begins_at_start else pit.stop_m,
        power_cuts=[
            (begin * SECONDS_PER_HOUR, end * SECONDS_PER_HOUR)
            for begin, end in scenario.power_cuts_h
        ],
        failed=scenario.failed,
    )
    usual, allowed = base.rules.value(kind.pit_rules.starts), base.rules.high(kind.pit_rules.starts)
    return Day(
        scenario=scenario,
        pit=pit,
        run=found,
        inflow_m3s=most,
        usual_starts_per_h=usual * SECONDS_PER_HOUR,
        most_starts_per_h=allowed * SECONDS_PER_HOUR,
    )


def pit_of(running: Running) -> Pit:
    """The pit of a job with the pump that was chosen.

    Two units where one stands by: they take turns, and both run from the alarm level on.
    """
    at = levels(running.facts)
    units = 2 if turns(running) > 1 else 1
    pump, against = _local(running, at.stop_m, at.overflow_m, units)
    lag = at.alarm_m if units == 2 and at.start_m < at.alarm_m < at.overflow_m else None
    area = AreaByLevel.upright(pit_plan(running.facts).area_m2)
    inlet = min(at.inlet_m, at.overflow_m - 1e-6)
    return Pit(
        area=area,
        stop_m=at.stop_m,
        start_m=at.start_m,
        inlet_m=inlet,
        alarm_m=min(at.alarm_m, at.overflow_m - 1e-6),
        rim_m=at.overflow_m,
        pumps=(pump,) * units,
        against=against,
        lag_start_m=lag,
        alternating=units == 2,
        drain_back_m3=drain_back_m3(running),
    )


def flow_at_level(running: Running, level_m: float, stop_m: float, units: int = 1) -> float:
    """What the pump gives with the water at a level, its curve against the run's [m3/s]."""
    curve, rise = running.curve, level_m - stop_m

    def spare(flow: float) -> float:
        return float(curve.head_m(flow / units)) - running.system.head_at(flow) + rise

    last = curve.last_flow_m3s * units
    if spare(0.0) <= 0:
        return 0.0
    return last if spare(last) >= 0 else float(brentq(spare, 0.0, last, xtol=1e-12))


def _local(running: Running, stop_m: float, rim_m: float, units: int) -> tuple[Pump, Against]:
    """A parabola through what the pump gives at the stop level and at the rim.

    With two units, what both give together parts it into the pump's share and the run's.
    """
    low = max(flow_at_level(running, stop_m, stop_m), 1e-9)
    high = max(flow_at_level(running, rim_m, stop_m), low * (1 + 1e-6))
    c = (rim_m - stop_m) / (high**2 - low**2)
    floor = stop_m - c * low**2
    b, k = c, 0.0
    if units == 2:
        both = max(flow_at_level(running, stop_m, stop_m, 2), low * (1 + 1e-9))
        together = (stop_m - floor) / both**2  # b / 4 + k
        b = min(max((c - together) * 4 / 3, 1e-9), c)
        k = c - b
    return Pump(0.0, b), Against(floor, k)
