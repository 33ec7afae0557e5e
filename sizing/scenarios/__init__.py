"""What jobs can be run through: a day, a storm, a cut, a year."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from sizing.base.errors import SizingError
from sizing.base.message import message
from sizing.checks.base import Check, Running
from sizing.document.job import Figure
from sizing.kinds.base import Kind
from sizing.scenarios import cuts, mains, pit_day, pressure_day, solar_year, tanks
from sizing.scenarios.base import Scenario

_MODULES = (pit_day, cuts, mains, tanks, pressure_day, solar_year)
SCENARIOS: Mapping[str, Scenario] = MappingProxyType(
    {one.code: one for module in _MODULES for one in module.SCENARIOS}
)


def scenarios(kind: Kind, running: Running) -> tuple[Scenario, ...]:
    """Those that make sense for a job, the one to begin with first."""
    return tuple(one for one in SCENARIOS.values() if one.applies(kind, running))


def run_check(scenario: Scenario, running: Running, given: Mapping[str, Figure]) -> Check:
    """A scenario that stands on a job, as a check; one that cannot be run says why."""
    try:
        return scenario.check(scenario.run(running, scenario.answers(given)))
    except SizingError as problem:
        return Check(
            f"over_time_{scenario.code}",
            scenario.label[:1].upper() + scenario.label[1:],
            "watch",
            message("It cannot be run: {problem}.", problem=str(problem)),
            "Mend that first, or take it off the job.",
            about="site",
        )


def kept(kind: Kind, running: Running) -> tuple[tuple[Scenario, Mapping[str, Figure]], ...]:
    """What stands on a job and suits it, with its figures, in the order it was put there."""
    able = {one.code: one for one in scenarios(kind, running)}
    return tuple(
        (able[code], given) for code, given in running.job.scenarios.items() if code in able
    )


def kept_checks(kind: Kind, running: Running) -> tuple[Check, ...]:
    """The checks of what stands on a job."""
    return tuple(run_check(scenario, running, given) for scenario, given in kept(kind, running))
