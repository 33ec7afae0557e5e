"""What a run of a pressure tank comes to: the outcome of a day of draws, and of one steady draw."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.message import Measure, message
from sizing.base.units import SECONDS_PER_HOUR
from sizing.over_time.scenarios.base import Outcome
from sizing.over_time.simulation.pressure_tank import TankAndSwitch, TankDay, cycling

_MUCH_SHORT = 0.05  # of what is wanted: less is a moment in which all taps run
_LARGER = (
    "Take a larger tank, set the two pressures further apart, or a drive that follows the taps."
)


@dataclass(frozen=True)
class Switched:
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


def of_a_day(found: Switched, day: TankDay, counted: list[float], most: int) -> Outcome:
    """What a day of draws comes to; ``counted`` as `Switched.unit` [s], ``most`` starts an hour."""
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


def of_a_draw(found: Switched, draw_m3s: float) -> Outcome | None:
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
