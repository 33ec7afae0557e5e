"""Routes, pumps and jobs that several tests of the core share. All invented."""

from __future__ import annotations

from pathlib import Path

import pytest

from sizing.base.water import water
from sizing.document import job as document
from sizing.editing.edit import edit
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.pump.curve import PumpCurve

DEMO = Path(__file__).parents[2] / "demo"


@pytest.fixture(scope="session")
def catalogue() -> Catalogue:
    return Catalogue([row.pump for row in read_csv((DEMO / "pumps.csv").read_text()) if row.pump])


@pytest.fixture(scope="session")
def cellar() -> document.JobDocument:
    return document.loads((DEMO / "jobs" / "01-bookbinders-cellar.json").read_bytes())


@pytest.fixture
def curve() -> PumpCurve:
    return PumpCurve(
        (0.0, 0.0006, 0.0012, 0.0018, 0.0024, 0.003),
        (12.0, 11.6, 10.5, 8.8, 6.2, 2.5),
        (160.0, 205.0, 245.0, 275.0, 295.0, 305.0),
        (0.8, 0.9, 1.1, 1.5, 2.1, 3.0),
    )


def changed(job, *edits):
    """The job after some edits, every one of which must be read."""
    for path, text in edits:
        made = edit(job, path, text)
        assert made.problem is None, made.problem
        job = made.job
    return job


def leg(**changes) -> Leg:
    usual = {
        "inside_diameter_m": 0.0452,
        "length_m": 20.0,
        "roughness_m": 7e-6,
        "k_sum": 3.0,
        "end_elevation_m": 5.0,
    }
    return Leg(**(usual | changes))


def system(*legs: Leg, **route) -> SystemCurve:
    return SystemCurve(Route(legs or (leg(),), **({"start_level_m": 0.0} | route)), water(12.0))
