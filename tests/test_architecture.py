"""The table of docs/architecture.md that says what to touch is true."""

import os
import re
import shutil
import subprocess
import sys
import tomllib
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


def test_the_rooms_stand_in_the_order_of_the_contract():
    text = DOC.split("| room | what it holds |")[1].split("\n\n")[0]
    told = re.findall(r"^\| ([\w.]+) \|", text, re.M)
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]
    layers = next(
        one["layers"] for one in contracts["contracts"] if one.get("containers") == ["sizing"]
    )
    rooms = [room for layer in reversed(layers) for room in layer.split(" | ")]
    assert told == [room for room in rooms if (ROOT / "sizing" / room.replace(".", "/")).is_dir()]


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


def test_a_forbidden_import_breaks_its_contract(tmp_path):
    """In a copy: a room that looks up, one that looks at the web, and one that nobody listed."""
    for name in ("sizing", "kyrtos"):
        left_out = shutil.ignore_patterns("__pycache__", "static", "templates", "*.csv")
        shutil.copytree(ROOT / name, tmp_path / name, ignore=left_out)
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    for path, line in (
        ("sizing/document/job.py", "from sizing.kinds import kind"),
        ("sizing/base/units.py", "import django.http"),
        ("kyrtos/shops/one_line.py", "from kyrtos.jobs import models"),
    ):
        with (tmp_path / path).open("a", encoding="utf-8") as module:
            module.write(f"\n{line}\n")
    told = _contracts_of(tmp_path)
    assert "Contracts: 2 kept, 3 broken." in told, told
    for one in ("sizing.document.job -> sizing.kinds", "sizing.base.units -> django"):
        assert one in told
    (tmp_path / "sizing/attic").mkdir()
    (tmp_path / "sizing/attic/__init__.py").write_text("")
    assert "attic" in _contracts_of(tmp_path)


def _contracts_of(folder):
    lint = "from importlinter.cli import lint_imports_command as lint; lint()"
    ran = subprocess.run(
        [sys.executable, "-c", lint, "--no-cache"],
        cwd=folder,
        env={**os.environ, "PYTHONPATH": str(folder)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 1
    return ran.stdout + ran.stderr
