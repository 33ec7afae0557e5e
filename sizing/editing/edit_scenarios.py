"""What stands on a job to be run at every edit: put there, changed, taken off."""

from __future__ import annotations

from collections.abc import Mapping

from sizing.base import numbers
from sizing.base.errors import EditError, SizingError
from sizing.document.job import MOST_SCENARIOS, Figure, JobDocument
from sizing.document.read_figure import read_figure
from sizing.over_time.scenarios import all_scenarios
from sizing.over_time.scenarios.base import Scenario


class AskedWrong(SizingError):
    """A figure of a scenario that cannot be read; ``key`` names it."""

    def __init__(self, key: str, problem: str) -> None:
        self.key = key
        super().__init__(problem)


def scenario(code: str) -> Scenario:
    """The scenario with that code; raises :class:`EditError` where there is none."""
    try:
        return all_scenarios()[code]
    except KeyError:
        raise EditError(f"no job is run through '{code[:40]}'") from None


def figures(job: JobDocument, code: str, texts: Mapping[str, str]) -> dict[str, Figure]:
    """The figures of a scenario from what was typed, by key; what is blank keeps its default.

    Raises
    ------
    AskedWrong
        Naming the figure that cannot be read.
    """
    found: dict[str, Figure] = {}
    for question in scenario(code).asks:
        text = texts.get(question.key, "")
        if not text.strip():
            continue
        try:
            found[question.key] = read_figure(job, question, None, text)
        except SizingError as problem:
            raise AskedWrong(question.key, str(problem)) from None
    return found


def kept(job: JobDocument, code: str, text: str) -> dict[str, dict[str, Figure]]:
    """What stands on the job, with one put there, changed or taken off.

    The text is 'off', 'on', or its figures such as 'times=1.5; out=6 h'.
    """
    others = {key: given for key, given in job.scenarios.items() if key != code}
    if text.strip() in ("", "off"):
        scenario(code)
        return others
    if len(job.scenarios) >= MOST_SCENARIOS and code not in job.scenarios:
        raise SizingError(f"a job is run through at most {MOST_SCENARIOS} things: take one off")
    pairs = (part.partition("=") for part in text.split(";") if "=" in part)
    texts = {key.strip(): value.strip() for key, _, value in pairs}
    return {**job.scenarios, code: figures(job, code, texts)}


def text_at(job: JobDocument, code: str) -> str:
    """What the field of a scenario shows."""
    if code not in job.scenarios:
        return "off"
    given = job.scenarios[code].items()
    return "; ".join(f"{key}={numbers.as_read(one.shown())}" for key, one in given) or "on"
