"""Everything the worksheet prints, worked out from a sizing.

No arithmetic here, only choosing and wording.
"""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from kyrtos.drawing.blank import BLANK_NARROW, BlankPicture, blank_picture
from kyrtos.drawing.picture import NARROW, WIDE, Frame, picture
from kyrtos.jobs.services import Conflict
from kyrtos.worksheet import fields
from kyrtos.worksheet.dialogs import buttons
from kyrtos.worksheet.fields import Field, LegRow
from kyrtos.worksheet.sheet_pumps import WORD_SIGNS, best_try, checks, choosing, working
from kyrtos.worksheet.sheet_stages import family, stages
from kyrtos.worksheet.sheet_views import (
    Choosing,
    FamilyView,
    FlowMethodView,
    Sheet,
    TapeRow,
    WorkingView,
)
from sizing.analysis.remedies import Remedy
from sizing.analysis.typical import TypicalSite, typical_site
from sizing.base import units
from sizing.base.failure import Parts
from sizing.base.message import message
from sizing.base.reader import current
from sizing.base.units import System
from sizing.demand.method import FlowByMethod
from sizing.document import build_route
from sizing.document.answers import Choice
from sizing.document.job import JobDocument, LegEntry
from sizing.editing import edit
from sizing.head_breakdown import BreakdownLine, as_text
from sizing.results.verdict import Verdict, best_of, verdict
from sizing.size import Sizing

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
_UNTOLD = Verdict("open", message("The verdict could not be worked out."), ())
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
    remedies: tuple[Remedy, ...] = (),
) -> Sheet:
    """The worksheet of a sizing, in the job's units; ``home`` is what US units change back to."""
    parts = Parts(sizing.failures)
    part, system = parts.part, sizing.job.units
    told = part("the verdict", lambda: verdict(sizing, best_of(remedies)), _UNTOLD)
    wide = part("the picture", lambda: picture(sizing, system, WIDE), None)
    unknown = wide is None and bool(sizing.missing)
    typical = None
    if unknown:
        rules = sizing.facts.rules
        typical = part("the usual site", lambda: typical_site(sizing.job, rules), None)
    nothing = Choosing.nothing(sizing.job.pump is not None)
    made = Sheet(
        units=system,
        verdict=part("the verdict", lambda: told.main.text(system), "Not worked out."),
        verdict_state=told.state,
        worries=part("the verdict", lambda: _worries(told, system), ()),
        last_good=part("what could not be read", lambda: tuple(fields.last_good(sizing.job)), ()),
        stages=stages(sizing, parts),
        methods=_methods(sizing, parts),
        reason=sizing.demand.reason if sizing.demand else "",
        family=part("the type of pump", lambda: family(sizing), FamilyView((), (), "")),
        needed=units.show(sizing.demand.needed_m3s, "flow", system) if sizing.demand else "",
        flow_steps=part("the flow", lambda: _flow_steps(sizing), ()),
        needed_working=part("the flow", lambda: _needed_working(sizing), None),
        legs=_legs(sizing, parts),
        tape=part("the head breakdown", lambda: _tape(sizing), ()),
        tape_total=part("the head breakdown", lambda: _tape_total(sizing), ""),
        tape_at=(
            units.show(sizing.head_breakdown.flow_m3s, "flow", system)
            if sizing.head_breakdown
            else ""
        ),
        length_unit=units.shown("length", system).unit,
        flow_unit=units.shown("flow", system).unit,
        decimal="," if current().style == "comma" else ".",
        other_units=home if system == "us" else "us",
        tape_text=part("the head breakdown", lambda: _tape_text(sizing), ""),
        head_dialogs=part("the questions", lambda: buttons(sizing, "head"), ()),
        choosing=part("the pumps", lambda: choosing(sizing, currency, remedies, parts), nothing),
        checks=checks(sizing, parts, notes=False),
        notes=checks(sizing, parts, notes=True),
        proof_of=best_try(sizing),
        wide=wide,
        narrow=part("the picture", lambda: picture(sizing, system, NARROW), None),
        blank_wide=part("the picture", lambda: _blank(sizing, typical, WIDE), None),
        blank_narrow=part("the picture", lambda: _blank(sizing, typical, BLANK_NARROW), None),
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
    return replace(made, failures=tuple(parts.failures))


def _worries(told: Verdict, system: System) -> tuple[tuple[str, str, str], ...]:
    return tuple((state, WORD_SIGNS[state], text.text(system)) for state, text in told.worries)


def _flow_steps(sizing: Sizing) -> tuple[tuple[WorkingView, str], ...]:
    system = sizing.job.units
    steps = sizing.demand.steps if sizing.demand else ()
    return tuple((working(step, system), step.result.text(system)) for step in steps)


def _needed_working(sizing: Sizing) -> WorkingView | None:
    return working(sizing.demand.working, sizing.job.units) if sizing.demand else None


def _tape_total(sizing: Sizing) -> str:
    return sizing.head_breakdown.figures(sizing.job.units)[1] if sizing.head_breakdown else ""


def _tape_text(sizing: Sizing) -> str:
    return as_text(sizing.head_breakdown, sizing.job.units) if sizing.head_breakdown else ""


def _methods(sizing: Sizing, parts: Parts) -> tuple[FlowMethodView, ...]:
    found = [
        parts.part(one.label, partial(_method, one, sizing, sizing.job.units), None)
        for one in (sizing.demand.methods if sizing.demand else ())
    ]
    return tuple(one for one in found if one is not None)


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


def _legs(sizing: Sizing, parts: Parts) -> tuple[LegRow, ...]:
    missing = fields.missing_paths(sizing.missing)
    wrong = {one.path: str(one) for one in sizing.wrong}
    speeds: dict[str, str] = parts.part("the velocities", lambda: _speeds(sizing), {})
    rows = []
    for index, entry in enumerate(sizing.job.legs):
        shown = parts.part("the friction loss", partial(_loss, sizing, entry), "")
        speed = speeds.get(entry.id, "")
        row = fields.of_leg(sizing.job, entry, index + 1, missing, speed, shown if speed else "")
        problem = wrong.get(row.length.path, "")
        rows.append(replace(row, length=replace(row.length, problem=problem)) if problem else row)
    return tuple(rows)


def _speeds(sizing: Sizing) -> dict[str, str]:
    """The velocity in each leg, in words."""
    if sizing.system is None or sizing.at_flow_m3s is None:
        return {}
    found = sizing.system.velocities_m_s(sizing.at_flow_m3s)[:, 0]
    return {
        leg.id: units.show(float(speed), "velocity", sizing.job.units)
        for leg, speed in zip(sizing.legs, found, strict=True)
    }


def _loss(sizing: Sizing, entry: LegEntry) -> str:
    if sizing.head_breakdown is None:
        return ""
    return units.show(sizing.head_breakdown.leg_loss_m(entry.id), "length", sizing.job.units)


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
