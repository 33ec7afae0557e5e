from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from kyrtos.catalogue.services import catalogue_of, import_file
from sizing.pump.catalogue_file import CatalogueFileError

DEMO = Path(__file__).parents[2] / "demo" / "pumps.csv"


def send(client, content: bytes):
    return client.post("/catalogue/import/", {"file": SimpleUploadedFile("pumps.csv", content)})


def with_price(price: str) -> bytes:
    lines = DEMO.read_text().splitlines()
    return ("\n".join([lines[0], lines[1].replace(",128,", f",{price},"), lines[2]]) + "\n").encode()


def test_a_good_file_goes_in_and_known_pumps_are_replaced(estimator, shop):
    answer = send(estimator, with_price("99"))
    assert "0 added, 2 replaced" in answer.content.decode()
    shop.refresh_from_db()
    pump = next(pump for pump in catalogue_of(shop).pumps if pump.pump_id == "ondrath-k-5")
    assert pump.price == 99.0
    assert len(catalogue_of(shop)) == 78


def test_one_bad_row_keeps_the_whole_file_out_and_is_told(estimator, shop):
    revision = shop.catalogue_revision
    answer = send(estimator, with_price("cheap"))
    text = answer.content.decode()
    assert answer.status_code == 422
    assert "Nothing was imported: 1 of 2 rows have a problem" in text
    assert "price: &#x27;cheap" in text
    assert "nothing wrong" in text, "each row is reported, the good one too"
    shop.refresh_from_db()
    assert shop.catalogue_revision == revision
    assert shop.pumps.get(pump_id="ondrath-k-7").price == 164.0


@pytest.mark.parametrize(
    ("content", "says"), [(b"\xff\xfe", "UTF-8"), (b"", "missing"), (b"maker,model\n", "missing"), (b"x" * 5_000_000, "larger than 4 MB")]
)
def test_a_file_that_is_no_catalogue_is_told(estimator, content, says):
    answer = send(estimator, content)
    assert answer.status_code == 422
    assert says in answer.content.decode()


def test_a_header_alone_is_told(shop):
    with pytest.raises(CatalogueFileError, match="no pump below"):
        import_file(shop, DEMO.read_bytes().splitlines()[0])


def test_exported_and_imported_the_catalogue_is_the_same(estimator, shop):
    before = catalogue_of(shop)
    content = estimator.get("/catalogue/pumps.csv").content
    assert import_file(shop, content).changed == 78
    after = catalogue_of(shop)
    assert [pump.pump_id for pump in after.pumps] == [pump.pump_id for pump in before.pumps]
    assert after.table.heads_m == pytest.approx(before.table.heads_m, rel=1e-9)


def test_a_pump_page_shows_curve_points_and_facts(estimator):
    text = estimator.get("/catalogue/ondrath-k-11/").content.decode()
    for part in ("Ondrath K 11", "<svg", "wire to water", "sump (clear water)", "215\u00a0mm"):
        assert part in text


def test_the_list_is_searched_by_words_and_family(estimator):
    assert {row["name"] for row in estimator.get("/catalogue/?q=linnet+12").context["rows"]} == {"Tiddan Linnet 12"}
    assert len(estimator.get("/catalogue/?family=grinder").context["rows"]) == 4
    assert "No pump matches" in estimator.get("/catalogue/?q=zzz").content.decode()


def test_another_shop_has_its_own_catalogue(as_role):
    assert as_role("stranger").get("/catalogue/").context["page"].paginator.count == 0
