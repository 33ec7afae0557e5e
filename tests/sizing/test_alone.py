"""The tests of the core need neither Django nor a database."""

import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_the_core_is_tested_without_django_or_a_database():
    done = subprocess.run(
        [
            *(sys.executable, "-m", "pytest", "-q", "-p", "no:django", "-p", "no:randomly"),
            *("-c", "tests/sizing/pytest.ini", "tests/sizing/test_water.py"),
        ],
        cwd=ROOT,
        env={"PATH": "/usr/bin:/bin"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stdout + done.stderr
