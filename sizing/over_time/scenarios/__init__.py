"""What jobs can be run through: a day, a storm, a cut, a year.

A new file with ``SCENARIOS`` in it is found by itself.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

from sizing.base.errors import SizingError
from sizing.base.failure import failure_of
from sizing.base.found_in import found_in
from sizing.base.message import Message, message
from sizing.checks.base import Check, Running, alone
from sizing.document.job import Figure
from sizing.kinds.base import Kind
from sizing.over_time.scenarios.base import Scenario


@lru_cache
def all_scenarios() -> Mapping[str, Scenario]:
    """Every scenario by its code, those to begin with first (``rank``)."""
    found = [one for group in found_in(__name__, __path__, "SCENARIOS") for one in group]
    return {one.code: one for one in sorted(found, key=lambda one: one.rank)}


def scenarios(kind: Kind, running: Running) -> tuple[Scenario, ...]:
    """Those that make sense for a job, the one to begin with first."""
    return tuple(one for one in all_scenarios().values() if one.applies(kind, running))


def run_check(scenario: Scenario, running: Running, given: Mapping[str, Figure]) -> Check:
    """A scenario that stands on a job, as a check; one that cannot be run says why."""
    try:
        return scenario.check(scenario.run(running, scenario.answers(given)))
    except SizingError as problem:
        return _not_run(
            scenario,
            message("It cannot be run: {problem}.", problem=str(problem)),
            "Mend that first, or take it off the job.",
        )
    except Exception as problem:
        told = _not_run(
            scenario,
            message("This could not be worked out; the other checks stand."),
            "Take it off the job, and tell the owner of the shop.",
        )
        return replace(told, raised=failure_of(scenario.label, problem))


def _not_run(scenario: Scenario, said: Message, remedy: str) -> Check:
    label = scenario.label[:1].upper() + scenario.label[1:]
    return Check(f"over_time_{scenario.code}", label, "watch", said, remedy, about="site")


def kept(kind: Kind, running: Running) -> tuple[tuple[Scenario, Mapping[str, Figure]], ...]:
    """What stands on a job and suits it, with its figures, in the order it was put there."""
    asked = [
        (all_scenarios()[code], given)
        for code, given in running.job.scenarios.items()
        if code in all_scenarios()
    ]
    return tuple((one, given) for one, given in asked if one.applies(kind, running))


@alone("what stands on the job to be run over time")
def kept_checks(kind: Kind, running: Running) -> tuple[Check, ...]:
    """The checks of what stands on a job."""
    return tuple(run_check(scenario, running, given) for scenario, given in kept(kind, running))
