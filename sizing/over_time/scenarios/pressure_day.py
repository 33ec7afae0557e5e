"""A pressure tank, an accumulator or a vessel with its switch: a day of taps, a tap left running.

The pump's flow at the tank is that of its own curve at the cut-in and at the highest pressure that
it still fills to; between the two Q2 is taken as linear in the pressure.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from sizing.base.errors import SizingError
from sizing.base.message import Measure, message
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.base.water import GRAVITY_M_S2, STANDARD_AIR_PA
from sizing.checks.base import CheckState, Running
from sizing.checks.booster_control import flow_at_pressure_m3s, set_point_pa
from sizing.checks.well import shortest_run
from sizing.demand.fixture_methods import counts
from sizing.demand.fixtures import running_chance
from sizing.document.answers import Answers, MissingFact
from sizing.hydraulics.system_curve import SystemCurve
from sizing.kinds.base import Kind
from sizing.kinds.well_questions import daily_volume_m3
from sizing.operating_point.one import operating_point
from sizing.over_time.scenarios.base import (
    Band,
    Event,
    Line,
    Mark,
    Outcome,
    Scenario,
    SimulationResult,
    asked,
)
from sizing.over_time.scenarios.day_of_draws import out_of_a_tank
from sizing.over_time.scenarios.pressure_outcome import Switched, of_a_day, of_a_draw
from sizing.over_time.simulation.delivery import Pump
from sizing.over_time.simulation.draws import Tap, day_of_taps, drawn_m3
from sizing.over_time.simulation.pressure_tank import (
    Start,
    TankAndSwitch,
    run_tank,
    worst_draw_m3s,
)

_SEED = 20_26
_USE_S = 60.0  # of a tap, assumed
_BUSY = 0.05  # share of the busiest hour that a tap runs, where nothing says more
_SERVING_HOURS = (0.0,) * 10 + (1.0,) * 5 + (0.0,) * 9  # of a van or a stall
_HALVINGS = 24
DRAW = asked(
    "draw",
    "It draws",
    "flow",
    ("l/min", "gpm"),
    (1e-7, 1.0),
    help_text="Left blank: what starts the pump most often.",
)


CLOCK = asked("clock", "Out from, hours after midnight", "time", ("h", "h"), (0.0, 79_200.0), "6 h")


def _switched(running: Running) -> Switched:
    """The tank of a job.

    Raises
    ------
    SizingError
        The pump does not reach the pressure at which it starts.
    """
    facts, rules = running.facts, running.rules
    if facts.asks("tank_volume"):
        volume, cut_in, cut_out = (facts.si(key) for key in ("tank_volume", "cut_in", "cut_out"))
    elif facts.asks("vessel"):
        volume, cut_in = facts.si("vessel"), set_point_pa(running)
        cut_out = cut_in + rules.value("TNK-02")
    else:
        volume, cut_in, cut_out = (
            facts.si(key) for key in ("accumulator", "switch_on", "switch_off")
        )
    told = facts.optional("precharge") if facts.asks("precharge") else None
    rule, wanted = shortest_run(running)
    if facts.asks("accumulator"):
        rule, wanted = "DEM-03", rules.value("DEM-03")
    return Switched(
        TankAndSwitch(
            tank_volume_m3=volume,
            precharge_pa=cut_in - rules.value("TNK-01") if told is None else told,
            cut_in_pa=cut_in,
            cut_out_pa=cut_out,
            pump=_pump(running, cut_in, cut_out),
            lift_m=0.0,
            pipe_k_s2_m5=0.0,
            density_kg_m3=running.system.water.density_kg_m3,
            atmosphere_pa=STANDARD_AIR_PA,
        ),
        wanted,
        rule,
        by_starts=facts.asks("accumulator"),
    )


def _pump(running: Running, cut_in_pa: float, cut_out_pa: float) -> Pump:
    """The parabola at the tank through two pressures that the pump reaches."""
    weight = running.system.water.density_kg_m3 * GRAVITY_M_S2
    low = _flow_at(running, cut_in_pa)
    if low <= 0:
        raise SizingError("the pump does not even reach the pressure at which its switch starts it")
    top = _highest_reached(running, cut_in_pa, cut_out_pa)
    high = _flow_at(running, top)
    if not high < low * (1 - 1e-9):  # off the end of its curve at both
        raise SizingError("the pump runs off its curve at these pressures: it would give too much")
    slope = (top - cut_in_pa) / weight / (low**2 - high**2)
    return Pump(cut_in_pa / weight + slope * low**2, slope)


def _highest_reached(running: Running, cut_in_pa: float, cut_out_pa: float) -> float:
    """The cut-out, or the highest pressure under it into which the pump still gives something."""
    if _flow_at(running, cut_out_pa) > 0:
        return cut_out_pa
    reached, beyond = cut_in_pa, cut_out_pa
    for _ in range(_HALVINGS):
        middle = (reached + beyond) / 2
        reached, beyond = (middle, beyond) if _flow_at(running, middle) > 0 else (reached, middle)
    return reached


def _flow_at(running: Running, pressure_pa: float) -> float:
    """What the pump gives into the tank at a pressure, its last flow where it gives more."""
    if not running.facts.asks("cut_in"):
        return _at_the_pump(running, pressure_pa)
    route = replace(running.system.route, delivery_pressure_pa=pressure_pa)
    found = operating_point(running.curve, SystemCurve(route, running.system.water))
    if found.point:
        return found.point.flow_m3s
    return running.curve.last_flow_m3s if found.status == "off_end" else 0.0


def _at_the_pump(running: Running, pressure_pa: float) -> float:
    flow = flow_at_pressure_m3s(running, pressure_pa)
    return 0.0 if flow <= running.curve.flows_m3s[0] else flow


def _taps(running: Running) -> tuple[Tap, ...]:
    """The outlets of a job, each as often in use as its own schedule says."""
    facts, rules = running.facts, running.rules
    if facts.asks("accumulator"):
        known = [
            (row.si("count"), row.si("flow"))
            for row in facts.rows("taps")
            if row.optional("count") and row.optional("flow")
        ] or [(1.0, running.demand.inflow_m3s)]
        most_m3 = (
            sum(count * flow for count, flow in known) * sum(_SERVING_HOURS) * SECONDS_PER_HOUR
        )
        busy = min(facts.si("day_volume") / most_m3, 1.0)  # asked: a tap's flow tells no day
        return tuple(Tap(count, flow, busy, _USE_S) for count, flow in known)
    if facts.asks("vessel"):
        try:
            named = counts(facts)
        except MissingFact:  # another way to the flow was taken
            return (Tap(1.0, running.demand.inflow_m3s, _BUSY, _USE_S),)
        found = [(count, *running_chance(code)) for code, count in named.items()]
        return tuple(Tap(count, flow, chance, _USE_S) for count, chance, flow in found)
    each = rules.value("WEL-01")
    told = facts.optional("outlets")
    outlets = max(running.demand.inflow_m3s / each, 1.0) if told is None else told
    day_m3 = daily_volume_m3(facts, rules)
    all_day = outlets * each * sum(running.demand.day_shares) * SECONDS_PER_HOUR
    return (Tap(outlets, each, min(day_m3 / all_day, 1.0) if day_m3 else _BUSY, _USE_S),)


def _day(running: Running, given: Answers) -> SimulationResult:
    found = _switched(running)
    hours = _SERVING_HOURS if running.facts.asks("accumulator") else running.demand.day_shares
    rows = day_of_taps(_taps(running), hours, seed=_SEED)
    holds = running.facts.optional("tank_holds") if running.facts.asks("tank_holds") else None
    ran = _run(found, rows, SECONDS_PER_DAY)
    return ran if holds is None else out_of_a_tank(ran, rows, holds)


def _steady(running: Running, given: Answers) -> SimulationResult:
    found = _switched(running)
    draw = given.optional("draw")
    if draw is None:
        draw = worst_draw_m3s(found.tank)
    if draw is None:  # it never stops, whatever is drawn
        draw = 0.1 * found.tank.flow_m3s(found.tank.cut_in_pa)
    ran = _run(found, ((0.0, draw),), SECONDS_PER_HOUR)
    return replace(ran, outcome=of_a_draw(found, draw) or ran.outcome)


def _run(found: Switched, rows: tuple[tuple[float, float], ...], end_s: float) -> SimulationResult:
    way: list[tuple[float, float]] = []
    day = run_tank(found.tank, rows, end_s=end_s, trace=way)
    tank, starts, lowest, drawn = found.tank, day.starts, day.lowest_pa, day.delivered_m3
    whole = [one for one in starts if one.time_s + one.run_time_s < end_s - 1.0]  # not cut off
    shortest = min((one.run_time_s for one in whole), default=None)
    most = _most_in_an_hour(starts)
    sums: list[tuple[str, Measure | str]] = [
        ("The pump starts", f"{len(starts)} times"),
        ("In its busiest hour", f"{most} times"),
        ("It runs, all in all", Measure(sum(one.run_time_s for one in starts), "time")),
        ("Lowest pressure", Measure(lowest, "pressure")),
        ("Drawn", Measure(drawn, "volume")),
        ("The tank gives between its pressures", Measure(tank.drawdown_m3, "volume")),
    ]
    if shortest is not None:
        sums.insert(3, ("Shortest run", Measure(shortest, "time")))
    wanted_m3 = drawn_m3(rows, end_s)
    if wanted_m3 - drawn > 1e-6:
        sums.insert(-1, ("Wanted", Measure(wanted_m3, "volume")))
    return SimulationResult(
        end_s=end_s,
        line=Line("pressure at the tank", "pressure", tuple(way)),
        marks=(
            Mark("start", "starts", tank.cut_in_pa),
            Mark("stop", "stops", tank.cut_out_pa),
            Mark("bound", "empty's air", tank.precharge_pa),
        ),
        bands=(Band("pump", tuple((one.time_s, one.time_s + one.run_time_s) for one in starts)),),
        events=tuple(
            Event(one.time_s, f"starts, runs {one.run_time_s:.0f} s", tank.cut_in_pa)
            for one in starts
        ),
        sums=tuple(sums),
        outcome=of_a_day(found, day, _counted(found, whole), most),
        below=Line("drawn", "flow", rows, steps=True),
        worse=float(most),
    )


def _most_in_an_hour(starts: tuple[Start, ...]) -> int:
    hours: dict[int, int] = {}
    for one in starts:
        hour = int(one.time_s // SECONDS_PER_HOUR)
        hours[hour] = hours.get(hour, 0) + 1
    return max(hours.values(), default=0)


def _counted(found: Switched, starts: Sequence[Start]) -> list[float]:
    """Runs, or from start to start [s]."""
    if found.by_starts:
        return [after.time_s - before.time_s for before, after in pairwise(starts)]
    return [one.run_time_s for one in starts]


def _tank_alone(running: Running, given: Answers) -> SimulationResult:
    """No pump from when the power goes, the tank just over its cut-in, until it is empty."""
    found = _switched(running)
    tank = found.tank
    holds = tank.tank_volume_m3 - tank.air_m3(tank.cut_in_pa)
    hours = _SERVING_HOURS if running.facts.asks("accumulator") else running.demand.day_shares
    begin = given.si("clock")
    rows = [
        (max(time - begin, 0.0), draw)
        for time, draw in day_of_taps(_taps(running), hours, seed=_SEED)
        if time >= begin
    ]
    rows = [(0.0, 0.0), *[one for one in rows if one[0] > 0.0]]
    end = SECONDS_PER_DAY - begin
    points, drawn, empty = [(0.0, tank.cut_in_pa)], 0.0, None
    for (time, draw), until in zip(rows, [*(one[0] for one in rows[1:]), end], strict=True):
        if draw > 0 and drawn + draw * (until - time) >= holds:
            empty = time + (holds - drawn) / draw
            points += [(empty, max(tank.precharge_pa, 0.0)), (empty, 0.0)]
            break
        drawn += draw * (until - time)
        points.append((until, tank.pressure_pa(tank.air_m3(tank.cut_in_pa) + drawn)))
    points.append((end, 0.0 if empty is not None else points[-1][1]))
    lasts = Measure(end if empty is None else empty, "time")
    said = message(
        "Without power the tank gives {holds} from its cut-in down: by the day of taps it lasts"
        " {lasts}.",
        holds=Measure(holds, "volume"),
        lasts=lasts,
    )
    state: CheckState = "hold" if empty is None else "watch"
    return SimulationResult(
        end_s=end,
        line=Line("pressure at the tank", "pressure", tuple(points)),
        marks=(
            Mark("start", "pump would start", tank.cut_in_pa),
            Mark("bound", "empty's air", tank.precharge_pa),
        ),
        bands=(),
        events=() if empty is None else (Event(empty, "the tank is empty", 0.0),),
        sums=(("Left in the tank", Measure(holds, "volume")), ("It lasts", lasts)),
        outcome=Outcome(
            state, said, "A larger tank, water kept by, or a generator: flushing is the first need."
        ),
        below=Line("drawn", "flow", tuple(rows), steps=True),
        away=((0.0, end),),
        over_at_s=empty,
    )


def _has_a_tank(kind: Kind, running: Running) -> bool:
    facts = running.facts
    if facts.asks("tank_volume") and facts.asks("cut_in"):
        return not facts.asks("fills") or facts.choice("fills") == "pressure"
    if facts.asks("vessel"):
        return facts.choice("control") != "drive" and facts.optional("vessel") is not None
    return facts.asks("accumulator") and facts.optional("accumulator") is not None


SCENARIOS = (
    Scenario(
        "taps",
        "a day of taps",
        "each outlet is opened at random for about a minute, by the hours of a household, as often"
        " as its schedule or the day's water says (else 5 % of the busiest hour; a van's day is"
        " drawn between ten and three); the same day each time",
        _has_a_tank,
        _day,
    ),
    Scenario(
        "steady",
        "one tap left running",
        "an hour at one draw",
        _has_a_tank,
        _steady,
        (DRAW,),
    ),
    Scenario(
        "tank_alone",
        "the power is out",
        "the tank just over its cut-in when the power goes, the day of taps going on",
        _has_a_tank,
        _tank_alone,
        (CLOCK,),
    ),
)
