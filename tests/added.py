"""One more kind, scenario or dialog in a temporary folder: all that the docs say it takes."""

from __future__ import annotations

import importlib
import pkgutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

KIND = '''
"""A wash-down: a hose fed from a trough."""

from sizing.checks.pump_curve import pump_checks
from sizing.checks.velocity import Speeds
from sizing.document.answers import MissingFact, Question
from sizing.document.build_route import Ends
from sizing.kinds.base import Kind, Level, Place, Situation
from sizing.kinds.common_questions import (
    STATED,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)

METHODS = (STATED,)


class WashDown(Kind):
    code = "wash_down"
    label = "wash-down"
    purpose = "Water from a trough to a hose that washes a yard."
    datum = "the yard"
    questions = (
        temperature("12 °C", "a trough outdoors"),
        stated_flow("Flow of the hose", (1e-4, 2e-3)),
        flow_from(METHODS),
        margin("1.0 ×", "a hose forgives"),
        Question(
            key="trough_level", label="Water in the trough", stage="run", dimension="length",
            metric_unit="m", us_unit="ft", low=-5.0, high=5.0, usual=(0.0, 1.0), is_level=True,
        ),
        *supply(hours="50 h", hours_source="a yard washed on Saturdays"),
    )
    methods = METHODS
    hint = MissingFact("answers.stated_flow", "the flow of the hose", "flow")
    speeds = Speeds("VEL-01", "keeps the loss small and the pipe cheap", suction_fastest="VEL-02")
    default_legs = (leg("a", "hose line", "32 mm", ("ball_valve_full", 1), ("exit", 1)),)
    usual_legs = ((20.0, 1.5),)
    sizes = ()
    cautions = ("Electricity and water: a licensed electrician makes the connection.",)

    def ends(self, facts, rules):
        return Ends(facts.si("trough_level"))

    def families(self, facts):
        return ("transfer",)

    def place(self, facts, rules):
        level = facts.si("trough_level")
        return Place("tank", 1.0, (Level("floor", "bottom", level - 0.5),
                                   Level("stop", "water", level, "answers.trough_level"),
                                   Level("rim", "rim", level + 0.3)), 0.0, "tank")

    def situation(self, facts):
        return Situation("clean", "beside", "tank", 0.0)

    def checks(self, running):
        return list(pump_checks(running))

    def stage_summary(self, facts):
        return "clean water"


KIND = WashDown()
'''

SCENARIO = '''
"""A hose left open over lunch."""

from sizing.base.message import message
from sizing.over_time.scenarios.base import Line, Outcome, SimulationResult, Scenario


def _run(running, answers):
    said = message("An hour of it is borne.")
    line = Line("Flow", "flow", ((0.0, 4e-4), (3600.0, 4e-4)))
    return SimulationResult(3600.0, line, (), (), (), (("Hours", "1"),), Outcome("hold", said))


SCENARIOS = (
    Scenario("over_lunch", "a hose left open over lunch", "an hour", lambda *_: True, _run),
)
'''

DIALOG = '''
"""How long a bucket takes."""

from kyrtos.worksheet.dialogs.base import Dialog

DIALOG = Dialog(
    name="bucket_time", words="bucket", key="Z", tells="how long a bucket takes", place="head",
    rank=99, view=lambda asked: {"said": "A bucket takes a minute."},
)
'''


@contextmanager
def one_more(
    monkeypatch: pytest.MonkeyPatch, folder: Path, package: str, name: str, text: str, *found: str
) -> Iterator[None]:
    """A module in a package while it lasts; ``found`` are functions that forget what they found."""
    (folder / f"{name}.py").write_text(text)
    home = importlib.import_module(package)
    caches = [pkgutil.resolve_name(one) for one in found]

    def forget() -> None:
        for one in caches:
            one.cache_clear()

    monkeypatch.setattr(home, "__path__", [*home.__path__, str(folder)])
    forget()
    try:
        yield
    finally:
        monkeypatch.undo()
        sys.modules.pop(f"{package}.{name}", None)
        forget()
