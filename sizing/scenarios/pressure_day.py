"""A pressure tank, an accumulator or a vessel with its switch: a day of taps, a tap left running.

The pump's flow at the tank is that of its own curve at the cut-in and at the highest pressure that
it still fills to; between the two Q2 is taken as linear in the pressure.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
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
from sizing.scenarios.base import Band, Happening, Line, Mark, Outcome, Ran, Scenario, asked
from sizing.scenarios.day_of_draws import out_of_a_tank
from sizing.simulation.delivery import Pump
from sizing.simulation.draws import Tap, day_of_taps, drawn_m3
from sizing.simulation.pressure_tank import (
    Start,
    TankAndSwitch,
    TankDay,
    cycling,
    run_tank,
    worst_draw_m3s,
)

_SEED = 20_26
_USE_S = 60.0  # of a tap, assumed
_BUSY = 0.05  # share of the busiest hour that a tap runs, where nothing says more
_SERVING_HOURS = (0.0,) * 10 + (1.0,) * 5 + (0.0,) * 9  # of a van or a stall
_HALVINGS = 24
_MUCH_SHORT = 0.05  # of what is wanted: less is a moment in which all taps run
DRAW = asked(
    "draw",
    "It draws",
    "flow",
    ("l/min", "gpm"),
    (1e-7, 1.0),
    help_text="Left blank: what starts the pump most often.",
)


CLOCK = asked("clock", "Out from, hours after midnight", "time", ("h", "h"), (0.0, 79_200.0), "6 h")


@dataclass(frozen=True)
class _Switched:
    """A tank with its switch on a job.

    What is wanted [s], by which rule: the shortest run, or (``by_starts``) from start to start.
    """

    tank: TankAndSwitch
    wanted_s: float
    rule: str
    by_starts: bool

    @property
    def unit(self) -> str:
        """What is counted, in a word."""
        return "rounds from start to start" if self.by_starts else "runs"


def _switched(running: Running) -> _Switched:
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
    return _Switched(
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


def _day(running: Running, given: Answers) -> Ran:
    found = _switched(running)
    hours = _SERVING_HOURS if running.facts.asks("accumulator") else running.demand.day_shares
    rows = day_of_taps(_taps(running), hours, seed=_SEED)
    holds = running.facts.optional("tank_holds") if running.facts.asks("tank_holds") else None
    ran = _run(found, rows, SECONDS_PER_DAY)
    return ran if holds is None else out_of_a_tank(ran, rows, holds)


def _steady(running: Running, given: Answers) -> Ran:
    found = _switched(running)
    draw = given.optional("draw")
    if draw is None:
        draw = worst_draw_m3s(found.tank)
    if draw is None:  # it never stops, whatever is drawn
        draw = 0.1 * found.tank.flow_m3s(found.tank.cut_in_pa)
    ran = _run(found, ((0.0, draw),), SECONDS_PER_HOUR)
    return replace(ran, outcome=_of_a_draw(found, draw) or ran.outcome)


def _run(found: _Switched, rows: tuple[tuple[float, float], ...], end_s: float) -> Ran:
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
    return Ran(
        end_s=end_s,
        line=Line("pressure at the tank", "pressure", tuple(way)),
        marks=(
            Mark("start", "starts", tank.cut_in_pa),
            Mark("stop", "stops", tank.cut_out_pa),
            Mark("bound", "empty's air", tank.precharge_pa),
        ),
        bands=(Band("pump", tuple((one.time_s, one.time_s + one.run_time_s) for one in starts)),),
        happenings=tuple(
            Happening(one.time_s, f"starts, runs {one.run_time_s:.0f} s", tank.cut_in_pa)
            for one in starts
        ),
        sums=tuple(sums),
        outcome=_outcome(found, day, _counted(found, whole), most),
        below=Line("drawn", "flow", rows, steps=True),
        worse=float(most),
    )


def _short(day: TankDay) -> Outcome | None:
    """Where more is drawn than tank and pump give: the pressure falls to nothing."""
    if day.short_m3 <= _MUCH_SHORT * (day.short_m3 + day.delivered_m3):
        return None
    return Outcome(
        "fail",
        message(
            "More is drawn than the pump gives at no pressure: the tank empties and {short} are"
            " wanting, for {lasts}.",
            short=Measure(day.short_m3, "volume"),
            lasts=Measure(day.short_s, "time"),
        ),
        "Take a stronger pump, or let less run at once.",
        "pump",
    )


def _most_in_an_hour(starts: tuple[Start, ...]) -> int:
    hours: dict[int, int] = {}
    for one in starts:
        hour = int(one.time_s // SECONDS_PER_HOUR)
        hours[hour] = hours.get(hour, 0) + 1
    return max(hours.values(), default=0)


_LARGER = (
    "Take a larger tank, set the two pressures further apart, or a drive that follows the taps."
)


def _counted(found: _Switched, starts: Sequence[Start]) -> list[float]:
    """Runs, or from start to start [s]."""
    if found.by_starts:
        return [after.time_s - before.time_s for before, after in pairwise(starts)]
    return [one.run_time_s for one in starts]


def _outcome(found: _Switched, day: TankDay, counted: list[float], most: int) -> Outcome:
    tank, starts, lowest = found.tank, day.starts, day.lowest_pa
    if tank.flow_m3s(tank.cut_out_pa) <= 0:
        return Outcome(
            "fail",
            message("The pump never reaches the pressure at which it stops: once on, it runs on."),
            "Set the cut-out lower, or take a pump with more head at no flow.",
            about="pump",
        )
    wanting = _short(day)
    if wanting is not None:
        return wanting
    if not starts:
        said = message("The tank alone gives what is drawn: the pump never starts.")
        return Outcome("hold", said)
    short = sum(1 for one in counted if one < found.wanted_s * (1 - 1e-6))
    worst = min(counted, default=0.0)
    if short:
        said = message(
            "Of {count} {unit} {short} are shorter than the {wanted} that spare the motor (rule"
            " {rule}); the shortest lasts {worst}.",
            count=len(counted),
            unit=found.unit,
            short=short,
            wanted=Measure(found.wanted_s, "time"),
            rule=found.rule,
            worst=Measure(worst, "time"),
        )
        return Outcome("watch" if worst >= 0.5 * found.wanted_s else "fail", said, _LARGER)
    if lowest < tank.cut_in_pa * (1 - 1e-9):
        said = message(
            "It holds, but the pressure falls to {lowest} when most is drawn.",
            lowest=Measure(lowest, "pressure"),
        )
        return Outcome("watch", said, "Take a stronger pump, or let less run at once.", "pump")
    said = message(
        "It holds: {most} starts in its busiest hour, and of its {unit} none under {worst}.",
        most=most,
        unit=found.unit,
        worst=Measure(worst, "time"),
    )
    return Outcome("hold", said)


def _of_a_draw(found: _Switched, draw_m3s: float) -> Outcome | None:
    """What a steady draw comes to, where that is more than starts and runs."""
    worked = cycling(found.tank, draw_m3s, 0.5 * found.wanted_s)
    at = Measure(draw_m3s, "flow")
    settles = Measure(worked.settle_pressure_pa or 0.0, "pressure")
    if worked.outcome == "falls_below_cut_in":
        return Outcome(
            "fail",
            message("{at} is more than the pump gives: it never stops, at {p}.", at=at, p=settles),
            "Let less run at once, or take a stronger pump.",
            about="pump",
        )
    if worked.outcome == "never_stops":
        return Outcome(
            "watch",
            message(
                "At {at} it settles at {p} between its pressures and never stops, which harms it"
                " less than stopping and starting.",
                at=at,
                p=settles,
            ),
            "Nothing, where the draw ends some time; else a drive.",
        )
    if worked.outcome == "hunts":
        return Outcome(
            "fail",
            message(
                "At {at} it hunts: it runs {run}, rests {rest}, and starts {starts} times an hour.",
                at=at,
                run=Measure(worked.run_time_s or 0.0, "time"),
                rest=Measure(worked.rest_time_s or 0.0, "time"),
                starts=f"{worked.starts_per_s * SECONDS_PER_HOUR:.0f}",
            ),
            _LARGER,
        )
    return None


def _tank_alone(running: Running, given: Answers) -> Ran:
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
    return Ran(
        end_s=end,
        line=Line("pressure at the tank", "pressure", tuple(points)),
        marks=(
            Mark("start", "pump would start", tank.cut_in_pa),
            Mark("bound", "empty's air", tank.precharge_pa),
        ),
        bands=(),
        happenings=() if empty is None else (Happening(empty, "the tank is empty", 0.0),),
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
