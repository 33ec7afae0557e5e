"""``python -m sizing.reference FILE.json... [--only FAMILY,...]``.

A line a case, a summary, exit 1 on any miss.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from sizing.reference.cases import FORMAT, Outcome, run


def main(arguments: list[str] | None = None) -> int:
    """Run the cases of the named files; returns the exit status."""
    parser = argparse.ArgumentParser(
        prog="python -m sizing.reference", description="Run reference cases."
    )
    parser.add_argument("files", nargs="+", type=Path, metavar="FILE.json")
    parser.add_argument("--only", default="", help="families to run, parted by commas")
    given = parser.parse_args(arguments)
    wanted = {name for name in given.only.split(",") if name}
    outcomes = [
        run(case)
        for path in given.files
        for case in _cases(path)
        if not wanted or case["family"] in wanted
    ]
    for outcome in outcomes:
        print(_line(outcome))
    passed = sum(outcome.passed for outcome in outcomes)
    print(f"{passed} of {len(outcomes)} cases pass")
    return 0 if outcomes and passed == len(outcomes) else 1


def _cases(path: Path) -> list[dict[str, Any]]:
    try:
        content = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError) as problem:
        sys.exit(f"{path}: cannot be read as JSON ({problem})")
    if content.get("format") != FORMAT:
        sys.exit(f"{path}: its format is {content.get('format')!r}; this reads {FORMAT!r}")
    cases: list[dict[str, Any]] = content["cases"]
    return cases


def _line(outcome: Outcome) -> str:
    head = f"{'pass' if outcome.passed else 'MISS'}  {outcome.case_id}  {outcome.title}"
    return "\n".join([head, *(f"      {miss}" for miss in outcome.misses)])


if __name__ == "__main__":
    sys.exit(main())
