"""The demo jobs run over a day: what holds, what is watched, what fails, and how near it is."""

from pathlib import Path

import pytest

from sizing.analysis import over_time
from sizing.analysis.changed import NotYet, known
from sizing.document import intake
from sizing.document.edit import edit
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.simulation.delivery import delivery
from sizing.size import size

DEMO = Path(__file__).parents[2] / "demo"
PUMPS = Catalogue(tuple(row.pump for row in read_csv((DEMO / "pumps.csv").read_text())))
PITS = ("01-bookbinders", "03-boathouse", "04-rowing", "05-hostel", "06-cabins")


def base(name: str, **answers: str):
    (path,) = (DEMO / "jobs").glob(f"{name}*.json")
    job = intake.loads(path.read_bytes())
    for key, text in answers.items():
        job = edit(job, f"answers.{key}", text).job
    return known(size(job, PUMPS))


@pytest.mark.parametrize("name", PITS)
def test_the_flow_between_stop_and_rim_is_that_of_the_curves(name):
    running = base(name).sizing.running
    pit = over_time.pit_of(running)
    ours = delivery([pit.pumps[0]], pit.against)
    for part in range(11):
        level = pit.stop_m + (pit.rim_m - pit.stop_m) * part / 10
        exact = over_time.flow_at_level(running, level, pit.stop_m)
        assert ours.flow_m3s(level) == pytest.approx(exact, rel=4e-3)


@pytest.mark.parametrize("name", PITS)
def test_every_day_keeps_its_balance(name):
    found = base(name)
    for one in over_time.scenarios(found.sizing.kind):
        day = over_time.day(found, one.code)
        assert abs(day.run.imbalance_m3) < 1e-9 * max(1.0, day.run.inflow_m3)
        assert day.run.timeline.pieces[-1].to_s == pytest.approx(86_400.0)


@pytest.mark.parametrize(
    ("name", "code", "times", "state"),
    [
        ("01", "wettest", 1.0, "hold"),
        ("01", "wettest", 4.0, "fail"),  # more comes in than the pump gives
        ("01", "out", 1.0, "fail"),
        ("01", "failed", 1.0, "fail"),
        ("03", "wettest", 1.0, "watch"),  # 13 starts, 10 are usual
        ("04", "wet_night", 1.0, "watch"),  # the alarm sounds
        ("04", "ordinary", 1.0, "hold"),
        ("05", "out", 1.0, "hold"),  # a large tank lasts four hours
        ("06", "out", 1.0, "watch"),
    ],
)
def test_what_becomes_of_a_day(name, code, times, state):
    assert over_time.day(base(name), code, times).state == state


def test_levels_too_close_start_it_too_often():
    found = over_time.day(base("01", start_level="200 mm"), "wettest")
    assert found.state == "fail"
    assert found.busiest_starts_per_h > found.most_starts_per_h
    assert found.run.overflow_m3 == 0


def test_ground_water_has_no_hours_of_people():
    codes = {one.code for one in over_time.scenarios(base("01").sizing.kind)}
    assert "ordinary" not in codes
    assert over_time.scenarios(base("04").sizing.kind)[0].code == "ordinary"


def test_what_has_no_pit_or_no_pump_is_told():
    with pytest.raises(NotYet, match="no pit"):
        over_time.day(base("07"), "wettest")
    (path,) = (DEMO / "jobs").glob("01*.json")
    lacking = known(size(intake.loads(path.read_bytes()), Catalogue(())))
    with pytest.raises(NotYet, match="needs a pump"):
        over_time.day(lacking, "wettest")
