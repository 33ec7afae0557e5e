"""Questions put to a sizing, ready to print: what the dialogs of the worksheet show.

Choosing and wording only.
"""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.drawing.reach_chart import ReachChart, reach_chart
from sizing.analysis import floors, inverse, methods, reach, sensitivity, sizes
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.message import Measure, Said
from sizing.base.units import System
from sizing.document.build_route import the_leg
from sizing.document.job import STANDING_WORDS, Figure
from sizing.hydraulics.survey import length_m
from sizing.pump.catalogue import Catalogue
from sizing.size import Sizing

STATUS_WORDS = {"off_end": "runs off the end of its curve", "cannot_lift": "cannot lift it"}
_MOST_RIVALS = 6


@dataclass(frozen=True)
class SchoolRow:
    label: str
    head: str
    flow: str
    in_force: bool
    cautions: tuple[str, ...]


@dataclass(frozen=True)
class SizeRow:
    key: str
    pipe: str
    bore: str
    now: bool
    speed: str
    pace: str
    loss: str
    head: str
    flow: str
    pump: str


@dataclass(frozen=True)
class SizesView:
    leg_id: str
    leg_name: str
    band: str
    rows: tuple[SizeRow, ...]
    others: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class AnswerRow:
    label: str
    value: str
    now: str
    note: str


@dataclass(frozen=True)
class SolveView:
    flow: str
    head: str
    problems: tuple[str, str]
    rows: tuple[AnswerRow, ...]


@dataclass(frozen=True)
class SwingRow:
    label: str
    path: str
    value: str
    standing: str
    flow: str
    needed: str
    tip: str
    share: str


@dataclass(frozen=True)
class ChanceRow:
    name: str
    share: str
    off_end: str


@dataclass(frozen=True)
class TrustView:
    first: str
    swings: tuple[SwingRow, ...]
    chances: tuple[ChanceRow, ...]
    samples: str


@dataclass(frozen=True)
class FloorRow:
    number: int
    level: str
    peak: str
    still: str
    remark: str
    worst: bool


@dataclass(frozen=True)
class FloorsView:
    rows: tuple[FloorRow, ...]
    flow: str
    most: str


@dataclass(frozen=True)
class ReachView:
    name: str
    chart: ReachChart
    rows: tuple[tuple[str, str, str, str, str, str, bool], ...]
    septic: str
    daily_known: bool


@dataclass(frozen=True)
class SurveyView:
    leg_id: str
    leg_name: str
    text: str
    points: int
    length: str
    highest: str
    problem: str = ""


def _text(value: Measure | str | None, system: System) -> str:
    if value is None:
        return "nothing would do"
    return value if isinstance(value, str) else value.text(system)


def _said(note: Said | None, system: System) -> str:
    return note.text(system) if note else ""


def _flow(value: float | None, system: System) -> str:
    return "—" if value is None else units.show(value, "flow", system)


def schools_view(base: Known) -> tuple[SchoolRow, ...]:
    """The schools of friction side by side."""
    system = base.sizing.job.units
    return tuple(
        SchoolRow(
            one.label,
            units.show(one.head_m, "length", system),
            (
                _flow(one.flow_m3s, system)
                if one.flow_m3s or not one.status
                else STATUS_WORDS[one.status]
            ),
            one.in_force,
            tuple(caution.text(system) for caution in one.cautions),
        )
        for one in methods.schools(base)
    )


def sizes_view(base: Known, catalogue: Catalogue, leg_id: str) -> SizesView:
    """The sizes of a leg side by side; without a leg named, of the first."""
    system, job = base.sizing.job.units, base.sizing.job
    found = sizes.sizes(base, catalogue, leg_id or base.sizing.legs[0].id)
    band = ""
    if found.band_m_s:
        low, high = (units.show(speed, "velocity", system) for speed in found.band_m_s)
        band = f"{low} to {high}" if found.band_m_s[0] else f"up to {high}"
    rows = tuple(
        SizeRow(
            str(number) if number < 10 else "",
            one.pipe,
            units.show(one.bore_m, "bore", system),
            one.now,
            units.show(one.velocity_m_s, "velocity", system),
            sizes.PACE_WORDS[one.pace],
            units.show(one.leg_loss_m, "length", system),
            units.show(one.head_m, "length", system),
            _flow(one.flow_m3s, system) if base.curve else "",
            one.pump_name or "none fits",
        )
        for number, one in enumerate(found.options, 1)
    )
    others = tuple(
        (leg.id, the_leg(leg, job.legs.index(leg) + 1))
        for leg in base.sizing.legs
        if leg.id != found.leg.id
    )
    return SizesView(found.leg.id, the_leg(found.leg, found.number), band, rows, others)


def solve_view(base: Known, flow_text: str, head_text: str) -> SolveView:
    """Every unknown solved for; flow and head as typed, or as they stand."""
    system = base.sizing.job.units
    flow, flow_problem = _read(flow_text, "flow", system)
    head, head_problem = _read(head_text, "length", system)
    if flow is not None and not flow > 0:
        flow, flow_problem = None, "a flow must be more than nought"
    answers = () if flow_problem or head_problem else inverse.solve(base, flow, head)
    rows = tuple(
        AnswerRow(
            one.label,
            _text(one.value, system),
            _text(one.now, system) if one.now else "",
            _said(one.note, system),
        )
        for one in answers
    )
    shown = flow_text or units.show(base.demand.needed_m3s, "flow", system)
    return SolveView(shown, head_text, (flow_problem, head_problem), rows)


def _read(text: str, dimension: str, system: System) -> tuple[float | None, str]:
    if not text.strip():
        return None, ""
    try:
        return Figure.read(text, dimension, units.SHOWN[dimension][system].unit).si(dimension), ""
    except SizingError as problem:
        return None, str(problem)


def trust_view(base: Known, catalogue: Catalogue) -> TrustView:
    """What to measure next, with the chance of the chosen pump and of its rivals."""
    system, sizing = base.sizing.job.units, base.sizing
    ranked = sensitivity.swings(base)
    tips = {tip.doubt.path: tip for tip in sensitivity.tips(base, catalogue, ranked)}
    most = ranked[0].size_m3s if ranked else 1.0
    rows = tuple(
        _swing(one, tips.get(one.path) if one.doubt else None, system, one.size_m3s / most)
        for one in ranked
    )
    first = next(
        (
            one.label[:1].lower() + one.label[1:]
            for one in ranked
            if one.standing != "measured" and one.doubt
        ),
        "",
    )
    rivals = [
        one.pump
        for one in (
            *(sizing.match.fits if sizing.match else ()),
            *(sizing.match.near_misses if sizing.match else ()),
        )
    ]
    chosen = sizing.chosen.candidate.pump if sizing.chosen else None
    curves = [
        (pump.name, pump.curve)
        for pump in dict.fromkeys([chosen, *rivals][: _MOST_RIVALS + 1])
        if pump is not None
    ][:_MOST_RIVALS]
    found = sensitivity.chances(base, curves)
    return TrustView(
        first, rows, tuple(_chance(one) for one in found), units.number_text(sensitivity.SAMPLES, 0)
    )


def _swing(
    one: sensitivity.Swing, tip: sensitivity.Tip | None, system: System, share: float
) -> SwingRow:
    ends = (_flow(one.flow_low_m3s, system), _flow(one.flow_high_m3s, system))
    flow = f"{ends[0]} … {ends[1]}" if ends[0] != ends[1] else ""
    moved = one.needed_low_m3s != one.needed_high_m3s
    needed = (
        f"{_flow(one.needed_low_m3s, system)} … {_flow(one.needed_high_m3s, system)}"
        if moved
        else ""
    )
    said = ""
    if tip is not None and tip.by_si is not None:
        dimension = (
            "temperature_step" if tip.doubt.dimension == "temperature" else tip.doubt.dimension
        )
        said = (
            f"{'+' if tip.by_si > 0 else '−'}{Measure(abs(tip.by_si), dimension).text(system)}:"
            f" {tip.pump_name}"
        )
    elif tip is not None:
        said = "even twice as far off changes nothing"
    return SwingRow(
        one.label[:1].upper() + one.label[1:],
        one.path,
        one.value.text(system),
        STANDING_WORDS[one.standing] if one.standing else "",
        flow,
        needed,
        said,
        f"{share:.3f}",
    )


def _chance(one: sensitivity.Chance) -> ChanceRow:
    percent, error = round(100 * one.share), max(round(100 * one.error), 1)
    word = "over 99 %" if percent == 100 else "under 1 %" if percent == 0 else f"{percent} %"
    return ChanceRow(
        one.pump_name,
        f"{word} ± {error}" if 0 < percent < 100 else word,
        f"{100 * one.off_end_share:.0f} %" if one.off_end_share >= 0.005 else "",
    )


def floors_view(base: Known) -> FloorsView:
    """The pressure at each floor, from the top down as a building stands."""
    system = base.sizing.job.units
    found = floors.floors(base)

    def remark(floor: floors.Floor) -> str:
        words = [
            "reducing valve wanted" if floor.too_high else "",
            "too little at the peak" if floor.too_low else "",
        ]
        words.append("worst outlet" if floor.number == found.worst else "")
        return ", ".join(filter(None, words))

    rows = tuple(
        FloorRow(
            floor.number,
            units.show(floor.level_m, "length", system),
            units.show(floor.peak_pa, "pressure", system),
            units.show(floor.still_pa, "pressure", system),
            remark(floor),
            floor.number == found.worst,
        )
        for floor in reversed(found.floors)
    )
    return FloorsView(
        rows,
        units.show(found.flow_m3s, "flow", system),
        units.show(found.most_pa, "pressure", system),
    )


def reach_view(base: Known) -> ReachView:
    """How far a main can go by speed, head and standing time, as a chart and a table."""
    system = base.sizing.job.units
    found = reach.reaches(base)

    def far(value: float | None) -> str:
        return "not known" if value is None else units.show(value, "length", system, 0)

    rows = tuple(
        (
            one.pipe,
            units.show(one.velocity_m_s, "velocity", system) + ("" if one.scours else " too slow"),
            far(one.head_limit_m),
            far(one.fine_limit_m),
            far(one.septic_limit_m),
            far(one.watched_m),
            one.now,
        )
        for one in found.rows
    )
    daily = any(one.fine_limit_m is not None for one in found.rows)
    return ReachView(
        found.leg_name,
        reach_chart(found, system),
        rows,
        units.show(found.septic_s, "time", system),
        daily,
    )


def survey_view(
    sizing: Sizing, leg_id: str, problem: str = "", text: str | None = None
) -> SurveyView:
    """The ground of a leg as it can be typed and pasted."""
    system, entry = sizing.job.units, sizing.job.leg(leg_id)
    lines = [f"{point.distance_m:g}, {point.elevation_m:g}" for point in entry.survey]
    highest = max((point.elevation_m for point in entry.survey), default=0.0)
    return SurveyView(
        leg_id,
        the_leg(entry, sizing.job.legs.index(entry) + 1),
        "\n".join(lines) if text is None else text,
        len(entry.survey),
        units.show(length_m(entry.survey), "length", system),
        units.show(highest, "length", system),
        problem,
    )
