"""The core as others use it: its wheel, names that load what they need, examples that run."""

import doctest
import os
import subprocess
import sys
import zipfile
from pathlib import Path

import sizing

ROOT = Path(__file__).parents[2]


def test_the_examples_of_the_docs_run(monkeypatch):
    monkeypatch.chdir(ROOT)
    told = doctest.testfile(str(ROOT / "docs/library.md"), module_relative=False)
    assert (told.failed, told.attempted) == (0, 17)


def test_every_name_leads_where_it_says():
    assert sorted(sizing.__all__) == sorted(sizing._LIVES)
    for name in sizing.__all__:
        assert callable(getattr(sizing, name))


def test_a_wheel_of_the_core_works_without_this_folder(tmp_path):
    build = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", tmp_path]
    subprocess.run(build, cwd=ROOT, check=True, capture_output=True)
    (wheel,) = tmp_path.glob("kyrtos_sizing-*.whl")
    with zipfile.ZipFile(wheel) as packed:
        packed.extractall(tmp_path / "there")
        assert {name.split("/")[0] for name in packed.namelist()} == {
            "sizing",
            wheel.name.removesuffix("-py3-none-any.whl") + ".dist-info",
        }
    code = "import sizing; assert 'there' in sizing.__file__, sizing.__file__; sizing.size_job;"
    code += " print(sizing.pipe('pvcu_pn10', '50 mm').inside_diameter_m)"
    said = subprocess.run(
        [sys.executable, "-c", code],
        cwd=tmp_path,
        env=os.environ | {"PYTHONPATH": "there"},
        capture_output=True,
        text=True,
        check=True,
    )
    assert float(said.stdout) == sizing.pipe("pvcu_pn10", "50 mm").inside_diameter_m


def test_loading_the_sizing_loads_no_more_than_it_needs():
    """What takes long to load is loaded by what uses it."""
    code = "import sys, sizing.size; print(*sorted({one.split('.')[0] for one in sys.modules}))"
    said = subprocess.run(
        [sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, check=True
    )
    loaded = set(said.stdout.split())
    assert {"numpy", "pydantic"} <= loaded
    assert not loaded & {"chemicals", "gpxpy", "openpyxl", "pint", "pvlib", "skimage", "PIL"}
    code = "import sys, sizing.size; print('scipy.optimize' in sys.modules)"
    said = subprocess.run(
        [sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, check=True
    )
    assert said.stdout == "False\n"
