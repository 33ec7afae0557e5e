"""The sheet that a new job begins with: its kind's usual legs and facts, on the shop's terms.

What the practice of a region is stands in ``data/region_defaults.csv``; the units of a job tell its
region (assumed: US units the USA, uk the United Kingdom, metric the countries of EN standards).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction

from sizing.base import tables, units
from sizing.base.rules import SHIPPED, Rules
from sizing.base.units import System
from sizing.document.answers import Question
from sizing.document.job import Figure, FittingMethod, JobDocument, LegEntry
from sizing.hydraulics.pipes import SERIES, pipe, pipes
from sizing.kinds import kind
from sizing.kinds.base import Kind

EVERY_KIND = ""
# What takes the place of a usual pipe where inches are sold.
_INCH_PIPES = {
    "pvcu_pn10": "pvc_sch40",
    "pe100_sdr11": "hdpe_dr11_ips",
    "pond_tubing_metric": "pond_tubing",
}
# Round figures of the trade in US units: the step to which a default is rounded.
_STEPS = {"in": 1.0, "ft": 1.0, "gal": 1.0, "gpm": 1.0, "psi": 2.0, "in/h": 0.25, "°F": 1.0}
_SMALL_IN, _SIXTEENTHS = 4.0, 16  # below it inches come in fractions
_SMALL_FT, _LARGE = 4.0, 100.0  # below it half feet, above it hundreds

_ONE_LEG_V = 150.0


@dataclass(frozen=True)
class Terms:
    """What a shop begins its jobs with; None and absent entries leave what the kind has.

    ``pipes`` and ``fittings`` go by the code of a kind, or by :data:`EVERY_KIND`.
    """

    system: System = "metric"
    voltage_v: float | None = None
    phases: int | None = None
    frequency_hz: float | None = None
    pipes: Mapping[str, str] = field(default_factory=dict)
    fittings: Mapping[str, FittingMethod] = field(default_factory=dict)


def first_document(kind_code: str, terms: Terms, rules: Rules = SHIPPED) -> JobDocument:
    """A blank job of a kind, all that it assumes written in the units of the shop.

    Raises
    ------
    UnknownName
        A kind that does not exist.
    """
    found = kind(kind_code)
    family = terms.pipes.get(found.code) or terms.pipes.get(EVERY_KIND, "")
    method = terms.fittings.get(found.code) or terms.fittings.get(EVERY_KIND)
    answers: dict[str, Figure | str] = {}
    for question in found.questions:
        answer = _supply(question, terms, found)
        if answer is None:
            answer = _of_the_region(question, terms.system, found, rules)
        if answer is None and terms.system == "us":
            answer = _in_round_figures(question, rules)
        if answer is not None:
            answers[question.key] = answer
    document = JobDocument(
        kind=found.code,
        units=terms.system,
        answers=answers,
        legs=tuple(_on_terms(leg, family, terms.system) for leg in found.default_legs),
    )
    return document.model_copy(update={"fitting_method": method}) if method else document


def _supply(question: Question, terms: Terms, kind: Kind) -> Figure | str | None:
    if question.key == "phases" and terms.phases:
        return str(terms.phases)
    value = {"voltage": terms.voltage_v, "supply_frequency": terms.frequency_hz}.get(question.key)
    return None if value is None else _volts(question, kind, value)


def _volts(question: Question, kind: Kind, value: float) -> Figure:
    if question.key == "voltage" and kind.between_legs and value < _ONE_LEG_V:
        value *= 2  # houses on 115 V have 230 V between their two legs, and such pumps run on it
    return _assumed(value, question.unit("metric"))


def region_defaults(system: System, kind_code: str) -> dict[str, str]:
    """What the practice of a region answers to a kind's questions, by key."""
    return {
        row["question"]: row["answer"]
        for row in tables.rows("region_defaults")
        if row["units"] == system and kind_code in (row["kinds"].split() or [kind_code])
    }


def _of_the_region(
    question: Question, system: System, kind: Kind, rules: Rules
) -> Figure | str | None:
    """What its region usually answers; None where it has no other, or the house has its own."""
    usual = region_defaults(system, kind.code).get(question.key)
    ids = [one for one in question.default_rule.split("+") if one]
    if usual is None or any(rules.rule(one).overridden for one in ids):
        return None
    if question.choices:
        return usual
    figure = Figure.read(usual, question.dimension, "", "assumed")
    if question.key == "voltage":
        own = question.default_by(rules)
        if own is not None and own.si("voltage") < _ONE_LEG_V:
            return None  # it runs on a battery or on panels
        return _volts(question, kind, figure.si("voltage"))
    return figure


def _assumed(value: float, unit: str, text: str = "") -> Figure:
    return Figure(value=value, unit=unit, provenance="assumed", text=text or f"{value:g} {unit}")


def _in_round_figures(question: Question, rules: Rules) -> Figure | None:
    """A default as the US trade writes it: 6 in, not 5.91; None where the house has its own."""
    ids = [one for one in question.default_rule.split("+") if one]
    usual = question.default_by(rules)
    if usual is None or any(rules.rule(one).overridden for one in ids):
        return None
    unit = units.unit(question.unit("us"), question.dimension)
    value = unit.from_si(usual.si(question.dimension))
    if unit.symbol not in _STEPS or (question.dimension == "size" and value >= 1.0):
        return None  # a 2 in solid would put out the pumps that pass 50 mm
    if unit.symbol == "in" and value < _SMALL_IN:
        return _in_fractions(value)
    step = _STEPS[unit.symbol] * (_LARGE if value >= _LARGE else 1.0)
    if unit.symbol == "ft" and value < _SMALL_FT:
        step = 0.5
    return _assumed(round(value / step) * step, unit.symbol)


def _in_fractions(value_in: float) -> Figure:
    parts = _SIXTEENTHS if value_in < 1.0 else 4
    nearest = Fraction(max(round(value_in * parts), 1), parts)
    whole, rest = divmod(nearest, 1)
    text = " ".join(str(one) for one in (whole, rest) if one)
    return _assumed(float(nearest), "in", f"{text} in")


def _on_terms(leg: LegEntry, family: str, system: System) -> LegEntry:
    """A leg in the shop's pipe, of the size whose bore comes nearest."""
    wanted = family or (_INCH_PIPES.get(leg.series, "") if system == "us" else "")
    if wanted in ("", leg.series) or wanted not in SERIES:
        return leg
    bore_m = pipe(leg.series, leg.nominal).inside_diameter_m
    nearest = min(
        (one for one in pipes().values() if one.series == wanted),
        key=lambda one: abs(math.log(one.inside_diameter_m / bore_m)),
    )
    return leg.model_copy(update={"series": nearest.series, "nominal": nearest.nominal})
