"""Ways to the flow: what each method says, which one is taken, and the margin on it."""

from __future__ import annotations

from collections.abc import Callable, Container, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.demand.day_pattern import HOUSEHOLD, Shares, busiest_hour_m3s
from sizing.document.answers import Facts, MissingFact, stands_on


@dataclass(frozen=True)
class FlowByMethod:
    """One way to the flow: its answer, or what it still needs, or why it cannot say."""

    code: str
    label: str
    flow_m3s: float | None
    missing: tuple[MissingFact, ...] = ()
    working: Working | None = None
    caution: str = ""
    problem: str = ""


@dataclass(frozen=True)
class FlowMethod:
    """A way to the flow as a kind declares it; ``arrive`` works it out.

    ``caution`` says where the school is known to go wrong. One that does not ``count``, or does not
    suit the job by its own words, is shown beside the others, but is never the largest of them.
    """

    code: str
    label: str
    arrive: Callable[[Facts, Rules], Working]
    caution: str = ""
    counts: bool = True
    suits: Callable[[Facts], bool] = lambda facts: True

    def find(self, facts: Facts, rules: Rules) -> FlowByMethod:
        """The way with these facts."""
        mark = facts.mark
        try:
            working = self.arrive(facts, rules)
        except MissingFact as missing:
            return FlowByMethod(self.code, self.label, None, (missing,), caution=self.caution)
        except SizingError as problem:
            return FlowByMethod(
                self.code, self.label, None, caution=self.caution, problem=str(problem)
            )
        told = replace(working, stands_on=stands_on(facts.noted(mark)))
        return FlowByMethod(
            self.code, self.label, working.result.value_si, working=told, caution=self.caution
        )


@dataclass(frozen=True)
class Demand:
    """The flow that the job wants: the way taken, with the margin added once."""

    methods: tuple[FlowByMethod, ...]
    taken: str
    inflow_m3s: float
    margin: float
    needed_m3s: float
    working: Working
    reason: str = ""  # why this school is the one taken, where several stand side by side
    mean_inflow_m3s: float | None = None  # of a whole day, where that is known
    # what people send down in a day [m3], counted or by their fixtures; None: it is no such job,
    # or nobody said
    daily_volume_m3: float | None = None
    day_shares: Shares = HOUSEHOLD  # by the hour, how that day's volume comes
    steps: tuple[Working, ...] = ()  # what came before the last working, each on its own line

    @property
    def hour_inflow_m3s(self) -> float:
        """Mean inflow of the busiest hour: that of the day's volume, never an instant's peak.

        The inflow told where no day is known: a storm or a spring lasts an hour.
        """
        if self.daily_volume_m3 is None:
            return self.inflow_m3s
        return min(self.inflow_m3s, busiest_hour_m3s(self.daily_volume_m3, self.day_shares))

    def then(self, working: Working, needed_m3s: float, **more: Any) -> Demand:
        """The demand after one step more: raised, held or split, never without saying so."""
        return replace(
            self,
            needed_m3s=needed_m3s,
            working=working,
            steps=(*self.steps, self.working),
            **more,
        )


def margin_working(inflow_m3s: float, margin: float, source: str) -> Working:
    """How the needed flow came of the flow taken: the one place where a margin is added."""
    inputs = (("flow taken", Measure(inflow_m3s, "flow")), ("margin", Measure(margin, "factor")))
    return Working(
        "Flow needed",
        "needed = flow taken × margin",
        inputs,
        Measure(inflow_m3s * margin, "flow"),
        source,
    )


def take(
    methods: Sequence[FlowByMethod], taken: str, counting: Container[str], hint: MissingFact
) -> float:
    """The flow of the way that is taken.

    One by its code, the largest, or the sum of those answered.

    Raises
    ------
    MissingFact
        The way taken lacks something, or (``hint``) no way has what it needs.
    SizingError
        The way taken cannot say, or the flow comes out as zero.
    """
    known = {method.code: method.flow_m3s for method in methods if method.flow_m3s is not None}
    for method in methods:
        if method.code == taken and method.flow_m3s is None:
            raise (
                method.missing[0]
                if method.missing
                else SizingError(f"{method.label}: {method.problem}")
            )
    if taken in known:
        flow = known[taken]
    else:
        counted = [flow for code, flow in known.items() if code in counting] or [*known.values()]
        if not counted:
            raise hint
        flow = (sum if taken == "sum" else max)(counted)
    if not flow > 0:
        raise SizingError(
            "the flow comes out as zero: look at the figures of the way that is taken"
        )
    return flow
