"""A pump typed in, changed and taken out by hand."""

import pytest

from kyrtos.catalogue import publishing
from kyrtos.jobs.services import current, size_document
from sizing.pump.catalogue_columns import COLUMNS
from tests.kyrtos.reading import text_of

POINTS = "0 12 300\n2 11.2 360\n4;9.4;420\n6\t6.1\t470\n8 1.9 500"
TYPED = {
    "maker": "Ondrath",
    "model": "K 12",
    "family": "sump",
    "flow_unit": "m3/h",
    "head_unit": "m",
    "points": POINTS,
    "price": "281",
    "solids": "3/8 in",
    "voltage": "230",
}
K11 = "/catalogue/ondrath-k-11/"


def boxes(client, address: str) -> dict[str, str]:
    """What the form at an address holds."""
    form = client.get(address).context["form"]
    return {name: form[name].value() or "" for name in form.fields if name != "sure"}


def pump(shop, pump_id: str):
    shop.refresh_from_db()
    catalogue = publishing.catalogue_of(shop)
    row = catalogue.find(pump_id)
    return None if row is None else catalogue.pumps[row]


def test_a_pump_typed_in_is_in_the_catalogue(estimator, shop):
    answer = estimator.post("/catalogue/new/", TYPED)
    assert answer.url == "/catalogue/ondrath-k-12/"
    made = pump(shop, "ondrath-k-12")
    assert made.curve.flows_m3s[2] == pytest.approx(4 / 3600)
    assert made.curve.powers_w == (300.0, 360.0, 420.0, 470.0, 500.0)
    assert made.solids_m == pytest.approx(0.375 * 0.0254)


@pytest.mark.parametrize(
    ("change", "field", "told"),
    [
        ({"model": ""}, "model", "model is empty"),
        ({"model": "K 11"}, "model", "is there already"),
        ({"family": ""}, "family", "family is empty"),
        ({"voltage": "loud"}, "voltage", "holds no number"),
        ({"price": "-3"}, "price", "cannot be negative"),
        ({"phases": "2"}, "phases", "1 or 3"),
        ({"points": "0 12\n1 11 300\n2 9"}, "points", "every line must hold"),
        ({"points": "0\n1\n2\n3"}, "points", "two to four numbers"),
        ({"points": "0 12\n1 11"}, "points", "2 points; a curve needs 4"),
        ({"points": "0 x\n1 y\n2 z\n3 w"}, "points", "must be numbers"),
        ({"points": "0 12\n3 11\n2 9\n4 1"}, "points", "must rise"),
        ({"points": ""}, "points", "flows is empty"),
        ({"flow_unit": "psi"}, "points", "not a unit of flow"),
        ({"note": "n" * 201}, "note", "longer than 200"),
    ],
)
def test_what_is_wrong_is_told_beside_its_field_and_nothing_typed_is_lost(
    estimator, shop, change, field, told
):
    answer = estimator.post("/catalogue/new/", TYPED | change)
    form = answer.context["form"]
    assert answer.status_code == 422
    assert told in "; ".join(form.errors[field])
    assert form["points"].value() == (TYPED | change)["points"]
    assert f'href="#{"points" if field == "points" else f"c-{field}"}"' in text_of(
        answer
    )  # named at the top of a long form
    assert form["solids"].value() == "3/8 in"
    assert pump(shop, "ondrath-k-12") is None


def test_the_form_saved_as_it_stands_changes_nothing(estimator, shop):
    before = pump(shop, "ondrath-k-11")
    estimator.post(f"{K11}edit/", boxes(estimator, f"{K11}edit/"))
    after = pump(shop, "ondrath-k-11")
    assert after.curve.flows_m3s == pytest.approx(before.curve.flows_m3s)
    assert {
        name
        for name in vars(before)
        if name != "curve" and getattr(before, name) != getattr(after, name)
    } == set()


@pytest.mark.parametrize(
    ("points", "powers", "npsh"),
    [
        ("0 12 - 1.2\n2 11 - 1.4\n4 9 - 1.9\n6 6 - 2.8", None, (1.2, 1.4, 1.9, 2.8)),
        (
            "0 12 300 1.2\n2 11 350 1.4\n4 9 400 1.9\n6 6 440 2.8",
            (300.0, 350.0, 400.0, 440.0),
            (1.2, 1.4, 1.9, 2.8),
        ),
        ("0 12\n2 11\n4 9\n6 6", None, None),
    ],
)
def test_npsh_without_power_stays_npsh_however_often_it_is_saved(
    estimator, shop, points, powers, npsh
):
    estimator.post("/catalogue/new/", TYPED | {"points": points})
    for _ in range(2):
        made = pump(shop, "ondrath-k-12")
        assert (made.curve.powers_w, made.curve.npsh_required_m) == (
            powers,
            pytest.approx(npsh) if npsh else None,
        )
        estimator.post(
            "/catalogue/ondrath-k-12/edit/", boxes(estimator, "/catalogue/ondrath-k-12/edit/")
        )


def test_a_new_price_is_what_jobs_reckon_with(estimator, shop, job):
    estimator.post(
        f"{K11}edit/", boxes(estimator, f"{K11}edit/") | {"price": "199", "model": "somebody else"}
    )
    shop.refresh_from_db()
    found = size_document(shop, current(job)).match.find("ondrath-k-11")
    assert (found.pump.price, found.pump.model) == (
        199.0,
        "K 11",
    )  # the name that jobs know it by stays


def test_a_doubtful_curve_is_saved_only_when_somebody_is_sure(estimator, shop):
    rising = TYPED | {"points": POINTS.replace("2 11.2", "2 12.4")}
    answer = estimator.post("/catalogue/new/", rising)
    assert answer.status_code == 422
    assert "the head rises somewhere" in text_of(answer)
    assert pump(shop, "ondrath-k-12") is None
    estimator.post("/catalogue/new/", rising | {"sure": "on"})
    assert pump(shop, "ondrath-k-12").curve.heads_m[1] == 12.4


def test_a_pump_taken_out_is_told_on_the_job_that_chose_it(estimator, shop, job):
    estimator.post(
        f"/jobs/{job.pk}/change/",
        {"path": "pump", "value": "ondrath-k-11", "revision": job.current_revision, "page": "p"},
        headers={"HX-Request": "true"},
    )
    estimator.post(f"{K11}edit/", {"do": "take out"})
    assert pump(shop, "ondrath-k-11") is None
    assert "not in the catalogue any more" in text_of(estimator.get(f"/jobs/{job.pk}/"))


def test_another_impeller_starts_from_its_sister(estimator, shop):
    held = boxes(estimator, "/catalogue/new/?like=harrowick-t-10-impeller-134-mm")
    estimator.post("/catalogue/new/", held | {"variant": "impeller 130 mm", "impeller": "130 mm"})
    assert pump(shop, "harrowick-t-10-impeller-130-mm").impeller_m == pytest.approx(0.13)
    assert "impeller 142 mm" in text_of(estimator.get("/catalogue/harrowick-t-10-impeller-130-mm/"))


def test_every_column_has_its_place_in_the_form(estimator, shop):
    assert set(boxes(estimator, "/catalogue/new/")) == {column.name for column in COLUMNS} - {
        "flows",
        "heads",
        "powers_w",
        "npsh",
    } | {"points"}
