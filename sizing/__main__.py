"""``python -m sizing JOB.json --catalogue PUMPS.csv``.

Size a job file and print the result as JSON.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from sizing.analysis.remedies import remedies
from sizing.base.errors import SizingError
from sizing.editing.intake import take_in
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.results.report import report
from sizing.results.verdict import state_of
from sizing.size import size

_EXIT_CODES = {"good": 0, "watch": 0, "ask": 2, "open": 2, "bad": 3}


def main(arguments: list[str] | None = None) -> int:
    """Size a job.

    0 when the sizing is good or to be watched, 1 when a file cannot be read, 2 when facts are
    missing or somebody's word is wanting, 3 when the verdict is bad.
    """
    parser = argparse.ArgumentParser(
        prog="./run size", description="Size a job file against a catalogue file."
    )
    parser.add_argument("job", type=Path, help="job file (JSON, see docs/job-file.md)")
    parser.add_argument(
        "--catalogue",
        type=Path,
        required=True,
        help="catalogue file (CSV, see docs/catalogue-file.md)",
    )
    given = parser.parse_args(arguments)
    try:
        taken_in = take_in(given.job.read_bytes())
        rows = read_csv(given.catalogue.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, SizingError) as problem:
        print(f"cannot read the files: {problem}", file=sys.stderr)
        return 1
    for told in taken_in.told:
        print(f"{given.job}: {told}", file=sys.stderr)
    for row in rows:
        if row.problems:
            print(
                f"{given.catalogue}, line {row.line}, left out: {'; '.join(row.problems)}",
                file=sys.stderr,
            )
    catalogue = Catalogue([row.pump for row in rows if row.pump])
    sizing = size(taken_in.job, catalogue)
    print(json.dumps(report(sizing, remedies(sizing, catalogue)), indent=2, ensure_ascii=False))
    if sizing.missing:
        return 2
    return _EXIT_CODES[state_of(sizing)]


if __name__ == "__main__":
    sys.exit(main())
