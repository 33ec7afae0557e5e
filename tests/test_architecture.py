"""The table of docs/architecture.md that says what to touch is true."""

import re
from pathlib import Path

import pytest

from sizing.kinds import kinds

ROOT = Path(__file__).parents[1]
DOC = (ROOT / "docs/architecture.md").read_text(encoding="utf-8")
TABLE = DOC.split("| to add |")[1].split("\n\n")[0].splitlines()[2:]


@pytest.mark.parametrize("row", TABLE, ids=lambda row: row.split("|")[1].strip())
def test_what_the_table_names_is_there(row):
    _, what, touch, guards, _ = row.split("|")
    named = [one for one in re.findall(r"`([^`]+)`", touch + guards) if "/" in one]
    assert named
    missing = [one for one in named if not (ROOT / one).exists()]
    assert missing == [], what
    tests = list(re.findall(r"`(tests/[^`]+)`", guards))
    assert tests, f"{what.strip()}: a promise without a test"
    for one in tests:
        assert re.search(r"^def test_", (ROOT / one).read_text(encoding="utf-8"), re.M), one


@pytest.mark.parametrize("folder", ["sizing", "kyrtos"])
def test_nothing_outside_the_kinds_lists_them_by_code(folder):
    """A kind in one file: who asks ``kind.code == "sump"`` breaks that promise."""
    codes = "|".join(kinds())
    asks = re.compile(rf"""kind(\.code|_code)? (==|!=|in|not in) .*["']({codes})["']""")
    told = [
        f"{path.relative_to(ROOT)}: {line.strip()}"
        for path in (ROOT / folder).rglob("*.py")
        if not {"kinds", "demo", "reference"} & {*path.parts}
        for line in path.read_text(encoding="utf-8").splitlines()
        if asks.search(line)
    ]
    assert told == []
