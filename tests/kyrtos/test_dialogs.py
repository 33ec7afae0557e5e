"""The dialogs through the web.

Every question of every kind, the survey of a leg, and the files of tape and picture.
"""

import csv
import io
import re
from html import unescape
from pathlib import Path
from xml.etree import ElementTree

import openpyxl
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from kyrtos.catalogue import publishing
from kyrtos.jobs import services
from kyrtos.worksheet.dialog_views import MOST_BYTES
from kyrtos.worksheet.dialogs import dialogs
from kyrtos.worksheet.glyphs import glyph, words
from sizing.base import units
from tests.kyrtos.test_lists import post
from tests.sizing.test_surveys_and_items import GPX, HILL
from tests.thin import some

SPRITE = Path(__file__).parents[2] / "kyrtos" / "static" / "kyrtos" / "fittings.svg"
TITLES = {
    "grid": "Pipe by pump",
    "arrangements": "One, two, with a standby",
    "compare": "Side by side",
    "methods": "Friction by every school",
    "sizes": "side by side",
    "inverse": "The other way round",
    "sensitivity": "What to measure first",
    "every_pump": "Every pump on this job",
}


def ask(client, job, name, **values):
    return client.get(f"/jobs/{job.pk}/dialogs/{name}/", values)


def plain(html):
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", html))


def one_of_each_kind(shop):
    return {job.kind: job for job in shop.jobs.all()}.values()


@pytest.mark.parametrize("name", TITLES)
def test_every_question_is_answered_for_every_kind(estimator, shop, name):
    for job in some(
        list(one_of_each_kind(shop)), 1 if name in ("sensitivity", "every_pump") else 3, name
    ):
        answer = ask(estimator, job, name)
        assert answer.status_code == 200, job
        text = answer.content.decode()
        assert TITLES[name] in text or "Not yet" in text, job
        assert not re.search(r"\b(None|nan|inf)\b", plain(text)), job
        assert 'id="dialog-title"' in text


def test_the_whole_run_is_asked_and_taken_at_once(estimator, shop):
    for job in (
        shop.jobs.get(title="Bookbinder's cellar"),
        *some(list(one_of_each_kind(shop)), 4),
    ):
        text = ask(estimator, job, "sizes", leg="run").content.decode()
        assert "Sizes of the whole run" in text or "Not yet" in text, job
        assert not re.search(r"\b(None|nan|inf)\b", plain(text)), job
        offered = re.findall(r'data-take="run" data-value="([^"]+)"', text)
        if offered and job.title.startswith("Bookbinder"):
            post(estimator, job, "change", path="run", value=unescape(offered[-1]))
            job.refresh_from_db()
            legs = {leg.id: leg for leg in services.current(job).legs}
            for part in unescape(offered[-1]).split(";"):
                leg, _, pipe = part.partition(":")
                assert legs[leg.strip()].nominal in pipe


@pytest.mark.parametrize("name", ["reach", "floors"])
def test_a_question_for_one_kind_says_so_to_the_others(estimator, shop, name):
    right = {"reach": "Six cabins over the ridge", "floors": "Converted mill, 24 rooms"}[name]
    for job in shop.jobs.all():
        text = ask(estimator, job, name).content.decode()
        assert (
            ("<svg" in text if name == "reach" else "nobody draws" in text)
            if job.title == right
            else "Not yet" in text or name == "reach"
        ), job
        assert (f'data-dialog="{name}"' in estimator.get(f"/jobs/{job.pk}/").content.decode()) >= (
            job.title == right
        )


def test_the_dialogs_figures_are_the_sheets(estimator, job, shop):
    sizing = services.size_document(shop, services.current(job))
    head = units.show(sizing.system.head_at(sizing.demand.needed_m3s), "length", "metric")
    flow = units.show(sizing.chosen.candidate.flow_m3s, "flow", "metric")
    for name in ("methods", "sizes"):
        text = ask(estimator, job, name).content.decode()
        assert head in text
        assert flow in text
    assert head in ask(estimator, job, "inverse").content.decode()


def test_the_dialogs_speak_the_jobs_units(estimator, job):
    post(estimator, job, "change", path="units", value="us")
    for name in ("methods", "sizes", "inverse", "sensitivity"):
        html = ask(estimator, job, name).content.decode()
        text = plain(html)
        assert "gpm" in html
        assert "m³/h" not in text
        assert not re.search(r"\d\s?m ", text), name


@pytest.mark.parametrize(
    ("typed", "told"),
    [
        ({"flow": "abc"}, "no number"),
        ({"flow": "3 bar"}, "is a unit of pressure"),
        ({"head": "-"}, "no number"),
        ({"flow": "0"}, "more than zero"),
        ({"flow": "-3 m3/h"}, "more than zero"),
        ({"flow": "9e9 m3/h"}, ""),
        ({"flow": "900 m3/h"}, "curve ends before"),
        ({"head": "1e400 m"}, ""),
    ],
)
def test_what_cannot_be_solved_is_told_beside_the_field_and_stays(estimator, job, typed, told):
    text = ask(estimator, job, "inverse", **typed).content.decode()
    assert told in text
    assert all(f'value="{value}"' in text for value in typed.values())


def test_a_viewer_sees_sizes_but_takes_none(as_role, job):
    text = ask(as_role("viewer"), job, "sizes", leg="b").content.decode()
    assert "PVC-U PN10 63 mm" in text
    assert "data-take" not in text
    assert "data-take" in ask(as_role("technician"), job, "sizes", leg="b").content.decode()


def test_a_leg_that_is_gone_is_told(estimator, job):
    for name in ("sizes", "survey"):
        assert (
            "taken out of the job meanwhile" in ask(estimator, job, name, leg="zz").content.decode()
        )


# --- surveys


def survey(client, job, **values):
    return client.post(
        f"/jobs/{job.pk}/survey/",
        {"leg": "b", "do": "take", "page": "p", **values},
        headers={"HX-Request": "true"},
    )


@pytest.mark.parametrize(
    "given",
    [
        {"text": HILL},
        {"file": SimpleUploadedFile("g.csv", HILL.encode())},
        {"file": SimpleUploadedFile("g.gpx", b"\xef\xbb\xbf" + GPX.encode())},
        {
            "file": SimpleUploadedFile(
                "g.geojson",
                b'{"type":"LineString","coordinates":[[10,50,3],[10,50.001,14],[10,50.002,9]]}',
            )
        },
    ],
    ids=["pasted", "csv", "gpx", "geojson"],
)
def test_a_survey_is_taken_from_text_or_file_and_can_be_undone(estimator, job, given):
    before = services.current(job)
    answer = survey(estimator, job, **given)
    assert answer.status_code == 200
    assert 'id="worksheet"' in answer.content.decode()
    job.refresh_from_db()
    leg = services.current(job).leg("b")
    assert len(leg.survey) >= 3
    assert leg.length is None
    assert "points over" in answer.content.decode()
    assert (
        "highest ground of the yard" in answer.content.decode() or "yard" in answer.content.decode()
    )
    estimator.post(f"/jobs/{job.pk}/undo/", {"revision": job.current_revision})
    job.refresh_from_db()
    assert services.current(job) == before


@pytest.mark.parametrize(
    ("given", "told"),
    [
        ({"text": "0 1\n0 2"}, "not further on"),
        ({"text": ""}, "nothing in it"),
        ({"file": SimpleUploadedFile("g.gpx", b"<gpx")}, "no GPX"),
        ({"file": SimpleUploadedFile("g.csv", b"\xff\xfe\x00")}, "no text in UTF-8"),
        ({"file": SimpleUploadedFile("g.csv", b"1" * (MOST_BYTES + 1))}, "larger than 2 MB"),
        ({"text": HILL, "shift": "1", "leg": "a"}, "no level yet"),
    ],
)
def test_a_survey_that_cannot_be_is_told_and_keeps_what_was_typed(estimator, job, given, told):
    answer = survey(estimator, job, **given)
    assert answer.status_code == 422
    text = answer.content.decode()
    assert told in text
    assert 'aria-invalid="true"' in text
    assert given.get("text", "") in text.replace("&#x27;", "'")
    job.refresh_from_db()
    assert services.current(job).leg("b").survey == ()


def test_a_survey_is_forgotten_and_its_length_stays(estimator, job):
    survey(estimator, job, text=HILL)
    survey(estimator, job, do="drop")
    job.refresh_from_db()
    leg = services.current(job).leg("b")
    assert leg.survey == ()
    assert leg.length.si("length") == pytest.approx(1000.4, abs=0.3)
    assert ask(estimator, job, "survey", leg="b").status_code == 200


# --- files


def test_the_tape_as_csv_and_xlsx_adds_up_to_the_sheets_total(estimator, job, shop):
    total = services.size_document(shop, services.current(job)).head_breakdown.rounded("metric")[1]
    rows = list(
        csv.reader(io.StringIO(estimator.get(f"/jobs/{job.pk}/paper/head.csv").content.decode()))
    )
    heads = [float(row[3]) for row in rows[1:-1] if row[3]]
    assert sum(heads) == pytest.approx(float(rows[-1][3])) == pytest.approx(total)
    page = openpyxl.load_workbook(
        io.BytesIO(estimator.get(f"/jobs/{job.pk}/paper/head.xlsx").content)
    ).active
    cells = [[cell.value for cell in row] for row in page.iter_rows()]
    assert [str(one) for row in cells[1:] for one in row[:2] if one] == [
        one for row in rows[1:] for one in row[:2] if one
    ]
    assert cells[-1][3] == pytest.approx(total)


def test_no_leg_is_called_a_formula_in_a_spreadsheet(estimator, job):
    post(estimator, job, "change", path="legs.a.name", value='=HYPERLINK("x")')
    text = estimator.get(f"/jobs/{job.pk}/paper/head.csv").content.decode()
    assert not any(cell.startswith("=") for row in csv.reader(io.StringIO(text)) for cell in row)
    page = openpyxl.load_workbook(
        io.BytesIO(estimator.get(f"/jobs/{job.pk}/paper/head.xlsx").content)
    ).active
    assert all(cell.data_type != "f" for row in page.iter_rows() for cell in row)


def test_the_copied_tape_stands_in_line_and_ends_in_the_total(estimator, job):
    text = re.search(
        r'<pre id="tape-text" hidden>(.*?)</pre>',
        estimator.get(f"/jobs/{job.pk}/").content.decode(),
        re.S,
    )[1]
    lines = text.splitlines()
    assert len({len(line) for line in lines}) == 1
    assert lines[-1].startswith("Total head at")
    assert lines[-1].endswith("8.70 m")


def test_the_picture_as_svg_stands_by_itself(estimator, shop):
    for job in shop.jobs.exclude(title__contains="ndercroft"):
        answer = estimator.get(f"/jobs/{job.pk}/paper/picture.svg")
        root = ElementTree.fromstring(answer.content)
        assert root.tag == "{http://www.w3.org/2000/svg}svg"
        assert answer["Content-Disposition"].endswith('-picture.svg"')


def test_the_picture_as_png_is_drawn_large(estimator, job):
    image = Image.open(io.BytesIO(estimator.get(f"/jobs/{job.pk}/paper/picture.png").content))
    assert image.width == pytest.approx(3 * 920, abs=4)
    assert len(image.convert("RGB").getcolors(1 << 24)) > 50


def test_no_files_while_nothing_is_known(estimator, shop):
    job = shop.jobs.get(title__contains="ndercroft")
    for name in ("head.csv", "head.xlsx", "picture.svg", "picture.png"):
        assert estimator.get(f"/jobs/{job.pk}/paper/{name}").status_code == 404


# --- the legs' further fields, and the drawings of fittings


def test_every_fitting_has_a_drawing_in_the_sprite():
    symbols = {node.get("id") for node in ElementTree.parse(SPRITE).getroot()}
    assert {one["glyph"] for one in words()} <= symbols
    assert {glyph("check_lift"), glyph("tee_run_threaded"), glyph("gate_valve")} == {
        "check",
        "tee_run",
        "gate",
    }


def test_a_leg_shows_what_is_not_as_usual(estimator, job):
    for path, value in (
        ("wall", "aged"),
        ("share", "50 %"),
        ("abreast", "2"),
        ("items", "filter 0.1 to 0.3 bar at 6 m³/h"),
    ):
        answer = post(estimator, job, "change", path=f"legs.b.{path}", value=value)
        assert answer.status_code == 200, path
    text = answer.content.decode()
    assert "2 × PVC-U PN10 50 mm, aged: slimed or lightly rusted, 50 % of the flow" in plain(
        text
    ).replace("\u00a0", " ")
    assert 'data-path="filters"' in text
    assert "Filter" in text
    assert 'data-path="allowance"' not in text
    assert (
        'data-path="allowance"'
        in post(estimator, job, "change", path="fitting_method", value="percent").content.decode()
    )


@pytest.mark.parametrize("path", ["wall", "share", "abreast", "items", "pipe", "length"])
@pytest.mark.parametrize("value", ["abc", "-1", "1e99", "3 kg", "½ of"])
def test_nonsense_in_a_leg_is_told_beside_it_and_kept(estimator, job, path, value):
    text = post(estimator, job, "change", path=f"legs.b.{path}", value=value).content.decode()
    said = re.search(r'id="say-leg-b">(.*?)</div>', text, re.S)[1]
    assert said.strip(), (path, value)
    assert f'value="{value}"' in text


def test_every_dialog_has_its_button_and_its_view(estimator, job):
    text = estimator.get(f"/jobs/{job.pk}/").content.decode()
    assert {name for name in dialogs() if f'data-dialog="{name}"' in text} == {
        "methods",
        "sizes",
        "inverse",
        "sensitivity",
        "grid",
        "arrangements",
        "compare",
        "every_pump",
        "over_time",
        "measured",
        "surge",
        "electrics",
        "calculation_review",
        "commissioning",
        "basins",
    }


def test_every_pump_is_listed_searched_and_picked(estimator, job):
    text = " ".join(ask(estimator, job, "every_pump").content.decode().split())
    assert "✓ fits" in text
    assert "✕ out" in text
    found = " ".join(ask(estimator, job, "every_pump", words="tarn 65").content.decode().split())
    assert "1 of" in found
    assert "Vessmar Tarn 65" in found
    assert 'data-take="pump"' in found


def test_the_dialogs_say_the_same_as_the_sheet_where_two_pumps_run_together(estimator, shop, job):
    post(estimator, job, "change", path="arrangement", value="parallel")
    job.refresh_from_db()
    sizing = services.size_document(shop, services.current(job))
    name = sizing.chosen.candidate.pump.name
    assert name.startswith("2 × ")
    runs = units.show(sizing.chosen.operating_point.point.flow_m3s, "flow", "metric")
    now = next(row for row in ask(estimator, job, "sizes", leg="a").context["view"].rows if row.now)
    assert (now.pump, now.flow) == (name, runs)
    first = ask(estimator, job, "every_pump").context["view"].rows[0]
    assert (first.name, first.flow) == (name, runs)


def test_a_pump_scaled_to_the_mains_stands_the_same_in_every_dialog(estimator, shop, job):
    row = shop.pumps.get(pump_id="vessmar-tarn-80")
    row.frequency_hz, row.also_hz = 60.0, 50.0
    row.save()
    publishing.changed(shop)
    post(estimator, job, "change", path="pump", value="vessmar-tarn-80")
    job.refresh_from_db()
    shop.refresh_from_db()
    sizing = services.size_document(shop, services.current(job))
    assert sizing.chosen.candidate.pump.scaled_hz == 50.0
    runs = units.show(sizing.chosen.candidate.flow_m3s, "flow", "metric")
    asked = {"pump": ["vessmar-tarn-80", "ondrath-k-11"]}
    html = estimator.get(f"/jobs/{job.pk}/dialogs/compare/", asked).content.decode()
    assert runs in html
    listed = ask(estimator, job, "every_pump", words="tarn 80").context["view"].rows
    assert runs in {one.flow for one in listed if one.pump_id == "vessmar-tarn-80"}
