"""The stages of the worksheet: what each asks, and what it decided."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from urllib.parse import urlencode

from kyrtos.worksheet import fields
from kyrtos.worksheet.fields import Field
from kyrtos.worksheet.sheet_views import FamilyView, StageView
from sizing.base import units
from sizing.base.errors import SizingError
from sizing.base.failure import Parts
from sizing.checks.base import CHECK_WORDS
from sizing.document.answers import Question
from sizing.selection import pump_family
from sizing.size import Sizing

_STAGES = (
    ("water", "The water"),
    ("flow", "How much"),
    ("run", "The run"),
    ("pump", "The pump"),
    ("proof", "Proof"),
)
_MOST_FAMILIES = 6  # that tempt and are wrong


def stages(sizing: Sizing, parts: Parts) -> tuple[StageView, ...]:
    """The stages in working order, each with the line that it decided."""
    missing = fields.missing_paths(sizing.missing)
    made = []
    for code, title in _STAGES:
        shown = [
            question
            for question in sizing.kind.questions
            if question.stage == code and sizing.facts.shown(question) and not question.group
        ]
        needs = sum(1 for one in sizing.missing if one.stage == code)
        lists = tuple(
            fields.of_list(sizing.job, sizing.facts, one, missing)
            for one in sizing.kind.lists
            if one.stage == code
        )
        made.append(
            StageView(
                code=code,
                title=title,
                decided=parts.part(title, partial(_DECIDED[code], sizing), ""),
                fields=tuple(_field(sizing, parts, question, missing) for question in shown),
                folded=_folded(sizing, parts, code, missing),
                lists=lists,
                needs=needs,
                open=code in ("flow", "run"),
            )
        )
    return tuple(made)


def _field(sizing: Sizing, parts: Parts, question: Question, missing: set[str]) -> Field:
    """The field of a question; where it breaks, its text alone, so that it can be changed."""
    path = sizing.facts.path(question.key)
    return parts.part(
        question.label,
        lambda: fields.of_question(sizing.job, sizing.facts, question, missing),
        Field(path, question.label, "figure", sizing.job.pending.get(path, "")),
    )


def _folded(
    sizing: Sizing, parts: Parts, stage: str, missing: set[str]
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
            tuple(_field(sizing, parts, one, missing) for one in asked if one.group == group),
            sum(one.group == group and one.key in sizing.job.answers for one in asked),
        )
        for group in dict.fromkeys(one.group for one in asked)
    )


def family(sizing: Sizing) -> FamilyView:
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
    matched = {one.pump.family for one in sizing.match.fits} if sizing.match else ()
    found = pump_family.for_kind(advice, sizing.kind.families(sizing.facts), matched)
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


_DECIDED: dict[str, Callable[[Sizing], str]] = {
    "water": lambda sizing: sizing.kind.stage_summary(sizing.facts),
    "flow": _flow_line,
    "run": _run_line,
    "pump": _pump_line,
    "proof": _proof_line,
}
