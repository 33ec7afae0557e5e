"""A sizing with something in its job changed, as far as the system curve.

Cheap enough to ask a hundred times.
"""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base.errors import SizingError
from sizing.base.rules import Rules
from sizing.demand.method import Demand
from sizing.document.answers import Facts
from sizing.document.build_route import system_curve
from sizing.document.job import JobDocument
from sizing.hydraulics.system_curve import SystemCurve
from sizing.kinds.common_questions import liquid_of
from sizing.pump.curve import PumpCurve
from sizing.size import Sizing


class NotYet(SizingError):
    """The question cannot be put while the sizing lacks something; the text says what."""


@dataclass(frozen=True)
class Known:
    """What most questions need: the flow wanted, the system, and the pump that was chosen."""

    sizing: Sizing
    demand: Demand
    system: SystemCurve
    curve: PumpCurve | None
    pump_name: str

    @property
    def rules(self) -> Rules:
        """The house rules in force."""
        return self.sizing.rules

    @property
    def pump(self) -> PumpCurve:
        """The chosen pump's curve.

        Raises
        ------
        NotYet
        """
        if self.curve is None:
            raise NotYet("this needs a pump: none fits yet, and none was picked")
        return self.curve


def known(sizing: Sizing) -> Known:
    """The sizing as the questions need it.

    Raises
    ------
    NotYet
        Flow or run are not known.
    """
    if sizing.demand is None or sizing.system is None:
        raise NotYet("this can be asked as soon as the flow and the run are known")
    chosen = sizing.chosen.candidate.pump if sizing.chosen else None
    return Known(
        sizing,
        sizing.demand,
        sizing.system,
        chosen.curve if chosen else None,
        chosen.name if chosen else "",
    )


def changed_system(base: Known, job: JobDocument) -> SystemCurve:
    """The system curve of a changed job of the same kind.

    Raises like :func:`sizing.document.build_route.system_curve`.
    """
    kind = base.sizing.kind
    facts = Facts(job, kind.questions, kind.lists, base.rules)
    return system_curve(job, kind.ends(facts, base.rules), liquid_of(facts))


def changed_demand(base: Known, job: JobDocument) -> Demand:
    """The demand of a changed job of the same kind."""
    kind = base.sizing.kind
    return kind.demand(Facts(job, kind.questions, kind.lists, base.rules), base.rules)
