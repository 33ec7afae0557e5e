import csv
from pathlib import Path

import pytest

from sizing.base.errors import OutOfRange
from sizing.base.water import air_pressure_pa, water

REFERENCE = Path(__file__).parents[1] / "reference"


def rows(name):
    with (REFERENCE / name).open(newline="") as stream:
        return list(csv.DictReader(stream))


@pytest.mark.parametrize("row", rows("water_properties_check.csv"), ids=lambda row: row["T_C"])
def test_water_agrees_with_the_published_table(row):
    found = water(float(row["T_C"]))
    assert found.density_kg_m3 == pytest.approx(float(row["density_kg_m3"]), rel=2e-5)
    assert found.kinematic_viscosity_m2_s == pytest.approx(
        float(row["kinematic_viscosity_mm2_s"]) * 1e-6, rel=1e-3
    )
    assert found.vapour_pressure_pa == pytest.approx(
        float(row["vapour_pressure_kPa"]) * 1e3, rel=1e-3
    )


@pytest.mark.parametrize("row", rows("atmosphere_check.csv"), ids=lambda row: row["altitude_m"])
def test_air_agrees_with_the_published_table(row):
    assert air_pressure_pa(float(row["altitude_m"])) == pytest.approx(
        float(row["pressure_kPa"]) * 1e3, rel=2e-5
    )


@pytest.mark.parametrize("temperature_c", [-0.1, 100.0, float("nan")])
def test_ice_and_steam_are_refused(temperature_c):
    with pytest.raises(OutOfRange, match="water temperature"):
        water(temperature_c)


def test_altitude_beyond_the_standard_atmosphere_is_refused():
    with pytest.raises(
        OutOfRange, match=r"altitude is 12000 m; it must lie between -500 and 11000 m"
    ):
        air_pressure_pa(12_000.0)
