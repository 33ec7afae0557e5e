"""The jets of a fountain: their flow, and the head at their nozzles."""

from __future__ import annotations

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.demand.openings import nozzle_m3s
from sizing.document.answers import Answers, Facts, List, MissingFact, Question
from sizing.document.job import ListRow
from sizing.kinds.common_questions import head_m


def by_jets(facts: Facts, rules: Rules) -> Working:
    """The jets together, each by its own flow or by its nozzle."""
    known = [(row, row.optional("count")) for row in facts.rows("jets")]
    rows = [(count, _jet_m3s(facts, rules, row)) for row, count in known if count]
    if not rows:
        raise MissingFact("lists.jets.r1.count", "jets and their flow", "flow")
    inputs = tuple((f"{count:g} jets of", Measure(flow, "flow")) for count, flow in rows)
    return Working(
        "Jets",
        "sum of count × flow each",
        inputs,
        Measure(sum(count * flow for count, flow in rows), "flow"),
        "the nozzles' own tables; by bore and head 0.95 π/4 d² √(2 g H)",
    )


def _jet_m3s(facts: Facts, rules: Rules, row: Answers) -> float:
    """Flow of a jet: told, else by the bore of its nozzle and the head at it."""
    bore, head = row.optional("bore"), nozzle_head_m(facts, rules)
    if row.optional("flow") is None and bore is not None and head is not None:
        return nozzle_m3s(bore, head)
    return row.si("flow")


def nozzle_head_m(facts: Facts, rules: Rules) -> float | None:
    """Head at the nozzles of the jets [m]: as told, else by how high they rise (PND-08)."""
    if facts.optional("nozzle_pressure") is not None:
        return head_m(facts, "nozzle_pressure")
    rises = facts.optional("jet_height")
    return None if rises is None else rises / rules.value("PND-08")


JET_QUESTIONS = (
    Question(
        key="jet_height",
        label="Jets rise",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.05,
        high=100.0,
        usual=(0.3, 8.0),
        optional=True,
        help="Over their nozzles, in still air.",
        in_doubt=False,
    ),
    Question(
        key="nozzle_pressure",
        label="or their nozzles want",
        stage="run",
        dimension="pressure",
        low=1e3,
        high=1e6,
        usual=(5e3, 1.5e5),
        optional=True,
        help="By the maker's table; it goes before the height.",
        in_doubt=False,
    ),
)
JETS = List(
    key="jets",
    label="Jets",
    stage="flow",
    columns=(
        Question(
            key="count",
            label="How many",
            stage="flow",
            dimension="count",
            metric_unit="×",
            us_unit="×",
            low=0.0,
            high=500.0,
            usual=(1, 50),
            optional=True,
        ),
        Question(
            key="flow",
            label="Each takes",
            stage="flow",
            dimension="flow",
            low=1e-6,
            high=0.1,
            usual=(5e-5, 5e-3),
        ),
        Question(
            key="bore",
            label="or its nozzle",
            stage="flow",
            dimension="bore",
            low=0.001,
            high=0.2,
            usual=(0.004, 0.05),
            optional=True,
        ),
    ),
    first=(ListRow(id="r1"),),
    help=(
        "The maker's table gives a jet's flow and pressure. Left away, the flow comes of the bore"
        " of a smooth nozzle and the height or pressure told under The run."
    ),
)
