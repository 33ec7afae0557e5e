"""Every word that a check, a verdict or a reason says, as it was last looked at.

So that no sentence, remedy or working changes unseen. After changing one on purpose, look at what
``git diff`` shows of ``words_of_checks.txt`` after ``python -m tests.sizing.test_words_of_checks``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pytest

from sizing.document.job import JobDocument
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.results.verdict import verdict
from sizing.size import Sizing, size
from tests.sizing.conftest import DEMO, changed
from tests.sizing.test_judgement import MUSTS, SILENT, twins
from tests.sizing.test_kind_checks import ROWS
from tests.sizing.test_kinds import JOBS, check
from tests.sizing.test_three_states import STATES, sized
from tests.thin import some

Edits = tuple[tuple[str, str], ...]
Changes = tuple[dict, ...]

KEPT = Path(__file__).with_name("words_of_checks.txt")


def words_of(one) -> Iterator[str]:
    yield f"{one.code} {one.state} {one.weight} {one.about} {one.label}"
    for system in ("metric", "us"):
        yield f"  {one.message.text(system)}"
    yield f"  {one.remedy}"
    if one.working:
        yield f"  {one.working.title}: {one.working.formula} ({one.working.source})"
        yield from (f"    {name}: {value}" for name, value in one.working.lines("metric"))


def of_a_sizing(sizing: Sizing) -> Iterator[str]:
    told = verdict(sizing)
    yield f"{told.state}: {told.main.text('metric')}"
    yield from (f"  {state}: {worry.text('metric')}" for state, worry in told.worries)
    for one in (sizing.match and (*sizing.match.fits, *sizing.match.near_misses)) or ():
        yield f"  {one.pump.name}: " + "; ".join(text.text("metric") for text in one.reasons)
    if sizing.match:
        yield f"  out: {sizing.match.out}"
        yield from (f"  {rule} {text.text('metric')}" for rule, text in sizing.match.order)


def blocks(catalogue: Catalogue) -> dict[str, Callable[[], Iterator[str]]]:
    """What is said of each case, by a heading that names it."""
    found: dict[str, Callable[[], Iterator[str]]] = {}

    def of_a_job(job: JobDocument) -> Iterator[str]:
        sizing = size(job, catalogue)
        yield from of_a_sizing(sizing)
        for one in sizing.checks:
            yield from words_of(one)

    def of_a_must(name: str, edits: Edits, pumps: Changes) -> Iterator[str]:
        shop = twins(JOBS[name], catalogue, *pumps)
        yield from of_a_sizing(size(changed(JOBS[name], *edits), shop))
        picked = changed(JOBS[name], *edits).model_copy(update={"pump": "a"})
        yield from of_a_sizing(size(picked, shop))

    def of_a_silent_one(name: str, change: dict) -> Iterator[str]:
        yield from of_a_sizing(size(JOBS[name], twins(JOBS[name], catalogue, change)))

    def of_a_row(name: str, edits: Edits, code: str) -> Iterator[str]:
        yield from words_of(check(size(changed(JOBS[name], *edits), catalogue), code))

    def of_a_state(name: str, edits: Edits, change: dict, code: str) -> Iterator[str]:
        yield from words_of(check(sized(name, edits, change, catalogue), code))

    def note(heading: str, make: Callable[[], Iterator[str]]) -> None:
        found[f"{heading} {sum(one.startswith(heading) for one in found)}"] = make

    for name, job in JOBS.items():
        note(f"job {name}", partial(of_a_job, job))
    for name, edits, code, _ in ROWS:
        note(f"row {name} {code}", partial(of_a_row, name, edits, code))
    for name, edits, change, code, state in STATES:
        note(f"state {name} {code} {state}", partial(of_a_state, name, edits, change, code))
    for _, name, edits, pumps, _, _ in MUSTS:
        note(f"must {name}", partial(of_a_must, name, edits, pumps))
    for name, change, _ in SILENT:
        note(f"silent {name}", partial(of_a_silent_one, name, change))
    return found


def kept() -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for line in KEPT.read_text(encoding="utf-8").splitlines():
        if line.startswith("== "):
            lines = found[line[3:]] = []
        else:
            lines.append(line)
    return found


def test_every_case_has_its_words(catalogue):
    assert list(blocks(catalogue)) == list(kept())


@pytest.mark.parametrize("part", range(4))
def test_the_words_are_those_last_looked_at(catalogue, part):
    every, before = blocks(catalogue), kept()
    for heading in some(list(every), 100, "words")[part::4]:
        assert list(every[heading]()) == before[heading], heading


if __name__ == "__main__":
    rows = read_csv((DEMO / "pumps.csv").read_text())
    every = blocks(Catalogue([row.pump for row in rows if row.pump]))
    lines = [line for heading, make in every.items() for line in (f"== {heading}", *make())]
    KEPT.write_text("\n".join(lines) + "\n", encoding="utf-8")
