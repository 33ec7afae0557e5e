"""What goes on in a main: many pumps of a pressure sewer at once, and how old the sewage gets."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from sizing.base.message import Measure, message
from sizing.base.units import SECONDS_PER_DAY, SECONDS_PER_HOUR
from sizing.checks.base import CheckState, Running
from sizing.checks.pit import levels, storage_m3
from sizing.document.answers import Answers
from sizing.hydraulics.system_curve import SystemCurve
from sizing.kinds.base import Kind
from sizing.kinds.pit import PitKind, pit_plan
from sizing.kinds.pressure_sewer_questions import pumps_together
from sizing.operating_point.one import operating_point
from sizing.over_time.scenarios.base import Event, Line, Mark, Outcome, Scenario, SimulationResult
from sizing.over_time.scenarios.pit_day import OUT, day_of_people_m3
from sizing.over_time.scenarios.pit_model import pit_of
from sizing.over_time.simulation.age import ages_s
from sizing.over_time.simulation.dwellings import MOST_DWELLINGS, DwellingsRun, Pits, run_dwellings
from sizing.over_time.simulation.pit import Inflow, run_pit

_SEED = 400
_SOLVED = 24  # numbers of pumps for which the point is solved; between them it is read off
_AGE_DAYS = 4


def _flows(running: Running) -> tuple[float, ...]:
    """What each pump gives while 1, 2, ... run [m3/s]."""
    facts = running.facts
    count, usual = round(facts.si("dwellings")), pumps_together(facts)
    route = running.system.route
    numbers = np.unique(np.round(np.geomspace(1, count, min(count, _SOLVED)))).astype(int)
    found = []
    for number in numbers.tolist():
        legs = tuple(
            replace(leg, flow_share=leg.flow_share * (1.0 if at == 0 else number / usual))
            for at, leg in enumerate(route.legs)
        )
        curve = SystemCurve(replace(route, legs=legs), running.system.water)
        at = operating_point(running.curve, curve)
        last = running.curve.last_flow_m3s if at.status == "off_end" else 0.0
        found.append(at.point.flow_m3s if at.point else last)
    return tuple(np.interp(np.arange(1, count + 1), numbers, found).tolist())


def _mean_inflow(running: Running) -> float:
    return running.demand.mean_inflow_m3s or day_of_people_m3(running) / SECONDS_PER_DAY


def _all_pumps(running: Running, given: Answers) -> SimulationResult:
    return _dwellings(running, 0.0)


def _after_a_cut(running: Running, given: Answers) -> SimulationResult:
    return _dwellings(running, given.si("out"))


def _dwellings(running: Running, cut_s: float) -> SimulationResult:
    facts, at = running.facts, levels(running.facts)
    plan, flows = pit_plan(facts), _flows(running)
    pits = Pits(
        count=len(flows),
        storage_m3=storage_m3(facts, plan),
        reserve_m3=plan.area_m2 * max(at.overflow_m - at.start_m, 0.0),
        flows_m3s=flows,
    )
    run = run_dwellings(
        pits, _mean_inflow(running), running.demand.day_shares, cut_s=cut_s, seed=_SEED
    )
    usual, whole = pumps_together(facts), sum(run.seconds_by_number.values())
    heads = [float(running.curve.head_m(flows[n - 1])) for n in (1, max(run.most_at_once, 1))]
    return SimulationResult(
        end_s=SECONDS_PER_DAY,
        line=Line(
            "pumps running", "count", tuple((time, float(n)) for time, n in run.running), steps=True
        ),
        marks=(Mark("bound", "reckoned with", usual),),
        bands=(),
        events=tuple(
            Event(time, f"{n} pumps run", float(n)) for time, n in run.running if n > usual
        ),
        sums=(
            ("Pumps", f"{len(flows)}"),
            ("Most at once", f"{run.most_at_once}"),
            *(
                (f"{n} at once" if n else "None", Measure(seconds / whole, "ratio", 2))
                for n, seconds in sorted(run.seconds_by_number.items())[:6]
            ),
            (
                "More than reckoned with",
                Measure(run.share_over(round(usual)), "ratio", 2),
            ),
            ("Head of a pump alone", Measure(heads[0], "length")),
            ("Head with the most at once", Measure(heads[1], "length")),
            ("Starts of all", f"{run.starts} times"),
            ("Pits that overflow", f"{run.overflowing}"),
        ),
        outcome=_together(run, usual, flows, cut_s),
    )


def _together(run: DwellingsRun, usual: float, flows: tuple[float, ...], cut_s: float) -> Outcome:
    over = Measure(run.share_over(round(usual)), "ratio", 2)
    most, gives = run.most_at_once, Measure(flows[max(run.most_at_once, 1) - 1], "flow")
    if run.overflowing:
        return Outcome(
            "fail",
            message(
                "{count} pits overflow before their pumps have caught up.", count=run.overflowing
            ),
            "Larger pits, or a wider main; a delay of its own for each start.",
        )
    if cut_s:
        done = Measure(run.all_done_s or SECONDS_PER_DAY, "time")
        said = message(
            "When the power is back {most} pumps run at once, each giving {gives}; after {done}"
            " all have caught up.",
            most=most,
            gives=gives,
            done=done,
        )
        slow = flows[most - 1] <= 0 or (run.all_done_s or SECONDS_PER_DAY) > SECONDS_PER_HOUR
        return Outcome(
            "watch" if slow else "hold", said, "Delay each pump's start by a time of its own."
        )
    if most > usual:
        said = message(
            "At most {most} pumps run at once, more than the {usual} of the sizing in {over} of the"
            " time; then each gives {gives}.",
            most=most,
            usual=f"{usual:g}",
            over=over,
            gives=gives,
        )
        rare = run.share_over(round(usual)) <= 0.01
        return Outcome("hold" if rare else "watch", said, "Size with more pumps at once.")
    said = message(
        "At most {most} pumps run at once; the sizing reckons with {usual}.",
        most=most,
        usual=f"{usual:g}",
    )
    return Outcome("hold", said)


def _age(running: Running, given: Answers) -> SimulationResult:
    """Four days of the pit, each like the other; the last two are judged."""
    pit = pit_of(running)
    mean = _mean_inflow(running)
    hours = running.demand.day_shares
    peak = mean * 24 / sum(hours)
    rows = tuple(
        ((day * 24 + hour) * SECONDS_PER_HOUR, share * peak)
        for day in range(_AGE_DAYS)
        for hour, share in enumerate(hours)
    )
    end = _AGE_DAYS * SECONDS_PER_DAY
    run = run_pit(pit, Inflow(rows), end_s=end, initial_level_m=pit.stop_m)
    times, pumped = [0.0], [0.0]
    for piece in run.timeline.pieces:
        gained = pit.area.volume_m3(piece.to_level_m) - pit.area.volume_m3(piece.from_level_m)
        gone = piece.inflow_m3s * (piece.to_s - piece.from_s) - gained if piece.running else 0.0
        times.append(piece.to_s)
        pumped.append(pumped[-1] + max(gone, 0.0))
    held = sum(leg.volume_m3 for leg in running.system.route.legs)
    leaves, ages = ages_s(times, pumped, held)
    rules = running.rules
    fine, most = rules.high("RET-01"), rules.high("RET-02")
    settled = ages[leaves >= end / 2]
    oldest = float(settled.max()) if len(settled) else end
    points = tuple(zip(leaves.tolist(), ages.tolist(), strict=True)) or ((0.0, 0.0), (end, end))
    state: CheckState = "hold" if oldest <= fine else "watch" if oldest <= most else "fail"
    return SimulationResult(
        end_s=end,
        line=Line("age of what comes out", "time", points),
        marks=(Mark("bound", "fine up to", fine), Mark("rim", "septic from", most)),
        bands=(),
        events=(),
        sums=(
            ("The main holds", Measure(held, "volume")),
            ("A day brings", Measure(mean * SECONDS_PER_DAY, "volume")),
            ("By volume over flow", Measure(held / mean if mean else 0.0, "time")),
            ("Oldest at the outlet", Measure(oldest, "time")),
            ("Mean at the outlet", Measure(float(settled.mean()) if len(settled) else end, "time")),
            ("A stop moves it on by", Measure(pumped[-1] / max(sum(run.starts), 1), "volume")),
        ),
        outcome=Outcome(
            state,
            message(
                "What comes out is up to {oldest} old, most in the morning; up to {fine} is fine,"
                " from {most} it turns septic (rules RET-01 to RET-03).",
                oldest=Measure(oldest, "time"),
                fine=Measure(fine, "time"),
                most=Measure(most, "time"),
            ),
            "A narrower main as far as the head allows, a flush at night, or air or nitrate.",
        ),
    )


def _many(kind: Kind, running: Running) -> bool:
    facts = running.facts
    return (
        facts.asks("dwellings")
        and facts.choice("arrangement") == "own"
        and 2 <= (facts.optional("dwellings") or 0) <= MOST_DWELLINGS
    )


def _of_sewage(kind: Kind, running: Running) -> bool:
    return isinstance(kind, PitKind) and kind.drains_people


DAY = "each house's pit stands anywhere at first and takes its own share of water, drawn by lot"
SCENARIOS = (
    Scenario(
        "all_pumps",
        "all the pumps of a day",
        f"{DAY}; the hours of a household; the same day each time",
        _many,
        _all_pumps,
        rank=30,
    ),
    Scenario(
        "after_cut",
        "all on after a cut",
        f"{DAY}; no pump ran while the power was away, and all begin when it is back",
        _many,
        _after_a_cut,
        (replace(OUT, default="4 h"),),
        rank=30,
    ),
    Scenario(
        "age",
        "the age of it in the main",
        "it moves as a slug and only while a pump runs; a mean day's water by the hours of a"
        " household, four days alike, the last two judged",
        _of_sewage,
        _age,
        rank=30,
    ),
)
