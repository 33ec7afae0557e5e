"""A second way to the flow, begun and not told to its end, never blanks the one in use."""

import pytest

from sizing.base import units
from sizing.document.job import Figure
from sizing.results.verdict import state_of
from sizing.size import size
from tests.sizing.test_kinds import JOBS

PLAIN = {"plant-nursery-well": "2.6 m3/h", "observatory-solar-well": "0.6 m3/h"}


def stated(name, catalogue):
    """A demo job whose flow is stated, without any other way to it."""
    job = JOBS[name]
    whole = size(job, catalogue)
    if whole.demand is None or "stated" not in [one.code for one in whole.demand.methods]:
        return None
    flow = Figure(value=whole.demand.inflow_m3s * 3600, unit="m³/h", provenance="told")
    answers = dict(job.answers) | {"stated_flow": flow, "flow_from": "stated"}
    return whole, job.model_copy(update={"answers": answers})


@pytest.mark.parametrize("name", sorted(JOBS))
def test_half_of_another_way_leaves_the_one_in_use(name, catalogue):
    made = stated(name, catalogue)
    if made is None:
        return
    whole, job = made
    plain = size(job, catalogue)
    ways = [one for one in whole.kind.questions if one.stage == "flow" and one.optional]
    for question in ways:
        if question.key == "stated_flow" or not question.dimension:
            continue
        low, high = question.usual or (question.low, question.high)
        unit = question.metric_unit or units.shown(question.dimension, "metric").unit
        middle = units.unit(unit, question.dimension).from_si((low * high) ** 0.5)
        figure = Figure(value=middle, unit=unit, provenance="told")
        begun = job.model_copy(update={"answers": {**job.answers, question.key: figure}})
        found = size(begun, catalogue)
        assert found.demand is not None, question.key
        assert found.demand.taken == "stated"
        assert found.demand.inflow_m3s == pytest.approx(plain.demand.inflow_m3s), question.key
        assert len(found.checks) >= len(plain.checks) - 1, question.key
        assert (state_of(found) == "open") is (state_of(plain) == "open"), question.key
