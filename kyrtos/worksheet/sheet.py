"""Everything the worksheet prints, worked out from a sizing.

No arithmetic here, only choosing and wording.
"""

from __future__ import annotations

from urllib.parse import urlencode

from kyrtos.drawing.picture import NARROW, WIDE, picture
from kyrtos.jobs.services import Conflict
from kyrtos.worksheet import fields
from kyrtos.worksheet.dialogs import buttons
from kyrtos.worksheet.fields import Field, LegRow
from kyrtos.worksheet.sheet_views import (
    CandidateView,
    CheckView,
    FamilyView,
    FlowMethodView,
    Sheet,
    StageView,
    TapeRow,
    WorkingView,
)
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.message import Working
from sizing.base.units import System
from sizing.checks.base import CHECK_WORDS, Check
from sizing.demand.method import FlowByMethod
from sizing.document import build_route, edit
from sizing.document.answers import Choice
from sizing.results.head_breakdown import BreakdownLine, as_text
from sizing.results.verdict import verdict
from sizing.selection import pump_family
from sizing.selection.match import Candidate
from sizing.size import Sizing

_STAGES = (
    ("water", "The water"),
    ("flow", "How much"),
    ("run", "The run"),
    ("pump", "The pump"),
    ("proof", "Proof"),
)
_MOST_SHOWN = 6
_METHODS = (
    (
        "friction",
        "Friction by",
        (Choice("darcy_weisbach", "Darcy-Weisbach"), Choice("hazen_williams", "Hazen-Williams")),
    ),
    (
        "fitting_method",
        "Fittings by",
        (
            Choice("k", "K by size"),
            Choice("hooper", "K by size and Reynolds (2-K)"),
            Choice("darby", "K by size and Reynolds (3-K)"),
            Choice("equivalent_length", "equivalent length"),
            Choice("percent", "so much of the pipe"),
        ),
    ),
    ("filters", "Filters are", (Choice("dirty", "due for cleaning"), Choice("clean", "clean"))),
)
_ARRANGEMENTS = (
    Choice("single", "one"),
    Choice("parallel", "several in parallel"),
    Choice("series", "several in series"),
)
SIGNS = {"hold": "✓", "watch": "▲", "fail": "✕"}


def sheet(sizing: Sizing, *, currency: str, conflict: Conflict | None = None) -> Sheet:
    """The worksheet of a sizing, in the job's units."""
    system = sizing.job.units
    told = verdict(sizing)
    stages = tuple(_stages(sizing))
    match = sizing.match
    return Sheet(
        units=system,
        verdict=told.main.text(system),
        verdict_state=told.state,
        worries=tuple((state, SIGNS[state], text.text(system)) for state, text in told.worries),
        last_good=tuple(_last_good(sizing)),
        stages=stages,
        methods=(
            tuple(_method(method, sizing, system) for method in sizing.demand.methods)
            if sizing.demand
            else ()
        ),
        reason=sizing.demand.reason if sizing.demand else "",
        family=_family(sizing),
        needed=units.show(sizing.demand.needed_m3s, "flow", system) if sizing.demand else "",
        needed_working=working(sizing.demand.working, system) if sizing.demand else None,
        legs=_legs(sizing),
        tape=_tape(sizing),
        tape_total=sizing.head_breakdown.figures(system)[1] if sizing.head_breakdown else "",
        tape_at=(
            units.show(sizing.head_breakdown.flow_m3s, "flow", system)
            if sizing.head_breakdown
            else ""
        ),
        length_unit=units.SHOWN["length"][system].unit,
        tape_text=as_text(sizing.head_breakdown, system) if sizing.head_breakdown else "",
        head_dialogs=buttons(sizing, "head"),
        choosing_dialogs=(
            buttons(sizing, "choosing") if match and (match.fits or match.near_misses) else ()
        ),
        candidates=_candidates(match.fits[:_MOST_SHOWN] if match else (), sizing, currency),
        near_misses=_candidates(match.near_misses if match else (), sizing, currency),
        fit_count=match.fit_count if match else 0,
        considered=match.considered if match else 0,
        near_count=match.near_count if match else 0,
        out=match.out if match else (),
        order=tuple((rule_id, text.text(system)) for rule_id, text in match.order) if match else (),
        picked_by_person=sizing.job.pump is not None,
        pump_id=sizing.chosen.candidate.pump.pump_id if sizing.chosen else "",
        checks=tuple(
            _check(check, system)
            for check in sorted(
                sizing.checks, key=lambda check: tuple(SIGNS)[::-1].index(check.state)
            )
        ),
        wide=picture(sizing, system, WIDE),
        narrow=picture(sizing, system, NARROW),
        cautions=sizing.kind.cautions,
        datum=sizing.kind.datum,
        closed_loop=sizing.kind.closed_loop,
        has_suction=any(leg.side == "suction" for leg in sizing.kind.default_legs),
        fields={
            name: _plain(sizing, name, label)
            for name, label in (("title", "Job"), ("customer", "Customer"), ("site", "Site"))
        },
        hydraulic_methods=_hydraulic_methods(sizing),
        group=_group(sizing),
        conflict=conflict,
    )


def _hydraulic_methods(sizing: Sizing) -> tuple[Field, ...]:
    """Which schools the run is reckoned by; what they do not ask is left out."""
    job = sizing.job
    fouling = any(point.dirty for leg in job.legs for item in leg.items for point in item.points)
    shown = [
        Field(path, label, "choice", getattr(job, path), choices=choices)
        for path, label, choices in _METHODS
        if path != "filters" or fouling
    ]
    if job.fitting_method == "percent":
        typed, problem = fields.pending(job, "allowance")
        value = typed if typed is not None else job.allowance.shown() if job.allowance else ""
        usual = units.show(build_route.DEFAULT_ALLOWANCE, "ratio", job.units)
        shown.append(
            Field(
                path="allowance",
                label="Fittings add to the pipe",
                widget="figure",
                value=value,
                problem=problem,
                hint="The crude school: wrong for short runs with many fittings.",
                placeholder=usual,
            )
        )
    return tuple(shown)


def _group(sizing: Sizing) -> tuple[Field, ...]:
    """How many pumps run together, and how many stand by."""
    job = sizing.job
    shown = [
        Field("arrangement", "Pumps that run", "choice", job.arrangement, choices=_ARRANGEMENTS)
    ]
    for name, label, applies in (
        ("pumps", "How many", job.arrangement != "single"),
        ("standby", "Standing by", True),
    ):
        if applies:
            typed, problem = fields.pending(job, name)
            shown.append(
                Field(
                    name,
                    label,
                    "figure",
                    str(getattr(job, edit.COUNTS[name][0])) if typed is None else typed,
                    problem,
                )
            )
    return tuple(shown)


def working(made: Working, system: System) -> WorkingView:
    """A working as text."""
    return WorkingView(
        made.title, made.formula, tuple(made.lines(system)), made.source, made.stands_on
    )


def _plain(sizing: Sizing, name: str, label: str) -> Field:
    typed, problem = fields.pending(sizing.job, name)
    return Field(
        name, label, "line", getattr(sizing.job, name) if typed is None else typed, problem
    )


def _last_good(sizing: Sizing) -> list[str]:
    """Labels of the fields whose typed text could not be read, so that their last good value still
    counts.
    """
    labels = {f"answers.{question.key}": question.label for question in sizing.kind.questions}
    found = []
    for path in sizing.job.pending:
        parts = path.split(".")
        found.append(
            labels.get(path)
            or (
                f"{parts[-1].replace('_', ' ')} of a {'leg' if parts[0] == 'legs' else 'row'}"
                if len(parts) > 2
                else path
            )
        )
    return found


def _stages(sizing: Sizing) -> list[StageView]:
    missing = fields.missing_paths(sizing.missing)
    decided = {
        "water": sizing.kind.stage_summary(sizing.facts),
        "flow": _flow_line(sizing),
        "run": _run_line(sizing),
        "pump": _pump_line(sizing),
        "proof": _proof_line(sizing),
    }
    made = []
    for code, title in _STAGES:
        shown = [
            question
            for question in sizing.kind.questions
            if question.stage == code and sizing.facts.shown(question)
        ]
        needs = sum(1 for one in sizing.missing if one.stage == code)
        views = tuple(
            fields.of_question(sizing.job, sizing.facts, question, missing) for question in shown
        )
        lists = tuple(
            fields.of_list(sizing.job, sizing.facts, one, missing)
            for one in sizing.kind.lists
            if one.stage == code
        )
        made.append(
            StageView(
                code=code,
                title=title,
                decided=decided[code],
                fields=views,
                lists=lists,
                needs=needs,
                open=code in ("flow", "run"),
            )
        )
    return made


def _family(sizing: Sizing) -> FamilyView:
    """The family chooser, asked with this job's facts.

    Without a run only the way to ask it by hand.
    """
    try:
        job = sizing.kind.situation(sizing.facts)
    except SizingError:
        return FamilyView((), (), "")
    system, solid = (
        sizing.job.units,
        units.show(job.solid_m, "size", sizing.job.units),
    )
    asked = {"liquid": job.liquid, "place": job.place, "feeds": job.feeds, "solid": solid}
    if sizing.system is None:
        return FamilyView((), (), urlencode(asked))
    lift = 0.0 if sizing.system.route.closed_loop else sizing.system.governing(0.0)[1]
    advice = pump_family.advise(
        liquid=job.liquid, place=job.place, feeds=job.feeds, solid_m=job.solid_m, lift_m=lift
    )
    found = pump_family.for_kind(advice, sizing.kind.families(sizing.facts))
    fits = tuple((one.label, one.reasons[0]) for one in found if one.fits)
    others = tuple((one.label, one.reasons[0]) for one in found if not one.fits)
    return FamilyView(
        fits, others[:_MOST_SHOWN], urlencode(asked | {"lift": units.show(lift, "length", system)})
    )


def _flow_line(sizing: Sizing) -> str:
    return (
        units.show(sizing.demand.needed_m3s, "flow", sizing.job.units)
        if sizing.demand
        else "not known yet"
    )


def _run_line(sizing: Sizing) -> str:
    if sizing.system is None:
        return "not known yet"
    total = sizing.system.route.length_m
    system = sizing.job.units
    lift_m = sizing.system.governing(sizing.at_flow_m3s or 0.0)[1]
    return (
        f"lift {units.show(lift_m, 'length', system)}, pipe"
        f" {units.show(total, 'length', system, 1)}"
    )


def _pump_line(sizing: Sizing) -> str:
    if sizing.chosen is None:
        return "none fits" if sizing.match else "not yet"
    return sizing.chosen.candidate.pump.name + (" (your pick)" if sizing.chosen.by_person else "")


def _proof_line(sizing: Sizing) -> str:
    counts = {state: sum(check.state == state for check in sizing.checks) for state in CHECK_WORDS}
    parts = [
        f"{counts['hold']} hold" if counts["hold"] else "",
        f"{counts['watch']} watch" if counts["watch"] else "",
    ]
    parts.append(f"{counts['fail']} fail" if counts["fail"] else "")
    return ", ".join(filter(None, parts)) or "not yet"


def _method(method: FlowByMethod, sizing: Sizing, system: System) -> FlowMethodView:
    assert sizing.demand is not None
    flow = "" if method.flow_m3s is None else units.show(method.flow_m3s, "flow", system)
    taken = method.flow_m3s is not None and (
        sizing.demand.taken == method.code
        or method.flow_m3s == sizing.demand.inflow_m3s
        or sizing.demand.taken == "sum"
    )
    return FlowMethodView(
        label=method.label,
        flow=flow,
        taken=taken,
        caution=method.caution if flow else "",
        problem=method.problem,
        working=working(method.working, system) if method.working else None,
    )


def _legs(sizing: Sizing) -> tuple[LegRow, ...]:
    missing, system = fields.missing_paths(sizing.missing), sizing.job.units
    speeds: dict[str, str] = {}
    if sizing.system is not None and sizing.at_flow_m3s is not None:
        found = sizing.system.velocities_m_s(sizing.at_flow_m3s)[:, 0]
        speeds = {
            leg.id: units.show(float(speed), "velocity", system)
            for leg, speed in zip(sizing.legs, found, strict=True)
        }
    rows = []
    for index, entry in enumerate(sizing.job.legs):
        shown = (
            units.show(sizing.head_breakdown.leg_loss_m(entry.id), "length", system)
            if sizing.head_breakdown
            else ""
        )
        speed = speeds.get(entry.id, "")
        rows.append(
            fields.of_leg(sizing.job, entry, index + 1, missing, speed, shown if speed else "")
        )
    return tuple(rows)


def _tape(sizing: Sizing) -> tuple[TapeRow, ...]:
    if sizing.head_breakdown is None:
        return ()
    figures, _ = sizing.head_breakdown.figures(sizing.job.units)
    return tuple(
        _tape_row(line, figure, sizing.job.units)
        for line, figure in zip(sizing.head_breakdown.lines, figures, strict=True)
    )


def _tape_row(line: BreakdownLine, figure: str, system: System) -> TapeRow:
    speed = line.velocity.text(system) if line.velocity and line.code == "pipe" else ""
    return TapeRow(
        leg_id=line.leg_id,
        label=line.label,
        detail=line.detail,
        speed=speed,
        head=figure if line.counted else "runs down",
        counted=line.counted,
        working=working(line.working, system),
    )


def _candidates(
    found: tuple[Candidate, ...], sizing: Sizing, currency: str
) -> tuple[CandidateView, ...]:
    system, picked = (
        sizing.job.units,
        sizing.chosen.candidate.pump.pump_id if sizing.chosen else "",
    )
    return tuple(
        CandidateView(
            pump_id=one.pump.pump_id,
            name=one.pump.name,
            flow=units.show(one.flow_m3s, "flow", system) if one.status == "operates" else "—",
            head=units.show(one.head_m, "length", system) if one.status == "operates" else "—",
            why="; ".join(reason.text(system) for reason in one.reasons),
            cost=(
                f"{currency}\u00a0{units.number_text(one.cost_per_year, 0)} a year"
                if one.cost_per_year is not None
                else ""
            ),
            picked=one.pump.pump_id == picked,
        )
        for one in found
    )


def _check(check: Check, system: System) -> CheckView:
    shown = working(check.working, system) if check.working else None
    return CheckView(
        label=check.label,
        state=check.state,
        sign=SIGNS[check.state],
        word=CHECK_WORDS[check.state],
        said=check.message.text(system),
        remedy="" if check.state == "hold" else check.remedy,
        working=shown,
    )
