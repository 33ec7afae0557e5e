"""Everything the worksheet prints, worked out from a sizing.

No arithmetic here, only choosing and wording.
"""

from __future__ import annotations

from dataclasses import replace
from urllib.parse import urlencode

from kyrtos.drawing.blank import BLANK_NARROW, BlankPicture, blank_picture
from kyrtos.drawing.picture import NARROW, WIDE, Frame, picture
from kyrtos.jobs.services import Conflict
from kyrtos.worksheet import fields
from kyrtos.worksheet.dialogs import buttons
from kyrtos.worksheet.fields import Field, LegRow
from kyrtos.worksheet.sheet_pumps import SIGNS, best_try, checks, choosing, working
from kyrtos.worksheet.sheet_views import (
    FamilyView,
    FlowMethodView,
    Sheet,
    StageView,
    TapeRow,
)
from sizing.analysis.typical import TypicalSite, typical_site
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.message import Message
from sizing.base.reader import current
from sizing.base.units import System
from sizing.checks.base import CHECK_WORDS
from sizing.demand.method import FlowByMethod
from sizing.document import build_route, edit
from sizing.document.answers import Choice
from sizing.document.job import JobDocument
from sizing.results.head_breakdown import BreakdownLine, as_text
from sizing.results.verdict import verdict
from sizing.selection import pump_family
from sizing.size import Sizing

_STAGES = (
    ("water", "The water"),
    ("flow", "How much"),
    ("run", "The run"),
    ("pump", "The pump"),
    ("proof", "Proof"),
)
_METHODS = (
    (
        "friction",
        "Friction by",
        (Choice("darcy_weisbach", "Darcy-Weisbach"), Choice("hazen_williams", "Hazen-Williams")),
    ),
    (
        "fitting_method",
        "Fittings by",
        tuple(Choice(code, label) for code, label in edit.FITTING_METHODS.items()),
    ),
    ("filters", "Filters are", (Choice("dirty", "due for cleaning"), Choice("clean", "clean"))),
)
_MOST_FAMILIES = 6  # that tempt and are wrong
_ARRANGEMENTS = (
    Choice("single", "one"),
    Choice("parallel", "several in parallel"),
    Choice("series", "several in series"),
)


def sheet(
    sizing: Sizing,
    *,
    currency: str,
    home: System = "metric",
    conflict: Conflict | None = None,
    cures: tuple[Message, ...] = (),
) -> Sheet:
    """The worksheet of a sizing, in the job's units; ``home`` is what US units change back to."""
    system = sizing.job.units
    told = verdict(sizing)
    stages = tuple(_stages(sizing))
    wide = picture(sizing, system, WIDE)
    unknown = wide is None and bool(sizing.missing)
    typical = typical_site(sizing.job, sizing.facts.rules) if unknown else None
    return Sheet(
        units=system,
        verdict=told.main.text(system),
        verdict_state=told.state,
        worries=tuple((state, SIGNS[state], text.text(system)) for state, text in told.worries),
        last_good=tuple(fields.last_good(sizing.job)),
        stages=stages,
        methods=(
            tuple(_method(method, sizing, system) for method in sizing.demand.methods)
            if sizing.demand
            else ()
        ),
        reason=sizing.demand.reason if sizing.demand else "",
        family=_family(sizing),
        needed=units.show(sizing.demand.needed_m3s, "flow", system) if sizing.demand else "",
        flow_steps=tuple(
            (working(step, system), step.result.text(system))
            for step in (sizing.demand.steps if sizing.demand else ())
        ),
        needed_working=working(sizing.demand.working, system) if sizing.demand else None,
        legs=_legs(sizing),
        tape=_tape(sizing),
        tape_total=sizing.head_breakdown.figures(system)[1] if sizing.head_breakdown else "",
        tape_at=(
            units.show(sizing.head_breakdown.flow_m3s, "flow", system)
            if sizing.head_breakdown
            else ""
        ),
        length_unit=units.shown("length", system).unit,
        flow_unit=units.shown("flow", system).unit,
        decimal="," if current().style == "comma" else ".",
        other_units=home if system == "us" else "us",
        tape_text=as_text(sizing.head_breakdown, system) if sizing.head_breakdown else "",
        head_dialogs=buttons(sizing, "head"),
        choosing=choosing(sizing, currency, cures),
        checks=checks(sizing, notes=False),
        notes=checks(sizing, notes=True),
        proof_of=best_try(sizing),
        wide=wide,
        narrow=picture(sizing, system, NARROW),
        blank_wide=_blank(sizing, typical, WIDE),
        blank_narrow=_blank(sizing, typical, BLANK_NARROW),
        cautions=tuple(units.in_one_system(one, system) for one in sizing.kind.cautions),
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
        value = typed if typed is not None else edit.text_at(job, "allowance")
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
    return (*shown, _as_built(job))


def _as_built(job: JobDocument) -> Field:
    """What was measured of the run, over what is reckoned of it."""
    typed, problem = fields.pending(job, "as_built")
    return Field(
        path="as_built",
        label="As built, losses are",
        widget="figure",
        value=edit.text_at(job, "as_built") if typed is None else typed,
        problem=problem,
        hint="Of what is reckoned: from readings at the run (K measured over K reckoned).",
        placeholder="100 %",
    )


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


def _plain(sizing: Sizing, name: str, label: str) -> Field:
    typed, problem = fields.pending(sizing.job, name)
    return Field(
        name, label, "line", getattr(sizing.job, name) if typed is None else typed, problem
    )


def _blank(sizing: Sizing, site: TypicalSite | None, frame: Frame) -> BlankPicture | None:
    """The picture of what is not known yet."""
    return None if site is None else blank_picture(site, sizing.missing, sizing.job.units, frame)


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
            if question.stage == code and sizing.facts.shown(question) and not question.group
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
                folded=_folded(sizing, code, missing),
                lists=lists,
                needs=needs,
                open=code in ("flow", "run"),
            )
        )
    return made


def _folded(
    sizing: Sizing, stage: str, missing: set[str]
) -> tuple[tuple[str, tuple[Field, ...], int], ...]:
    """The groups of a stage's questions that stand folded away."""
    asked = [
        one
        for one in sizing.kind.questions
        if one.group and one.stage == stage and sizing.facts.shown(one)
    ]
    return tuple(
        (
            group,
            tuple(
                fields.of_question(sizing.job, sizing.facts, one, missing)
                for one in asked
                if one.group == group
            ),
            sum(one.group == group and one.key in sizing.job.answers for one in asked),
        )
        for group in dict.fromkeys(one.group for one in asked)
    )


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
        fits,
        others[:_MOST_FAMILIES],
        urlencode(asked | {"lift": units.show(lift, "length", system)}),
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
        if sizing.no_pump_needed:
            return "none needed"
        return "none fits" if sizing.match else "not yet"
    if not (sizing.chosen.fits or sizing.chosen.by_person):
        return "none fits"
    return sizing.chosen.candidate.pump.name + (" (your pick)" if sizing.chosen.by_person else "")


def _proof_line(sizing: Sizing) -> str:
    judged = [check for check in sizing.checks if check.weight != "note"]
    counts = {state: sum(check.state == state for check in judged) for state in CHECK_WORDS}
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
    wrong = {one.path: str(one) for one in sizing.wrong}
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
        row = fields.of_leg(sizing.job, entry, index + 1, missing, speed, shown if speed else "")
        problem = wrong.get(row.length.path, "")
        rows.append(replace(row, length=replace(row.length, problem=problem)) if problem else row)
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
