"""The core stands alone."""

import subprocess
import sys


def test_importing_the_core_loads_no_django():
    code = (
        "import sizing.size, sizing.editing.edit, sizing.results.report, sys;"
        " sys.exit(any(m.split('.')[0] in ('django', 'kyrtos') for m in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_conversion_factors_live_in_one_place():
    found = subprocess.run(
        [
            "grep",
            "-rnE",
            r"\b(3960|7\.48|2\.31|448\.8|0\.3048|6\.894|0\.0630902|3\.785)\b",
            "sizing",
            "kyrtos",
            "--include=*.py",
            "--include=*.html",
            "--include=*.js",
        ],
        capture_output=True,
        text=True,
        check=False,
    )
    own_files = [line for line in found.stdout.splitlines() if "/vendor/" not in line]
    assert own_files == []
