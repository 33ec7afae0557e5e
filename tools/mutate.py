"""Mutation testing of the core with mutmut: changes of the code that no test would notice.

``./run mutate sizing.selection.match`` mutates one module (or, without a name, those that decide),
runs the tests of the core against each mutant, and prints the share killed and the survivors.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
DECIDING = ("sizing.selection", "sizing.checks", "sizing.operating_point")


def main(modules: list[str]) -> int:
    """Mutate and report; 1 when mutmut itself fails."""
    python = ROOT / ".venv" / "bin" / "python"
    patterns = [f"{module}*" for module in modules or DECIDING]
    done = subprocess.run([python, "-m", "mutmut", "run", *patterns], cwd=ROOT, check=False)
    if done.returncode not in (0, 1):
        return 1
    listed = subprocess.run(
        [python, "-m", "mutmut", "results", "--all", "true"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    tell([line.strip() for line in listed.splitlines() if ": " in line], tuple(modules or DECIDING))
    return 0


def tell(lines: list[str], modules: tuple[str, ...]) -> None:
    """The share killed, and every survivor by name (``mutmut show NAME`` shows the change)."""
    pairs = [line.rsplit(": ", 1) for line in lines]
    states = {name: state for name, state in pairs if name.startswith(modules)}
    tried = [state for state in states.values() if state in ("killed", "survived", "timeout")]
    killed = sum(state != "survived" for state in tried)
    print(f"{killed} of {len(tried)} mutants killed ({killed / max(len(tried), 1):.0%})")
    for name, state in sorted(states.items()):
        if state == "survived":
            print(f"  survived: {name}")


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
