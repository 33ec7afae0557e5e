"""``python -m sizing.facts SENTENCE``: what a sentence says of a job, as JSON."""

from __future__ import annotations

import argparse
import json
import sys
from typing import get_args

from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, Rules
from sizing.base.units import System
from sizing.editing.sentence.read import read_sentence
from sizing.kinds.start import Terms
from sizing.pump.catalogue import Catalogue
from sizing.size import size


def facts_of(sentence: str, system: System, rules: Rules = SHIPPED) -> dict[str, object]:
    """What a sentence says, as plain data: kind, facts, what is asked, what was not read.

    ``asked`` names what a field refused, then what a sizing of the job still lacks.
    """
    read = read_sentence(sentence, Terms(system), rules)
    lacks: tuple[str, ...] = ()
    if read.job is not None:
        lacks = tuple(str(one) for one in size(read.job, Catalogue(()), rules).missing)
    return {
        "kind": read.kind,
        "facts": [{"path": one.path, "value": one.value, "text": one.text} for one in read.facts],
        "asked": [*read.asked, *lacks],
        "not_read": list(read.not_read),
    }


def main(arguments: list[str] | None = None) -> int:
    """Print the facts of a sentence.

    0 when its kind is known, 2 when not, 1 when it is too long to read.
    """
    parser = argparse.ArgumentParser(prog="./run facts", description="Read a job from a sentence.")
    parser.add_argument("sentence")
    parser.add_argument("--units", choices=get_args(System), default="metric")
    given = parser.parse_args(arguments)
    try:
        found = facts_of(given.sentence, given.units)
    except SizingError as problem:
        print(problem, file=sys.stderr)
        return 1
    print(json.dumps(found, indent=2, ensure_ascii=False))
    return 0 if found["kind"] else 2


if __name__ == "__main__":
    sys.exit(main())
