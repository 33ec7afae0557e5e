from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from kyrtos.catalogue.publishing import catalogue_of
from kyrtos.catalogue.services import import_file
from sizing.pump.catalogue_file import CatalogueFileError

DEMO = Path(__file__).parents[2] / "demo" / "pumps.csv"


def send(client, content: bytes):
    return client.post("/catalogue/import/", {"file": SimpleUploadedFile("pumps.csv", content)})


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"\xff\xfe", "the file is empty"),
        (b"", "the file is empty"),
        (b"maker,model\n", "missing"),
        (b"x" * 68_000_000, "larger than 64 MB"),
    ],
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
    assert import_file(shop, content).changed == 82
    after = catalogue_of(shop)
    assert [pump.pump_id for pump in after.pumps] == [pump.pump_id for pump in before.pumps]
    assert after.table.heads_m == pytest.approx(before.table.heads_m, rel=1e-9)


def test_a_pump_page_shows_curve_points_and_facts(estimator):
    text = estimator.get("/catalogue/ondrath-k-11/").content.decode()
    for part in ("Ondrath K 11", "<svg", "wire to water", "sump (clear water)", "215\u00a0mm"):
        assert part in text


def test_the_list_is_searched_by_words_and_family(estimator):
    assert {row["name"] for row in estimator.get("/catalogue/?q=linnet+12").context["rows"]} == {
        "Tiddan Linnet 12"
    }
    assert len(estimator.get("/catalogue/?family=grinder").context["rows"]) == 4
    assert "No pump matches" in estimator.get("/catalogue/?q=zzz").content.decode()


def test_another_shop_has_its_own_catalogue(as_role):
    assert as_role("stranger").get("/catalogue/").context["page"].paginator.count == 0


def test_a_pumps_page_is_in_the_readers_units_and_gathers_what_is_not_stated(estimator, shop):
    text = " ".join(estimator.get("/catalogue/ondrath-k-11/").content.decode().split())
    assert "hp)" in text
    assert text.count("Not stated:") == 1
    assert "<dd> </dd>" not in text
    sent = {"units": "us", "numbers": "", "dates": "", "unit_power": "hp"}
    estimator.post("/settings/", sent)
    text = " ".join(estimator.get("/catalogue/ondrath-k-11/").content.decode().split())
    assert "input, hp" in text
    assert "flow, gpm" in text
