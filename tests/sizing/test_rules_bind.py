"""Every rule that a house may set decides something: set away from its value, an answer turns."""

from __future__ import annotations

import pytest

from sizing.analysis import methods, sensitivity
from sizing.analysis.changed import known
from sizing.base.errors import SizingError
from sizing.base.rules import PARTS, Override, Rules, defaults
from sizing.kinds import kinds
from sizing.results.report import report
from sizing.size import size
from tests.sizing.conftest import changed
from tests.sizing.test_kinds import JOBS

SETTABLE = [
    (rule.rule_id, part) for rule in defaults().values() for part in PARTS if part in rule.parts
]
FACTORS = (0.3, 3.0)
# What a job must be like for a rule to have a say, where no demo job is.
EDITS: dict[str, list[tuple]] = {}


def answer(job, catalogue, rules):
    """All that a page would show of a job: the report, its defaults, dialogs that read rules."""
    sizing = size(job, catalogue, rules)
    questions = [question for question in sizing.kind.questions if question.dimension]
    shown = [report(sizing), [sizing.facts.figure(question.key) for question in questions]]
    shown.append([question.usual_by(rules) for question in questions])
    for dialog in (methods.schools, sensitivity.swings):
        try:
            shown.append(dialog(known(sizing)))
        except SizingError:
            continue
    return repr(shown)


def away(rule_id: str, part: str, factor: float) -> Rules:
    rule = defaults()[rule_id]
    value = rule.typical_si if rule.part(part) is None else rule.part(part)
    return Rules({rule_id: Override(**{f"{part}_si": value * factor})})


@pytest.fixture(scope="module")
def plain(catalogue):
    return {name: answer(job, catalogue, Rules({})) for name, job in JOBS.items()}


@pytest.mark.parametrize(("rule_id", "part"), SETTABLE)
def test_a_rule_that_is_set_away_changes_something(rule_id, part, plain, catalogue):
    for name, job in JOBS.items():
        for factor in FACTORS:
            if answer(job, catalogue, away(rule_id, part, factor)) != plain[name]:
                return
    for name, *edits in EDITS.get(rule_id, []):
        job = changed(JOBS[name], *edits)
        before = answer(job, catalogue, Rules({}))
        for factor in FACTORS:
            if answer(job, catalogue, away(rule_id, part, factor)) != before:
                return
    pytest.fail(f"{rule_id} {part} changes no demo job")


def test_defaults_in_round_figures_are_those_of_their_rules():
    for kind in kinds().values():
        for question in kind.questions:
            if question.default_rule:
                figure = question.default_by(Rules({}))
                ids = question.default_rule.split("+")
                shipped = sum(Rules({}).value(one) for one in ids) * question.rule_factor
                assert figure.si(question.dimension) == pytest.approx(shipped, rel=0.04)
