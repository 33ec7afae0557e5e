"""Tracing through the web without a browser: what may be put in, each step, and what is refused."""

import io

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from weasyprint import HTML

from kyrtos.catalogue.models import CatalogueEntry, Trace


def picture(kind="PNG", size=(400, 300)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "white").save(out, kind)
    return out.getvalue()


def put_in(client, content: bytes, **more):
    return client.post(
        "/catalogue/trace/", {"file": SimpleUploadedFile("leaflet", content), **more}
    )


@pytest.fixture
def found(estimator):
    put_in(estimator, picture())
    return Trace.objects.get()


def do(client, found, action, **values):
    return client.post(
        f"/catalogue/trace/{found.pk}/act/", {"do": action, **values}
    ).content.decode()


def marked(client, found):
    for key, x, y, value in (
        ("x1", 50, 250, "0"),
        ("x2", 350, 250, "12"),
        ("y1", 50, 250, "0"),
        ("y2", 50, 50, "20"),
    ):
        do(client, found, "mark", key=key, x=x, y=y)
        do(client, found, "value", key=key, value=value)


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP"])
def test_pictures_of_every_common_kind_are_kept_as_png(estimator, kind):
    answer = put_in(estimator, picture(kind))
    shown = estimator.get(answer.url)
    assert b"trace-stage" in shown.content
    image = Image.open(io.BytesIO(estimator.get(f"{answer.url}image.png").content))
    assert (image.format, image.size) == ("PNG", (400, 300))


def test_a_page_of_a_pdf_is_put_in_and_a_large_scan_is_made_smaller(estimator):
    pdf = HTML(string="<p>one<p style='page-break-before:always'>two").write_pdf()
    assert estimator.get(put_in(estimator, pdf, page="2").url).status_code == 200
    assert b"there is no page 3" in put_in(estimator, pdf, page="3").content
    assert b"no page 0" in put_in(estimator, pdf, page="two").content
    put_in(estimator, picture(size=(3000, 1500)))
    assert (Trace.objects.first().width, Trace.objects.first().height) == (2000, 1000)


@pytest.mark.parametrize(
    "content",
    [
        b"",
        b"no picture",
        b"%PDF-1.4 broken",
        b"\x89PNG\r\n\x1a\n broken",
        b"x" * (12 * 1024 * 1024 + 2),
    ],
)
def test_what_is_no_picture_is_told(estimator, content):
    answer = put_in(estimator, content)
    assert answer.status_code == 422
    assert b"Nothing was put in" in answer.content
    assert not Trace.objects.exists()


def test_steps_lead_to_a_fit_and_to_a_pump(estimator, found, shop):
    assert "still to be marked" not in do(estimator, found, "mark", key="x1", x="50", y="250")
    marked(estimator, found)
    for x, y in ((50, 80), (150, 95), (250, 140), (350, 220)):
        text = do(estimator, found, "point", x=x, y=y)
    assert "4 points" in text
    assert "t-fit" in text
    answer = estimator.post(
        f"/catalogue/trace/{found.pk}/save/",
        {"maker": "Quorl", "model": "Leaf 1", "family": "sump"},
    )
    assert answer.url == "/catalogue/quorl-leaf-1/"
    pump = CatalogueEntry.objects.get(shop=shop, pump_id="quorl-leaf-1")
    assert pump.flows_m3s == pytest.approx([0.0, 4 / 3600, 8 / 3600, 12 / 3600])
    assert pump.heads_m == pytest.approx([17.0, 15.5, 11.0, 3.0])
    refused = estimator.post(
        f"/catalogue/trace/{found.pk}/save/", {"maker": "", "model": "Leaf 1", "family": "sump"}
    )
    assert refused.status_code == 422
    assert b"maker is empty" in refused.content
    assert b'value="Leaf 1"' in refused.content


def test_several_curves_of_one_picture_are_kept_apart(estimator, found):
    marked(estimator, found)
    for x, y in ((50, 80), (150, 95), (250, 140), (350, 220)):
        do(estimator, found, "point", x=x, y=y)
    assert "t-other" in do(estimator, found, "curve", value="new")
    do(estimator, found, "rename", value="half speed")
    do(estimator, found, "point", x=60, y=90)
    found.refresh_from_db()
    assert [(one["name"], len(one["points"])) for one in found.state["curves"]] == [
        ("curve 1", 4),
        ("half speed", 1),
    ]
    do(estimator, found, "curve", value="0")
    do(estimator, found, "remove", at="1")
    do(estimator, found, "move", at="0", x="51", y="81")
    found.refresh_from_db()
    assert found.state["curves"][0]["points"] == [[51.0, 81.0], [250.0, 140.0], [350.0, 220.0]]


@pytest.mark.parametrize(
    ("action", "values", "told"),
    [
        ("point", {"x": "900", "y": "5"}, "outside the picture"),
        ("point", {"x": "nan", "y": "5"}, "outside the picture"),
        ("point", {"x": "a"}, "no place"),
        ("move", {"at": "7", "x": "5", "y": "5"}, "no such point"),
        ("remove", {"at": "-1"}, "no such point"),
        ("unit", {"key": "x_unit", "value": "kg"}, "cannot be done"),
        ("unit", {"key": "curves", "value": "m"}, "cannot be done"),
        ("dance", {}, "cannot be done"),
        ("mark", {"key": "z9", "x": "5", "y": "5"}, "cannot be done"),
    ],
)
def test_steps_that_cannot_be_are_told_and_change_nothing(estimator, found, action, values, told):
    before = found.state
    assert told in do(estimator, found, action, **values)
    found.refresh_from_db()
    assert found.state == before


def test_axes_in_other_units_and_logarithmic(estimator, found):
    marked(estimator, found)
    assert "has no zero" in do(estimator, found, "log", key="x_log", value="true")
    do(estimator, found, "value", key="x1", value="1")
    assert "has no zero" not in do(estimator, found, "unit", key="x_unit", value="gpm")
    assert "type the number printed there" in do(
        estimator, found, "value", key="x2", value="twelve"
    )


def test_another_shop_sees_no_picture(as_role, found):
    stranger = as_role("stranger")
    for address in ("", "image.png"):
        assert stranger.get(f"/catalogue/trace/{found.pk}/{address}").status_code == 404
