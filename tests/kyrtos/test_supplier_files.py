"""Suppliers' files through the pages: headings matched once, price lists, undo."""

from __future__ import annotations

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from kyrtos.catalogue.models import Import, SupplierColumns
from tests.kyrtos.reading import text_of

POINTS = (
    "Hersteller;Modell;Serie;Flow (gpm);Head ft;Preis\n"
    "Ordel;Z 1;sump;0;30;1.250,50\nOrdel;Z 1;sump;10,5;25;\n"
    "Ordel;Z 1;sump;20;18;\nOrdel;Z 1;sump;28;5,5;\n"
)


def send(client, text: str, name="ordel.csv") -> Import:
    sent = {"file": SimpleUploadedFile(name, text.encode("cp1252"))}
    answer = client.post("/catalogue/import/", sent)
    assert answer.status_code == 302
    return Import.objects.get(pk=int(answer.url.rstrip("/").rpartition("/")[2]))


def act(client, found: Import, **sent):
    return client.post(f"/catalogue/import/{found.pk}/", sent)


def test_headings_are_matched_by_hand_once_and_kept_by_supplier(estimator, shop):
    found = send(estimator, POINTS)
    assert found.state == "columns"
    text = text_of(estimator.get(f"/catalogue/import/{found.pk}/"))
    assert "“Serie”" in text
    assert "decimal comma" in text
    answer = act(estimator, found, do="columns", supplier="Ordel", **{"column-0": "family"})
    assert answer.status_code == 302
    text = text_of(estimator.get(f"/catalogue/import/{found.pk}/"))
    assert "1 new" in text
    assert "one row a point" in text
    act(estimator, found, do="take")
    pump = shop.pumps.get(model="Z 1")
    assert (pump.family, pump.price, len(pump.flows_m3s)) == ("sump", 1250.5, 4)
    assert SupplierColumns.objects.get(shop=shop).supplier == "Ordel"
    again = send(estimator, POINTS.replace("1.250,50", "1.300,00"))
    assert again.state == "shown"  # it is known by now
    assert "price: 1250.5 → 1300" in text_of(estimator.get(f"/catalogue/import/{again.pk}/"))


def test_what_is_in_no_column_is_given_for_every_row(estimator, shop):
    found = send(estimator, POINTS.replace(";Serie", "").replace(";sump", ""))
    assert found.asked["missing"] == ["family"]
    act(estimator, found, do="columns", **{"fixed-family": "sump"})
    act(estimator, found, do="take")
    assert shop.pumps.get(model="Z 1").family == "sump"


def test_a_semicolon_price_list_changes_price_and_stock_alone(estimator, shop):
    before = shop.pumps.get(pump_id="ondrath-k-11")
    listed = f"Hersteller;Modell;Preis;Bestand\n{before.maker};{before.model};1.234,50;7\n"
    found = send(estimator, listed + "Nobody;Knows;1,00;1\n")
    text = text_of(estimator.get(f"/catalogue/import/{found.pk}/"))
    assert "a price list" in text
    assert "no such pump is in the catalogue" in text
    assert "price:" in text
    assert "curve" not in text.partition("<table")[2]
    act(estimator, found, do="take", without_refused="on")
    after = shop.pumps.get(pump_id="ondrath-k-11")
    assert (after.price, after.stock) == (1234.5, 7)
    for name in ("flows_m3s", "heads_m", "powers_w", "solids_m", "voltage_v", "note"):
        assert getattr(after, name) == getattr(before, name)
    act(estimator, found, do="undo")
    assert shop.pumps.get(pump_id="ondrath-k-11").price == before.price


def test_a_price_list_by_id_does_too(estimator, shop):
    found = send(estimator, "id,price\nondrath-k-11,99.5\n")
    act(estimator, found, do="take")
    assert shop.pumps.get(pump_id="ondrath-k-11").price == 99.5


def test_a_file_without_a_known_heading_is_refused_with_what_to_do(estimator):
    sent = {"file": SimpleUploadedFile("x.csv", b"a;b\n1;2\n")}
    answer = estimator.post("/catalogue/import/", sent)
    assert answer.status_code == 422
    assert "the first row must name the columns" in text_of(answer)


@pytest.mark.parametrize(
    ("prices", "read"),
    [
        (("1,250", "2,100"), (None, None)),  # a thousand and more, or one and a quarter
        (("1,250", "980,00"), (1.25, 980.0)),  # the column says that a comma parts decimals
        (("1.250", "980,00"), (1250.0, 980.0)),
        (("1.250", "2.100"), (None, None)),
        (("€ 1250", "980.5"), (1250.0, 980.5)),
        (("-3", "12"), (None, 12.0)),
    ],
)
def test_a_price_that_may_be_read_in_two_ways_is_asked_and_never_guessed(
    estimator, shop, prices, read
):
    pumps = shop.pumps.filter(archived=False).order_by("pump_id")[:2]
    lines = [f"{one.maker};{one.model};{price}" for one, price in zip(pumps, prices, strict=True)]
    found = send(estimator, "Hersteller;Modell;Preis\n" + "\n".join(lines) + "\n")
    text = text_of(estimator.get(f"/catalogue/import/{found.pk}/"))
    assert ("may be read in two ways" in text) is (read == (None, None))
    if read != (None, None):
        act(estimator, found, do="take", without_refused="on")
    before = {one.pk: one.price for one in pumps}
    for one, price in zip(pumps, read, strict=True):
        now = shop.pumps.get(pk=one.pk).price
        assert now == (before[one.pk] if price is None else price)
