"""Every word that a check, a verdict or a reason says, as it was last looked at.

So that no sentence, remedy or working changes unseen. After changing one on purpose, look at what
``git diff`` shows of ``words_of_checks.txt`` after ``python -m tests.sizing.test_words_of_checks``.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.results.verdict import verdict
from sizing.size import Sizing, size
from tests.sizing.conftest import DEMO, changed
from tests.sizing.test_judgement import MUSTS, SILENT, twins
from tests.sizing.test_kind_checks import ROWS
from tests.sizing.test_kinds import JOBS, check
from tests.sizing.test_three_states import STATES, sized

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


def all_words(catalogue: Catalogue) -> Iterator[str]:
    for name, job in JOBS.items():
        sizing = size(job, catalogue)
        yield f"== {name}"
        yield from of_a_sizing(sizing)
        for one in sizing.checks:
            yield from words_of(one)
    for name, edits, code, _ in ROWS:
        yield from words_of(check(size(changed(JOBS[name], *edits), catalogue), code))
    for name, edits, change, code, _ in STATES:
        yield from words_of(check(sized(name, edits, change, catalogue), code))
    for _, name, edits, pumps, _, _ in MUSTS:
        shop = twins(JOBS[name], catalogue, *pumps)
        yield from of_a_sizing(size(changed(JOBS[name], *edits), shop))
        picked = changed(JOBS[name], *edits).model_copy(update={"pump": "a"})
        yield from of_a_sizing(size(picked, shop))
    for name, change, _ in SILENT:
        yield from of_a_sizing(size(JOBS[name], twins(JOBS[name], catalogue, change)))


def test_the_words_are_those_last_looked_at(catalogue):
    assert list(all_words(catalogue)) == KEPT.read_text(encoding="utf-8").splitlines()


if __name__ == "__main__":
    rows = read_csv((DEMO / "pumps.csv").read_text())
    found = all_words(Catalogue([row.pump for row in rows if row.pump]))
    KEPT.write_text("\n".join(found) + "\n", encoding="utf-8")
