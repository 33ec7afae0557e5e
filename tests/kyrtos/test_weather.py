"""Weather files through pvlib: read by the worker, checked, written into the months of a job."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from kyrtos.config import queue
from kyrtos.jobs import services
from kyrtos.jobs.weather import read
from sizing.base.errors import SizingError
from sizing.over_time.simulation.sun_year import monthly, sun_year
from tests.kyrtos.reading import text_of
from tests.weather_files import CLEARNESS, LATITUDE, TILT, epw, pvgis, tmy3

pytestmark = pytest.mark.filterwarnings("ignore::DeprecationWarning", "ignore::UserWarning")


@pytest.fixture
def observatory(shop):
    return shop.jobs.get(title__startswith="Observatory")


def send(client, job, content, name="highcleave.epw"):
    file = SimpleUploadedFile(name, content if isinstance(content, bytes) else content.encode())
    return client.post(f"/jobs/{job.pk}/weather/", {"file": file})


@pytest.mark.parametrize(("make", "kind"), [(epw, "EPW"), (tmy3, "TMY3"), (pvgis, "PVGIS")])
def test_each_format_gives_the_sun_of_the_year_that_it_was_made_of(make, kind):
    found = read(make().encode(), TILT, LATITUDE)
    assert found.kind == kind
    made_of = monthly(sun_year(LATITUDE, TILT, (CLEARNESS,) * 12).slope_w_m2) * 24 / 1000
    assert found.sun_h == pytest.approx(made_of, rel=0.08)


def test_its_sun_is_written_into_the_months_by_the_worker(estimator, observatory):
    assert "is being read" in text_of(send(estimator, observatory, epw()))
    queue.run_held()
    said = text_of(estimator.get(f"/jobs/{observatory.pk}/dialogs/weather/"))
    assert "highcleave.epw (EPW)" in said
    observatory.refresh_from_db()
    rows = services.current(observatory).lists["months"]
    suns = [row.cells["sun"].si("time") / 3600 for row in rows]
    assert suns[5] > suns[0] > 2
    assert rows[0].cells["need"].text == "700 l"  # what stood there stays


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("a,b\n1,2\n", "neither an EPW"),
        (epw()[:40_000], "hours; a year has"),
        (epw().replace("LOCATION,Highcleave", "LOCATION,High,cleave"), ""),
        (epw().replace(f",{LATITUDE},0.0,0.0,", f",{LATITUDE},120.0,0.0,"), "do not fit its place"),
        (epw().replace(f",{LATITUDE},", ",-20.0,"), "the job of 46.5"),
        (b"LOCATION,\x00\x00", "no text"),
        (tmy3().replace(",0,0,0,0,0,", ",0,0,many,0,0,", 1), "gaps or words"),
        (pvgis()[:300], "breaks off or was changed"),
    ],
)
def test_a_file_that_cannot_be_believed_says_why_and_changes_nothing(
    estimator, observatory, content, says
):
    before = observatory.current_revision
    send(estimator, observatory, content)
    queue.run_held()
    said = text_of(estimator.get(f"/jobs/{observatory.pk}/dialogs/weather/"))
    assert "Not taken" in said
    assert says in said
    observatory.refresh_from_db()
    assert observatory.current_revision == before


def test_without_a_file_or_panels_it_is_told_at_once(estimator, observatory, job):
    answer = estimator.post(f"/jobs/{observatory.pk}/weather/")
    assert answer.status_code == 422
    assert "choose a weather file" in text_of(answer)
    assert "no panels" in text_of(send(estimator, job, epw()))
    assert 'data-dialog="weather"' not in estimator.get(f"/jobs/{job.pk}/").text


def test_a_figure_that_no_sun_has_is_refused():
    with pytest.raises(SizingError, match="no sun is"):
        read(tmy3().replace(",0,0,0,0,0,", ",0,0,9000,0,0,", 1).encode(), TILT, LATITUDE)
