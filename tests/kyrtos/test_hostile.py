"""A corpus of what once broke, hung or lied: none of it may again.

No answer of the server is 5xx; what is refused is told. Sizes are those that once held a thread
for seconds to minutes: a test that comes back at all shows that the work is bounded.
"""

import io
import json
import struct
import zipfile
import zlib

import pytest
from asgiref.sync import async_to_sync
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from openpyxl import Workbook

from kyrtos.catalogue.models import Trace
from kyrtos.jobs.tasks import take_up_what_was_left
from sizing.base.errors import SizingError
from sizing.base.quantity import read
from sizing.base.spreadsheet import harmless
from sizing.document.job import JobFileError
from sizing.editing import intake
from sizing.hydraulics import survey
from tests.charts import CHARTS
from tests.kyrtos.test_imports import HEADER, K5, send
from tests.kyrtos.test_lists import post

NINES = "9" * 400


@pytest.mark.parametrize(
    "text", [f"1/{NINES} m", f"{NINES}/3 m", f"1 {NINES}/3 in", f"{NINES} m", "² m", "1e999 m"]
)
def test_numbers_of_hundreds_of_digits_are_refused(text):
    with pytest.raises(SizingError):
        read(text, "length")


def job_file(**more) -> bytes:
    return json.dumps({"format": "kyrtos-job/1", "kind": "sump", **more}).encode()


LEG = {"id": "a", "name": "riser", "series": "pvcu_pn10", "nominal": "50 mm"}


@pytest.mark.parametrize(
    "content",
    [
        job_file(format=[]),
        job_file(format={"a": 1}),
        b"[" * 990 + b"]" * 990,
        b'{"a":' * 100_000,
        b'{"format":"kyrtos-job/1","kind":"sump","\\ud800":1}',
        job_file(
            legs=[LEG | {"fittings": [{"fitting": f"no{n}", "count": 1} for n in range(9000)]}]
        ),
        job_file(legs=[LEG | {"id": f"l{n}"} for n in range(1000)]),
        job_file(legs=[5]),
        job_file(pending={f"legs.a.x{n}": "y" for n in range(3000)}),
        job_file(pending={"answers.rise": "x" * 100_000}),
        b'{"format":"kyrtos-job/1","kind":"sump","answers":{"rise":{"value":'
        + b"9" * 5000
        + b"}}}",
    ],
    ids=range(11),
)
def test_job_files_that_once_broke_are_refused_with_a_reason(estimator, content):
    with pytest.raises(JobFileError):
        intake.loads(content)
    sent = {"file": SimpleUploadedFile("job.json", content)}
    assert estimator.post("/jobs/upload/", sent).status_code == 422


@pytest.mark.parametrize(
    ("reader", "text"),
    [
        (survey.read_geojson, '{"features": 5}'),
        (survey.read_geojson, '{"type":"LineString","coordinates":[[' + NINES + ",1,2],[1,1,2]]}"),
        (survey.read_geojson, '{"type":"LineString","coordinates":[[1e999,1,2],[1,1,2]]}'),
        (survey.read_geojson, '{"type":"LineString","coordinates":[[1,95,2],[1,1,2]]}'),
        (survey.read_geojson, '{"type":"LineString","coordinates":[{"a":1},[1,1,2]]}'),
        (survey.read_gpx, '<gpx><trk><trkseg><trkpt lat="inf" lon="1"><ele>2</ele></trkpt>'
         '<trkpt lat="1" lon="2"><ele>2</ele></trkpt></trkseg></trk></gpx>'),
        (survey.read_gpx, '<gpx><trk><trkseg><trkpt lat="x" lon="1"/></trkseg></trk></gpx>'),
        (survey.read, f"0, 1\n1/{NINES}, 2"),
    ],
)  # fmt: off
def test_surveys_from_nowhere_are_refused(reader, text):
    with pytest.raises(SizingError):
        reader(text)


@pytest.mark.parametrize(
    "path",
    ["", "x", "legs.", "legs.a.", "answers.rise.foo", "answers.rise." + "x" * 3000, "a" * 5000,
     ".".join("a" * 2000), "lists....", "legs." + "9" * 4000 + ".length"],
)  # fmt: off
@pytest.mark.parametrize("value", ["1", NINES, f"1/{NINES}", "a" * 6000])
def test_paths_that_no_job_has_are_refused(estimator, job, path, value):
    assert post(estimator, job, "change", path=path, value=value).status_code in (400, 409)


@pytest.mark.parametrize("revision", ["²", "9" * 300, "-1", "x"])
def test_a_revision_that_is_no_number_breaks_nothing(estimator, job, revision):
    sent = {"page": "p", "revision": revision, "path": "answers.rise", "value": "99 mm"}
    assert estimator.post(f"/jobs/{job.pk}/change/", sent).status_code < 500


@pytest.mark.parametrize("field", ["head", "flow"])
@pytest.mark.parametrize("text", ["9" * 200, "1e200", "1e12", f"1/{NINES}"])
def test_the_other_way_round_bounds_what_is_asked(estimator, shop, field, text):
    for job in shop.jobs.filter(kind__in=("sump", "well", "booster")):
        answer = estimator.get(f"/jobs/{job.pk}/dialogs/inverse/", {field: text})
        assert answer.status_code == 200


def workbook(sheet: bytes) -> bytes:
    book, plain = Workbook(), io.BytesIO()
    book.save(plain)
    out = io.BytesIO()
    with zipfile.ZipFile(plain) as before, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name in before.namelist():
            made.writestr(name, sheet if name.endswith("sheet1.xml") else before.read(name))
    return out.getvalue()


SHEET = (
    b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>%s'
    b"</sheetData></worksheet>"
)
CELL = b'<row r="%d"><c r="%s%d" t="inlineStr"><is><t>maker</t></is></c></row>'


@pytest.mark.parametrize(
    "content",
    [
        workbook(SHEET % (CELL % (1048576, b"XFD", 1048576))),  # one cell in the far corner
        workbook(SHEET % (CELL % (1, b"A", 1) + CELL % (1048576, b"A", 1048576))),
        "\n".join([HEADER, K5.replace("128", NINES)]).encode(),
        ("\n".join([HEADER] + ['"'] * 20_000)).encode(),
        (",".join(f"c{n}" for n in range(20_000)) + "\n1").encode(),
        "\r".join([HEADER, K5]).encode(),  # lines as very old programs end them
    ],
    ids=range(6),
)
def test_tables_that_once_held_a_thread_are_read_or_refused(estimator, content):
    name = "pumps.xlsx" if content[:2] == b"PK" else "pumps.csv"
    assert send(estimator, content, name).status_code in (302, 422)


def png(width: int, height: int) -> bytes:
    def part(kind: bytes, content: bytes) -> bytes:
        body = kind + content
        return struct.pack(">I", len(content)) + body + struct.pack(">I", zlib.crc32(body))

    rows = zlib.compress(b"\0" * (((width + 7) // 8 + 1) * height), 9)
    size = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + part(b"IHDR", size) + part(b"IDAT", rows) + part(b"IEND", b"")


@pytest.mark.parametrize(
    "content",
    [
        png(1, 59_000_000),
        png(59_000_000, 1),
        CHARTS[0].png()[:4000],
        b"GIF89a" + b"\0" * 500,
        b"%PDF-1.4 " + b"x" * 5000,
    ],
    ids=["tall", "wide", "cut off", "no picture", "no pdf"],
)
def test_pictures_are_judged_before_they_are_unfolded(estimator, content):
    sent = {"file": SimpleUploadedFile("leaflet", content), "page": "²"}
    assert estimator.post("/catalogue/trace/", sent).status_code == 422
    assert not Trace.objects.exists()


def test_a_head_request_is_answered_like_the_page(estimator, job):
    for path in ("/", "/catalogue/", f"/jobs/{job.pk}/", "/rules/"):
        answer = estimator.head(path)
        assert (answer.status_code, answer.content) == (200, b"")


@pytest.mark.parametrize(
    "text", ["=1+1", "+1", "@SUM(A1)", "-2+3+cmd|' /C x'!A0", "\t=1", "\r=1", "-a"]
)
def test_no_cell_is_taken_for_a_formula(text):
    assert harmless(text)[0] == " "


@pytest.mark.parametrize("text", ["-2.4", "-2.4 m", "-3 °C", "5", "", "a-b"])
def test_figures_stay_figures(text):
    assert harmless(text) == text


def queued(task: str, status: str, lock: str) -> int:
    with connection.cursor() as cursor:
        cursor.execute(
            "insert into procrastinate_jobs"
            " (queue_name, task_name, lock, queueing_lock, args, status)"
            " values ('default', %s, %s, %s, '{\"shop_id\": 1}', %s) returning id",
            [task, lock, f"{task} {lock}", status],
        )
        return cursor.fetchone()[0]


def states() -> dict[int, str]:
    with connection.cursor() as cursor:
        cursor.execute("select id, status from procrastinate_jobs")
        return dict(cursor.fetchall())


@pytest.mark.django_db(transaction=True)
def test_work_left_behind_never_wedges_the_queue(empty_queue):
    """A rule saved, the worker killed over it, the rule saved again, an import behind them."""
    left = queued("kyrtos.jobs.tasks.recheck", "doing", "recheck-1")
    again = queued("kyrtos.jobs.tasks.recheck", "todo", "recheck-1")
    behind = queued("kyrtos.catalogue.tasks.read_import", "doing", "imports-1")
    async_to_sync(take_up_what_was_left.func)(None, 0)
    assert states() == {left: "failed", again: "todo", behind: "todo"}
