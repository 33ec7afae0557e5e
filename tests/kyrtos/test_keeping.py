"""Pumps archived and brought back, two entries that are one pump, and what a pump cost when."""

import re

import pytest

from kyrtos.catalogue import archiving, publishing
from kyrtos.catalogue.models import CatalogueEntry, PriceNote
from kyrtos.jobs import services as jobs
from tests.kyrtos.test_imports import K5, csv_of, send
from tests.kyrtos.test_lists import post

TYPO = K5.replace("Ondrath,K 5", "Ondrath,K-5").replace(",128,", ",133,")


def plain(answer) -> str:
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", answer.content.decode()))


def chosen_from(shop) -> set[str]:
    shop.refresh_from_db()
    return {pump.pump_id for pump in publishing.catalogue_of(shop).pumps}


def take_file(client, *rows, name="pumps.csv"):
    address = send(client, csv_of(*rows), name).url
    client.post(address, {"do": "take"})
    return address


def test_an_archived_pump_is_kept_but_neither_chosen_nor_listed(estimator, shop, job):
    picked = jobs.size_document(shop, jobs.current(job)).chosen.candidate.pump.pump_id
    estimator.post(f"/catalogue/{picked}/archive/", {"do": "archive"})
    assert picked not in chosen_from(shop)
    job.refresh_from_db()
    assert jobs.size_document(shop, jobs.current(job)).chosen.candidate.pump.pump_id != picked
    listed = estimator.get("/catalogue/").content.decode()
    assert f"/catalogue/{picked}/" not in listed
    assert "1 archived" in listed
    assert f"/catalogue/{picked}/" in estimator.get("/catalogue/?archived=1").content.decode()
    assert picked not in estimator.get("/catalogue/pumps.csv").content.decode()
    assert "Archived: jobs do not choose from it" in plain(estimator.get(f"/catalogue/{picked}/"))
    estimator.post(f"/catalogue/{picked}/archive/", {"do": "bring back"})
    assert picked in chosen_from(shop)


def test_an_import_changes_an_archived_pump_and_leaves_it_archived(estimator, shop):
    archiving.archive(shop, "ondrath-k-5")
    address = take_file(estimator, K5.replace(",128,", ",99,"))
    row = CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-5")
    assert (row.price, row.archived) == (99.0, True)
    estimator.post(address, {"do": "undo"})
    row = CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-5")
    assert (row.price, row.archived) == (128.0, True)


@pytest.fixture
def twice(estimator, shop) -> str:
    """The same pump put in once more under another spelling, with a fact that the first lacks."""
    take_file(estimator, TYPO)
    second = CatalogueEntry.objects.get(shop=shop, model="K-5")
    CatalogueEntry.objects.filter(shop=shop, pump_id="ondrath-k-5").update(noise_db=None)
    CatalogueEntry.objects.filter(pk=second.pk).update(noise_db=61.0)
    return second.pump_id


def test_another_spelling_is_proposed_and_compared(estimator, shop, twice):
    shown = estimator.get(f"/catalogue/{twice}/merge/").content.decode()
    assert "?with=ondrath-k-5" in shown
    side_by_side = plain(estimator.get(f"/catalogue/{twice}/merge/?with=ondrath-k-5"))
    assert "61 dB(A) taken over" in side_by_side
    assert "133" in side_by_side
    found = estimator.get(f"/catalogue/{twice}/merge/?q=tarn+80").content.decode()
    assert "?with=vessmar-tarn-80&" in found


def test_merged_pumps_are_one_for_jobs_addresses_and_later_files(estimator, shop, job, twice):
    post(estimator, job, "change", path="pump", value=twice)
    estimator.post(f"/catalogue/{twice}/merge/", {"stays": "ondrath-k-5"})
    kept = CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-5")
    assert (kept.noise_db, kept.price) == (61.0, 128.0)  # blanks are filled, facts stay
    newest = PriceNote.objects.filter(shop=shop, pump_id="ondrath-k-5").first()
    assert newest.price == kept.price  # its history is its own: the other's prices are not in it
    assert twice not in chosen_from(shop)
    job.refresh_from_db()
    sizing = jobs.size_document(shop, jobs.current(job))
    assert sizing.chosen.candidate.pump.pump_id == "ondrath-k-5"
    assert sizing.chosen.by_person
    assert not sizing.problems
    assert estimator.get(f"/catalogue/{twice}/").url == "/catalogue/ondrath-k-5/"
    assert "Also entered as Ondrath K-5" in plain(estimator.get("/catalogue/ondrath-k-5/"))
    address = take_file(estimator, TYPO.replace(",133,", ",141,"))
    kept.refresh_from_db()
    assert kept.price == 141.0
    assert kept.model == "K 5"
    assert CatalogueEntry.objects.get(shop=shop, pump_id=twice).price == 133.0
    estimator.post(address, {"do": "undo"})
    assert CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-5").price == 128.0


def test_a_file_with_both_spellings_changes_the_one_that_stands(estimator, shop, twice):
    archiving.merge(shop, stays="ondrath-k-5", goes=twice)
    take_file(estimator, K5.replace(",128,", ",120,"), TYPO)
    assert CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-5").price == 120.0


def test_a_merge_is_taken_back_and_follows_a_further_one(estimator, shop, twice):
    archiving.merge(shop, stays="ondrath-k-5", goes=twice)
    archiving.merge(shop, stays="ondrath-k-7", goes="ondrath-k-5")
    assert archiving.stands_for(shop, twice) == "ondrath-k-7"
    estimator.post(f"/catalogue/{twice}/archive/", {"do": "bring back"})
    assert archiving.stands_for(shop, twice) == twice
    assert twice in chosen_from(shop)


@pytest.mark.parametrize(
    ("stays", "told"),
    [
        ("ondrath-k-5", "with itself"),
        ("nowhere", "not in the catalogue"),
        ("ondrath-k-7", "put away"),
    ],
)
def test_what_cannot_be_merged_is_told(estimator, shop, stays, told):
    archiving.archive(shop, "ondrath-k-7")
    answer = estimator.post("/catalogue/ondrath-k-5/merge/", {"stays": stays})
    assert answer.status_code == 422
    assert told in plain(answer)


def test_every_change_of_price_is_remembered_with_its_source(estimator, shop):
    PriceNote.objects.all().delete()
    take_file(estimator, K5.replace(",128,", ",140,"), name="spring list.csv")
    take_file(estimator, K5.replace(",128,", ",154,"), name="autumn list.csv")
    take_file(estimator, K5.replace(",128,", ",154,").replace(",sump,", ",effluent,"))
    notes = PriceNote.objects.filter(shop=shop, pump_id="ondrath-k-5")
    assert [(one.price, one.source) for one in notes] == [
        (154.0, "autumn list.csv"),
        (140.0, "spring list.csv"),
    ]
    shown = plain(estimator.get("/catalogue/ondrath-k-5/"))
    assert "154.00 +10.0 %" in shown


def test_an_undone_import_is_in_the_history_too(estimator, shop):
    address = take_file(estimator, K5.replace(",128,", ",140,"), name="wrong list.csv")
    estimator.post(address, {"do": "undo"})
    newest = PriceNote.objects.filter(shop=shop, pump_id="ondrath-k-5").first()
    assert (newest.price, newest.source) == (128.0, "wrong list.csv undone")


def test_viewers_and_other_shops_may_not(as_role, shop):
    for role, status in (("viewer", 403), ("stranger", 404)):
        client = as_role(role)
        assert client.post("/catalogue/ondrath-k-5/archive/").status_code == status
        assert client.get("/catalogue/ondrath-k-5/merge/").status_code == status
    assert not CatalogueEntry.objects.get(shop=shop, pump_id="ondrath-k-5").archived
