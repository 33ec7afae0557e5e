"""Tracing through the web without a browser: what may be put in, each step, what is refused."""

import io

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from weasyprint import HTML

from kyrtos.catalogue.models import CatalogueEntry, Trace
from tests.charts import ALIKE, CHARTS, Chart
from tests.thin import some

BY_NAME = {one.name: one for one in CHARTS}


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


def values(client, found, **of):
    for key, pair in of.items():
        for end, value in enumerate(pair):
            text = do(client, found, "value", key=key, end=end, value=value)
    return text


def ruled(client, found):
    """Rulers over the blank picture: 0 to 12 and 0 to 20."""
    for key, end, x, y in (
        ("flow", 0, 50, 250),
        ("flow", 1, 350, 250),
        ("head", 0, 50, 250),
        ("head", 1, 50, 50),
    ):
        do(client, found, "ruler", key=key, end=end, x=x, y=y)
    return values(client, found, flow=("0", "12"), head=("0", "20"))


def by_hand(client, found, places):
    do(client, found, "by_hand", value="true")
    for x, y in places:
        text = do(client, found, "click", x=x, y=y)
    return text


FALLING = ((50, 80), (150, 95), (250, 140), (350, 220))


def saved(client, found, **cells):
    return client.post(
        f"/catalogue/trace/{found.pk}/save/", {"maker": "Quorl", "family": "sump", **cells}
    )


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


def traced(client, chart: Chart) -> tuple[Trace, int]:
    """A chart traced as a person does; with the clicks and drags that it took, saving included.

    An end of a ruler that was laid more than two pixels off its printed value costs a drag.
    """
    put_in(client, chart.png())
    found = Trace.objects.first()
    low_flow, low_head = chart.flow[0], chart.head[0]
    clicks = 1
    for key, end, place in (
        ("flow", 0, chart.page(low_flow, low_head)),
        ("flow", 1, chart.page(chart.flow[1], low_head)),
        ("head", 0, chart.page(low_flow, low_head)),
        ("head", 1, chart.page(low_flow, chart.head[1])),
    ):
        if np.hypot(*np.subtract(found.state["rulers"][key]["ends"][end], place)) > 2.5:
            clicks += 1
            do(client, found, "ruler", key=key, end=end, x=place[0], y=place[1])
    if chart.log:
        clicks += 1
        do(client, found, "log", key="flow", value="true")
    values(client, found, flow=chart.flow, head=chart.head)
    rng = np.random.default_rng(7)
    for share in (0.006, *chart.also_click, 0.994):
        x, y = np.add(chart.place(share), rng.uniform(-2.0, 2.0, 2))  # a hand is not exact
        clicks += 1
        do(client, found, "click", x=x, y=y)
    found.refresh_from_db()
    return found, clicks


def test_ten_printed_charts_are_read_within_a_hundredth_in_under_eight_clicks(estimator):
    clicks = []
    for number, chart in enumerate(some((*CHARTS, ALIKE), 3)):
        found, count = traced(estimator, chart)
        clicks.append(count)
        answer = saved(estimator, found, model=f"Chart {number}")
        assert answer.status_code == 302, (chart.name, answer.content.decode()[-3000:])
        pump = CatalogueEntry.objects.get(model=f"Chart {number}")
        true = chart.curves[0].value
        highest = max(true(chart.flow_at(share)) for share in np.linspace(0, 1, 50))
        for flow, head in zip(pump.flows_m3s, pump.heads_m, strict=True):
            assert head == pytest.approx(true(flow * 3600), abs=0.01 * highest), chart.name
        reach = max(pump.flows_m3s) * 3600
        assert reach == pytest.approx(chart.flow[1], rel=0.03), chart.name
    assert sorted(clicks)[len(clicks) // 2] < 8, clicks


def test_head_efficiency_and_npsh_of_one_chart_become_one_pump(estimator):
    chart = BY_NAME["crossing colours"]
    found, _ = traced(estimator, chart)
    for which, kind, printed in ((1, "efficiency", ("0", "80")), (2, "npsh", ("0", "10"))):
        do(estimator, found, "curve", value="new")
        do(estimator, found, "kind", value=kind)
        values(estimator, found, **{kind: printed})
        for share in (0.006, 0.994):
            x, y = chart.place(share, which)
            do(estimator, found, "click", x=x, y=y)
    assert saved(estimator, found, model="Three").status_code == 302
    pump = CatalogueEntry.objects.get(model="Three")
    head, efficiency, npsh = (one.value for one in chart.curves)
    for flow, power, needed in zip(
        pump.flows_m3s, pump.powers_w, pump.npsh_required_m, strict=True
    ):
        q = flow * 3600
        assert needed == pytest.approx(npsh(q), abs=0.1)
        if q > 1:
            water = 998.2 * 9.81 * flow * head(q)
            assert power == pytest.approx(water / (efficiency(q) / 100), rel=0.03)


def test_three_impellers_become_three_variants(estimator):
    chart = BY_NAME["three impellers"]
    found, _ = traced(estimator, chart)
    do(estimator, found, "rename", value="impeller B")
    for which, name in ((1, "impeller A"), (2, "impeller C")):
        do(estimator, found, "curve", value="new")
        do(estimator, found, "rename", value=name)
        for share in (0.006, 0.994):
            x, y = chart.place(share, which)
            text = do(estimator, found, "click", x=x, y=y)
    assert "Save as 3 variants" in text
    answer = saved(estimator, found, model="Trio")
    assert answer.url == "/catalogue/?q=Quorl+Trio"
    heads = {one.variant: one.heads_m[0] for one in CatalogueEntry.objects.filter(model="Trio")}
    assert set(heads) == {"impeller A", "impeller B", "impeller C"}
    assert heads["impeller A"] > heads["impeller B"] > heads["impeller C"]


def test_a_pump_that_is_there_keeps_what_no_picture_says(estimator, found, shop):
    before = CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-7")
    ruled(estimator, found)
    by_hand(estimator, found, FALLING)
    assert saved(estimator, found, maker="Ondrath", model="K 7").status_code == 302
    after = CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-7")
    assert after.heads_m == pytest.approx([17.0, 15.5, 11.0, 3.0])
    kept = ("price", "stock", "solids_m", "voltage_v", "discharge", "warranty_years")
    assert [getattr(after, name) for name in kept] == [getattr(before, name) for name in kept]
    assert before.price


def test_points_by_hand_lead_to_a_fit_and_to_a_pump(estimator, found, shop):
    assert "No axes were found" in estimator.get(f"/catalogue/trace/{found.pk}/").content.decode()
    ruled(estimator, found)
    text = by_hand(estimator, found, FALLING)
    assert "4 points" in text
    answer = saved(estimator, found, model="Leaf 1")
    assert answer.url == "/catalogue/quorl-leaf-1/"
    pump = CatalogueEntry.objects.get(shop=shop, pump_id="quorl-leaf-1")
    assert pump.flows_m3s == pytest.approx([0.0, 4 / 3600, 8 / 3600, 12 / 3600])
    assert pump.heads_m == pytest.approx([17.0, 15.5, 11.0, 3.0])
    refused = saved(estimator, found, maker="", model="Leaf 1")
    assert refused.status_code == 422
    assert b"maker is empty" in refused.content
    assert b'value="Leaf 1"' in refused.content


def test_several_curves_of_one_picture_are_kept_apart(estimator, found):
    ruled(estimator, found)
    by_hand(estimator, found, FALLING)
    do(estimator, found, "curve", value="new")
    do(estimator, found, "rename", value="half speed")
    do(estimator, found, "click", x=60, y=90)
    found.refresh_from_db()
    assert [(one["name"], len(one["points"])) for one in found.state["curves"]] == [
        ("curve 1", 4),
        ("half speed", 1),
    ]
    assert b"half speed: 1 point; a curve needs" in saved(estimator, found, model="Two").content
    do(estimator, found, "clear")
    do(estimator, found, "curve", value="0")
    do(estimator, found, "remove", at="1")
    do(estimator, found, "move", at="0", x="51", y="81")
    found.refresh_from_db()
    assert found.state["curves"][0]["points"] == [[51.0, 81.0], [250.0, 140.0], [350.0, 220.0]]
    assert found.state["curves"][1]["points"] == []


def test_a_kind_that_is_taken_back_takes_its_empty_ruler_along(estimator, found):
    assert "v-npsh-0" in do(estimator, found, "kind", value="npsh")
    assert "v-npsh-0" not in do(estimator, found, "kind", value="head")
    do(estimator, found, "kind", value="npsh")
    do(estimator, found, "value", key="npsh", end="1", value="10")
    assert "v-npsh-0" in do(estimator, found, "kind", value="head")  # typed work is not thrown away


@pytest.mark.parametrize(
    ("action", "given", "told"),
    [
        ("click", {"x": "900", "y": "5"}, "outside the picture"),
        ("click", {"x": "nan", "y": "5"}, "outside the picture"),
        ("click", {"x": "a"}, "no place"),
        ("ruler", {"key": "flow", "end": "2", "x": "5", "y": "5"}, "cannot be done"),
        ("ruler", {"key": "width", "end": "0", "x": "5", "y": "5"}, "cannot be done"),
        ("ruler", {"key": "flow", "end": "0", "x": "-5", "y": "5"}, "outside the picture"),
        ("move", {"at": "7", "x": "5", "y": "5"}, "no such point"),
        ("remove", {"at": "-1"}, "no such point"),
        ("remove", {"at": "²"}, "no such point"),
        ("line", {"at": "0"}, "no such line"),
        ("curve", {"value": "9"}, "no such point"),
        ("kind", {"value": "noise"}, "cannot be done"),
        ("unit", {"key": "flow", "value": "kg"}, "cannot be done"),
        ("unit", {"key": "curves", "value": "m"}, "cannot be done"),
        ("dance", {}, "cannot be done"),
    ],
)
def test_steps_that_cannot_be_are_told_and_change_nothing(estimator, found, action, given, told):
    before = found.state
    assert told in do(estimator, found, action, **given)
    found.refresh_from_db()
    assert found.state == before


def test_a_click_beside_every_line_is_told_and_not_kept(estimator, found):
    do(estimator, found, "click", x="50", y="60")
    assert "no line under" in do(estimator, found, "click", x="300", y="60").lower()
    found.refresh_from_db()
    assert found.state["curves"][0]["clicks"] == [[50.0, 60.0]]


def test_axes_in_other_units_and_logarithmic(estimator, found):
    ruled(estimator, found)
    assert "has no zero" in do(estimator, found, "log", key="flow", value="true")
    do(estimator, found, "value", key="flow", end="0", value="1")
    assert "has no zero" not in do(estimator, found, "unit", key="flow", value="gpm")
    assert "is no number" in do(estimator, found, "value", key="flow", end="1", value="twelve")
    assert (
        "type the value printed"
        in do(estimator, found, "value", key="flow", end="1", value="").lower()
    )


@pytest.mark.parametrize(
    ("kinds", "told"),
    [
        (["power"], "no head curve"),
        (["head", "npsh", "npsh"], "two curves of the NPSH"),
        (["head", "power", "efficiency"], "both power and efficiency"),
        (["head", "head", "power"], "each impeller draws a power of its own"),
    ],
)
def test_curves_that_do_not_go_together_are_told(estimator, found, kinds, told):
    ruled(estimator, found)
    for number, kind in enumerate(kinds):
        if number:
            do(estimator, found, "curve", value="new")
        do(estimator, found, "kind", value=kind)
        values(estimator, found, **{kind: ("0", "20")})
        by_hand(estimator, found, FALLING)
    answer = saved(estimator, found, model="Odd")
    assert answer.status_code == 422
    assert told in answer.content.decode()
    assert not CatalogueEntry.objects.filter(model="Odd").exists()


def test_another_shop_sees_no_picture(as_role, found):
    stranger = as_role("stranger")
    for address in ("", "image.png"):
        assert stranger.get(f"/catalogue/trace/{found.pk}/{address}").status_code == 404
