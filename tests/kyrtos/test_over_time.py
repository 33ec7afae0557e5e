"""The dialog that runs a pit over a day."""

import csv
import html
import io
import json
import re
from xml.etree import ElementTree

import pypdf
import pytest
from PIL import Image

from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_lists import post
from tests.kyrtos.test_settings import SHOP
from tests.thin import count, some


def asked(client, job, **given):
    return client.get(f"/jobs/{job.pk}/dialogs/over_time/", given)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "It holds: 6 starts in its busiest hour"),
        ({"day": "out"}, "It overflows at 01:07:54"),
        ({"day": "out", "out": "5 min"}, "the alarm sounds"),
        ({"day": "out", "out": "50 h"}, "must lie between"),
        ({"day": "failed"}, "One pump alone has no other"),
        ({"day": "wettest", "times": "4"}, "gives less than what comes in"),
        ({"day": "none such"}, "It holds"),
        ({"times": "1,5"}, "aria-invalid"),
        ({"times": "½"}, "It holds"),
        ({"times": "many"}, "aria-invalid"),
        ({"times": "-1"}, "must lie between"),
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
    shown = text_of(asked(estimator, rowing, day="wet_night", peak="20", times="4", lasts="10 min"))
    assert "stands over the inlet for" in shown
    assert "▲" in shown


def test_the_picture_stays_small_however_often_it_starts(estimator, job):
    page = asked(estimator, job, day="wettest").text
    path = re.search(r'class="t-level" d="([^"]*)"', page)[1]
    assert len(path) < 20_000
    assert "NaN" not in page
    assert "inf" not in path


def test_it_is_offered_where_there_is_something_to_run(estimator, shop, job):
    assert 'data-dialog="over_time"' in estimator.get(f"/jobs/{job.pk}/").text
    tub = shop.jobs.filter(kind="spa").first()
    assert 'data-dialog="over_time"' not in estimator.get(f"/jobs/{tub.pk}/").text


def basin(client, job, **given):
    return text_of(client.get(f"/jobs/{job.pk}/dialogs/basins/", given))


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "bears pumps up to 40.53 m³/h"),
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


def run_file(client, job, name, **given):
    return client.get(f"/jobs/{job.pk}/paper/run-{name}", given)


def test_a_run_as_csv_svg_and_png(estimator, job):
    rows = list(csv.reader(run_file(estimator, job, "out.csv", out="2 h").text.splitlines()))
    assert rows[0] == ["time [s]", "level in the pit [m]", "what happens"]
    times = [float(row[0]) for row in rows[1:]]
    assert times == sorted(times)
    assert any(row[2] == "the power comes back" and float(row[0]) == 3 * 3600 for row in rows[1:])
    drawn = ElementTree.fromstring(run_file(estimator, job, "out.svg").text)
    assert drawn.tag.endswith("svg")
    assert "data-moments" not in run_file(estimator, job, "out.svg").text
    with Image.open(io.BytesIO(run_file(estimator, job, "out.png").content)) as image:
        assert image.width > 1000


def test_a_run_that_cannot_be_is_told_or_not_found(estimator, job):
    assert run_file(estimator, job, "ordinary.csv").status_code == 404
    assert run_file(estimator, job, "nothing.csv").status_code == 404
    wrong = run_file(estimator, job, "out.csv", out="soon")
    assert wrong.status_code == 422


def test_what_is_kept_on_the_job_stands_in_proof_and_opens_as_it_was_kept(estimator, job):
    post(estimator, job, "change", path="scenarios.out", value="out=2 h")
    page = text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert "The power is out" in page
    assert "It overflows at 01:07:54" in page
    again = asked(estimator, job, day="out").text
    assert 'value="2 h"' in again
    assert "take it off the job" in again
    post(estimator, job, "change", path="scenarios.out", value="off")
    assert "The power is out" not in text_of(estimator.get(f"/jobs/{job.pk}/"))


def test_every_moment_of_a_day_can_be_asked_for(estimator, job):
    page = asked(estimator, job, day="out").text
    moments = json.loads(html.unescape(re.search(r'data-moments="([^"]*)"', page)[1]))
    assert len(moments) == int(re.search(r'max="(\d+)"', page)[1]) + 1
    assert moments[0][1] == "00:00"
    assert moments[-1][1] == "24:00"


def test_the_basin_is_drawn_with_what_hatch_frost_and_ground_say(estimator, shop):
    rowing = shop.jobs.get(title__startswith="Rowing")
    given = {"hatch": "200 mm", "water": "0.5 m", "frost": "2 m", "show": "best"}
    shown = basin(estimator, rowing, **given)
    for says in ("does not pass the hatch", "it floats", "within the frost"):
        assert says in shown
    page = estimator.get(f"/jobs/{rowing.pk}/dialogs/basins/", given).text
    assert "data-drag" not in page  # only the pit that is there has the job's levels
    assert "data-drag" in estimator.get(f"/jobs/{rowing.pk}/dialogs/basins/").text


@pytest.mark.parametrize("field", ["hatch", "water", "weight", "frost"])
@pytest.mark.parametrize("text", ["-1", "many", "1e9 m", "3 bar"])
def test_what_is_typed_wrong_of_a_basin_is_told_beside_its_field(estimator, job, field, text):
    page = estimator.get(f"/jobs/{job.pk}/dialogs/basins/", {field: text}).text
    assert page.count('aria-invalid="true"') == 1
    assert f'value="{text}"' in page


def test_the_order_for_the_workshop_as_pdf_and_svg(estimator, shop, job):
    found = estimator.get(f"/jobs/{job.pk}/paper/basin.pdf", {"hatch": "600 mm", "show": "best"})
    text = pypdf.PdfReader(io.BytesIO(found.content)).pages[0].extract_text()
    assert "Order for a basin" in text
    assert "Hatch, clear" in text
    drawn = estimator.get(f"/jobs/{job.pk}/paper/basin.svg")
    assert ElementTree.fromstring(drawn.text).tag.endswith("svg")
    well = shop.jobs.filter(kind="well").first()
    assert estimator.get(f"/jobs/{well.pk}/paper/basin.pdf").status_code == 404


def test_a_shop_keeps_its_own_list_of_basins(as_role, job):
    owner = as_role("owner")
    wrong = owner.post("/settings/shop/", SHOP | {"basins": "900"})
    assert wrong.status_code == 422
    assert "type diameter by depth" in text_of(wrong)
    kept = SHOP | {"basins": "1300 x 2100 mm; 640; to order"}
    assert owner.post("/settings/shop/", kept).status_code == 302
    assert re.search(r"640[^<]* to order", basin(owner, job))
    assert "1.30 m × 2.10 m" in basin(owner, job)


def test_every_run_of_every_demo_job_is_drawn(estimator, shop):
    drawn = 0
    for each in shop.jobs.all():
        page = asked(estimator, each).text
        codes = re.findall(r'<option value="([a-z_]+)"', page)
        for code in some(codes, 1, each.title):
            answer = asked(estimator, each, day=code)
            assert 'class="over-time"' in answer.text, (each, code)
            assert not re.search(r"\b(nan|inf|None)\b", text_of(answer))
            drawn += 1
    assert drawn > count(9, 40)


@pytest.mark.parametrize(
    ("name", "given", "says"),
    [
        ("surge", {}, "By the method of characteristics"),
        ("surge", {"law": "gate", "closes": "2 s"}, "gate valve"),
        ("surge", {"closes": "soon"}, "aria-invalid"),
        ("surge", {"stops": "9 h"}, "type between"),
        ("electrics", {}, "the thinnest that keeps within"),
        ("electrics", {"length": "3 mi"}, "aria-invalid"),
        ("electrics", {"length": "-4"}, "aria-invalid"),
        ("electrics", {"drop": "90 %"}, "type between"),
        ("electrics", {"length": "4900 m", "drop": "1 %"}, "No conductor of the table"),
    ],
)
def test_surge_and_cable_in_words_and_what_is_typed_wrong(estimator, job, name, given, says):
    page = estimator.get(f"/jobs/{job.pk}/dialogs/{name}/", given).text
    assert says in text_of(estimator.get(f"/jobs/{job.pk}/dialogs/{name}/", given))
    for text in given.values():
        assert f'value="{text}"' in page  # of a field, or of the choice that was made


def test_a_ridge_where_the_column_parts_asks_for_a_specialist(estimator, shop):
    cabins = shop.jobs.get(title__startswith="Six cabins")
    shown = text_of(estimator.get(f"/jobs/{cabins.pk}/dialogs/surge/"))
    assert "a specialist works that out" in shown


def test_the_other_pumps_are_run_beside_and_one_is_picked(estimator, shop):
    observatory = shop.jobs.get(title__startswith="Observatory")
    page = asked(estimator, observatory, day="dry_august", beside="1").text
    shown = text_of(asked(estimator, observatory, day="dry_august", beside="1"))
    assert 'data-take="pump"' in page
    assert shown.index("✓") < shown.index("goes without") if "goes without" in shown else True
    assert 'data-take="pump"' not in asked(estimator, observatory, day="dry_august").text


def test_what_stands_on_the_job_is_drawn_on_its_paper(estimator, shop):
    observatory = shop.jobs.get(title__startswith="Observatory")
    assert estimator.post(f"/jobs/{observatory.pk}/paper/issue/").status_code == 302
    pdf = pypdf.PdfReader(io.BytesIO(bytes(observatory.papers.get().pdf)))
    text = " ".join(" ".join(page.extract_text() for page in pdf.pages).split())
    assert "Over time: a dry late summer" in text
    assert "lowest in the tank" in text
    assert "Aug" in text


def test_figures_that_cannot_be_run_are_told_and_kept(estimator, shop):
    bakery = shop.jobs.get(title__startswith="Bakery")
    given = {"day": "two_tanks", "lower_depth": "0.2 m", "upper_area": "0.01 m2", "draw": "90 m3"}
    page = asked(estimator, bakery, **given)
    assert page.status_code == 200
    for text in list(given.values())[1:]:
        assert f'value="{text}"' in page.text
    hostel = shop.jobs.get(title__startswith="Hostel")
    post(estimator, hostel, "change", path="answers.alarm_level", value="120 mm")
    said = text_of(asked(estimator, hostel, day="timed", times="2"))
    assert "It cannot be run: the low float lies under the high one" in said
    assert 'value="2"' in said
    assert "svg" not in said


def test_where_nobody_told_the_people_the_days_volume_is_asked_and_not_made_up(estimator, shop):
    rowing = shop.jobs.get(title__startswith="Rowing")
    for path, text in (
        ("answers.flow_from", "stated"),
        ("answers.stated_flow", "9 m3/h"),
        ("answers.people", ""),
        ("answers.drainage_units", ""),
    ):
        change(estimator, rowing, path, text)
        rowing.refresh_from_db()
    for day in ("ordinary", "failed", "out"):
        answer = asked(estimator, rowing, day=day)
        assert answer.status_code == 200
        assert "people, for the day" in text_of(answer)
