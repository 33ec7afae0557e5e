"""The dialog that runs a pit over a day."""

import re

import pytest

from tests.kyrtos.reading import text_of


def asked(client, job, **given):
    return client.get(f"/jobs/{job.pk}/dialogs/over_time/", given)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "It holds: 6 starts in its busiest hour"),
        ({"day": "out"}, "It overflows at 01:07:54"),
        ({"day": "failed"}, "One pump alone has no other"),
        ({"day": "wettest", "times": "4"}, "gives less than what comes in"),
        ({"day": "none such"}, "It holds"),
        ({"times": "1,5"}, "aria-invalid"),
        ({"times": "½"}, "It holds"),
        ({"times": "many"}, "aria-invalid"),
        ({"times": "-1"}, "between 0 and 20"),
        ({"times": "1e400"}, "aria-invalid"),
        ({"times": "0"}, "It holds: 0 starts"),
    ],
)
def test_it_says_what_becomes_of_the_day(estimator, job, given, says):
    shown = text_of(asked(estimator, job, **given))
    assert says in shown
    assert "svg" in asked(estimator, job, **given).text


def test_water_over_the_inlet_is_said(estimator, shop):
    rowing = shop.jobs.get(title__startswith="Rowing")
    shown = text_of(asked(estimator, rowing, day="wet_night"))
    assert "stands over the inlet for" in shown
    assert "▲" in shown


def test_the_picture_stays_small_however_often_it_starts(estimator, job):
    page = asked(estimator, job, day="wettest").text
    path = re.search(r'class="t-level" d="([^"]*)"', page)[1]
    assert len(path) < 20_000
    assert "NaN" not in page
    assert "inf" not in path


def test_it_is_offered_where_there_is_a_pit(estimator, shop, job):
    assert 'data-dialog="over_time"' in estimator.get(f"/jobs/{job.pk}/").text
    well = shop.jobs.filter(kind="well").first()
    assert 'data-dialog="over_time"' not in estimator.get(f"/jobs/{well.pk}/").text


def basin(client, job, **given):
    return text_of(client.get(f"/jobs/{job.pk}/dialogs/basins/", given))


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "bears pumps up to 20.26 m³/h"),
        ({"wish": "54 by 90 in"}, "1.37 m × 2.29 m"),
        ({"wish": "450 x 900"}, "too shallow"),
        ({"wish": "300 x 900 mm"}, "too narrow"),
        ({"wish": "900"}, "type diameter by depth"),
        ({"wish": "a by b"}, "aria-invalid"),
        ({"wish": "1 x 900000 mm"}, "between 0.1 m and 10 m"),
        ({"reserve": "2 h"}, "With that reserve the floats find no room"),
        ({"reserve": "many"}, "aria-invalid"),
        ({"reserve": "-1 h"}, "aria-invalid"),
        ({"reserve": "900 h"}, "a week"),
    ],
)
def test_basins_in_words_and_what_is_typed_wrong(estimator, job, given, says):
    shown = basin(estimator, job, **given)
    assert says in shown
    for text in given.values():
        assert text in shown  # nothing typed is lost


def test_a_job_without_a_pit_has_no_basin(estimator, shop):
    well = shop.jobs.filter(kind="well").first()
    assert "no pit" in basin(estimator, well)
