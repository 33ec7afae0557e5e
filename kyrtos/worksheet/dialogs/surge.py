"""Waves in a job's line when a valve closes and when the pump trips."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.surge_chart import SurgeChart, surge_chart
from kyrtos.worksheet.dialogs.base import Asked, Dialog
from kyrtos.worksheet.typed_figure import Typed, typed
from sizing.analysis.surge import LAWS, SurgeOfJob, surge_of
from sizing.base import units
from sizing.base.units import System
from sizing.size import Sizing

_CLOSES_S, _MOST_S = 5.0, 120.0
_LONG_M = 30.0  # a shorter line has waves that nobody hears
_WORDS = {"fail": "bad", "watch": "watch", "hold": "good"}


@dataclass(frozen=True)
class SurgeView:
    """What the dialog shows."""

    laws: tuple[tuple[str, str, bool], ...]
    closes: Typed
    usual_closing: str
    stops: Typed
    slows: str
    state: str
    verdict: str
    chart: SurgeChart
    sums: tuple[tuple[str, str], ...]
    rows: tuple[tuple[str, ...], ...]
    walls: str


def surge_view(asked: Asked) -> SurgeView:
    """The line of the job, with the two times as typed."""
    system = asked.base.sizing.job.units
    facts = asked.base.sizing.facts
    told_s = facts.optional("valve_closes") if facts.asks("valve_closes") else None
    usual_s = _CLOSES_S if told_s is None else told_s
    closes = typed(asked.given, "closes", "time", "s", usual_s, (0.0, _MOST_S), system)
    stops = typed(asked.given, "stops", "time", "s", 0.0, (0.0, _MOST_S), system)
    law = asked.given.get("law", "")
    law = law if law in LAWS else "ball"
    softly_s = stops.si if stops.text.strip() and not stops.problem else None
    found = surge_of(asked.base, closes_s=closes.si, stops_s=softly_s, law=law)
    return SurgeView(
        laws=tuple((code, label, code == law) for code, (label, _) in LAWS.items()),
        closes=closes,
        usual_closing=units.show(usual_s, "time", system),
        stops=stops,
        slows=units.show(found.slows_s, "time", system, 2),
        state=_WORDS[found.state],
        verdict=_verdict(found, system),
        chart=surge_chart(found, system),
        sums=_sums(found, system),
        rows=tuple(
            (
                one.name,
                _length(one.distance_m, system),
                _length(one.elevation_m, system),
                _length(one.steady_head_m, system),
                _length(one.lowest_head_m, system),
                _length(one.highest_head_m, system),
            )
            for one in found.places
        ),
        walls=", ".join(found.assumed_walls),
    )


def _length(metres: float, system: System) -> str:
    return units.show(metres, "length", system)


def _pressure(pascal: float, system: System) -> str:
    return units.show(pascal, "pressure", system)


def _verdict(found: SurgeOfJob, system: System) -> str:
    """Which of the two harms, whose fault it is, and what to do."""
    low = found.lowest
    said = []
    if found.parts:
        said.append(
            f"When the pump trips the water may part at {low.name}, and slam together again:"
            " a specialist works that out. Air valves at the high points and a surge vessel at the"
            " pump are worked out with it: they stand under Surge in the run."
        )
    elif found.sucks:
        said.append(
            f"When the pump trips the pressure falls under the air's at {low.name}: joints suck in"
            " air and dirt there. Fit a surge vessel at the pump, or an air valve there."
        )
    if found.trip.flat:
        said.append("The vacuum of a trip presses the pipe flat: a stiffer one, or air valves.")
    if found.trip.passes and found.trip.rated:
        said.append(
            f"The wave of a trip comes back with {_pressure(found.trip.rated.highest_pa, system)},"
            f" and {found.trip.rated.label} bears {_pressure(found.trip.rated.rating_pa, system)}."
        )
    if found.valve_parts:
        said.append("The wave that comes back from the closing valve parts the water column.")
    if found.within_rating is False:
        needed = found.closure_needed_s
        slower = (
            "no closing time up to two minutes helps"
            if needed is None
            else f"close it in {units.show(needed, 'time', system)} or more"
        )
        said.append(
            f"The closing valve brings {_pressure(found.peak_pressure_pa, system)}, more than"
            f" {found.rated} bears ({_pressure(found.rating_pa or 0.0, system)}): {slower}."
        )
    if not said:
        rated = (
            "nobody states what the pipe is rated for"
            if found.rating_pa is None
            else f"{found.rated} bears {_pressure(found.rating_pa, system)}"
        )
        said.append(
            f"At most {_pressure(found.peak_pressure_pa, system)} when the valve closes; {rated}."
            " When the pump trips the line keeps its pressure."
        )
    return " ".join(said)


def _sums(found: SurgeOfJob, system: System) -> tuple[tuple[str, str], ...]:
    needed = found.closure_needed_s
    return (
        ("Waves run at", units.show(found.wave_speed_m_s, "velocity", system)),
        ("There and back in", units.show(found.critical_time_s, "time", system)),
        ("The water moves at", units.show(found.velocity_m_s, "velocity", system)),
        ("Stopped at once it rises by", _pressure(found.instant_rise_pa, system)),
        ("Closed in that time, pump on", _pressure(found.closing_rise_pa, system)),
        ("The trip takes away", _pressure(found.trip_fall_pa, system)),
        (
            "A valve may close in",
            "no rating is known"
            if found.rating_pa is None
            else "no time up to 2 min"
            if needed is None
            else units.show(needed, "time", system),
        ),
    )


def _applies(sizing: Sizing) -> bool:
    system = sizing.system
    return system is not None and not system.route.closed_loop and system.route.length_m >= _LONG_M


DIALOG = Dialog(
    name="surge",
    words="surge",
    key="u",
    tells="waves when a valve closes and when the pump trips",
    place="choosing",
    rank=11,
    view=surge_view,
    applies=_applies,
)
