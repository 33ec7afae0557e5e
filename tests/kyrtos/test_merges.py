"""Merges: compared, chosen field by field, nothing lost, undone until something was changed."""

import pytest

from kyrtos.catalogue import archiving
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.customers import merging
from kyrtos.customers.models import Customer, Gone, Site
from kyrtos.jobs import services
from kyrtos.shops.merges import CannotUndo, state_of
from kyrtos.shops.models import Merge
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of


def make(shop, **given):
    user = shop.memberships.get(role="estimator").user
    told = {"kind_code": "sump", "title": "A pit", "customer": "Fenwick Orrin", "site": "Kiln End"}
    return services.create(shop=shop, user=user, **told | given)


@pytest.fixture
def two(shop):
    """Two customers with a site of one name each, and a second site of the second."""
    one, other = make(shop), make(shop, customer="F. Orrin")
    make(shop, customer="F. Orrin", site="Upper Barn")
    stays, goes = one.customer_record, other.customer_record
    Customer.objects.filter(pk=stays.pk).update(phone="0555 1", people="Ida", units="uk")
    Customer.objects.filter(pk=goes.pk).update(
        phone="0555 2\n0555 1", mail="f@orrin.example", notes="gate code 3", units="us"
    )
    Site.objects.filter(pk=other.site_record_id).update(voltage_v=230.0, as_built={"sump": "9 m"})
    Site.objects.filter(pk=one.site_record_id).update(voltage_v=400.0)
    return Customer.objects.get(pk=stays.pk), Customer.objects.get(pk=goes.pk)


def merge_two(two):
    """The second into the first; the instances of the test keep their numbers."""
    return merging.merge_customers(*(Customer.objects.get(pk=one.pk) for one in two))


def world(shop):
    """All that a merge may touch."""
    rows = [*shop.customers.order_by("pk"), *shop.sites.order_by("pk"), *Gone.objects.all()]
    held = [{**state_of(row), "changed": None} for row in rows]
    for one in held:
        one["fields"].pop("changed", None)
    jobs = shop.jobs.order_by("pk").values_list("pk", "customer_record", "site_record")
    return held, list(jobs), list(shop.installed.order_by("pk").values_list("pk", "site"))


def test_the_page_shows_what_is_kept_and_lets_it_be_chosen(as_role, two):
    stays, goes = two
    owner = as_role("owner")
    page = owner.get(f"/customers/{goes.pk}/merge/", {"with": stays.pk})
    for text in ("0555 1<br>0555 2", "gate code 3", "f@orrin.example", 'name="take_units"'):
        assert text in text_of(page) or text in page.text
    sent = {"stays": stays.pk, "take_units": "goes", "take_name": "goes"}
    assert owner.post(f"/customers/{goes.pk}/merge/", sent).status_code == 302
    kept = Customer.objects.get(pk=stays.pk)
    assert (kept.name, kept.units, kept.phone) == ("F. Orrin", "us", "0555 1\n0555 2")
    assert kept.goes_by("fenwick orrin")
    site = kept.sites.get(name="Kiln End")
    assert (site.voltage_v, site.as_built) == (400.0, {"sump": "9 m"})
    assert "Supply voltage [V] of Kiln End: 230" in site.notes
    assert f'action="/customers/merges/{Merge.objects.get(within=None).pk}/undo/"' in (
        owner.get(f"/customers/{kept.pk}/").text
    )


def test_a_merge_undone_leaves_all_as_it_was(as_role, shop, two):
    goes = two[1]
    before = world(shop)
    merge = merge_two(two)
    assert merge.parts.count() == 1  # the site of the same name
    assert world(shop) != before
    answer = as_role("estimator").post(f"/customers/merges/{merge.pk}/undo/")
    assert answer.url == f"/customers/{goes.pk}/"
    assert world(shop) == before
    assert not Merge.objects.exists()


def test_chained_merges_are_undone_from_the_last(shop, two):
    first = merge_two(two)
    third = make(shop, customer="Orrin & Co", site="Weir").customer_record
    before = world(shop)
    second = merging.merge_customers(third, Customer.objects.get(pk=two[0].pk))
    with pytest.raises(CannotUndo, match="undo that merge first"):
        merging.undo(first)
    merging.undo(second)
    assert world(shop) == before
    merging.undo(first)
    assert {one.pk for one in two} <= set(shop.customers.values_list("pk", flat=True))


@pytest.mark.parametrize(
    ("what", "says"),
    [
        (lambda one: one.save(), None),  # kept as it was: nothing changed
        (lambda one: Customer.objects.filter(pk=one.pk).update(phone="0555 9"), "phones"),
        (lambda one: one.sites.filter(name="Kiln End").update(water="hard"), "Kiln End"),
    ],
)
def test_what_was_changed_since_is_named_and_stands_in_the_way(as_role, two, what, says):
    merge = merge_two(two)
    what(Customer.objects.get(pk=two[0].pk))
    answer = as_role("owner").post(f"/customers/merges/{merge.pk}/undo/", follow=True)
    assert ("Nothing was undone" in text_of(answer)) is (says is not None)
    assert says is None or says in text_of(answer)
    assert Customer.objects.filter(pk=two[1].pk).exists() is (says is None)


def test_a_job_begun_since_under_the_name_that_went_goes_back_with_it(shop, two):
    merge = merge_two(two)
    job = make(shop, customer="F. Orrin", site="Kiln End")
    assert job.customer_record == two[0]
    merging.undo(merge)
    job.refresh_from_db()
    assert job.customer_record == two[1]


def test_sites_of_two_customers_merge_only_after_a_question(as_role, shop, two):
    one, other = (who.sites.get(name="Kiln End") for who in two)
    owner, at = as_role("owner"), f"/sites/{other.pk}/merge/"
    assert "two customers" in text_of(owner.get(at, {"with": one.pk}))
    refused = owner.post(at, {"stays": one.pk})
    assert refused.status_code == 422
    assert "tick that they are one place" in text_of(refused)
    before = world(shop)
    assert owner.post(at, {"stays": one.pk, "sure": "on"}).status_code == 302
    job = shop.jobs.get(customer="F. Orrin", site="Kiln End")
    assert (job.site_record, job.customer_record) == (one, two[1])
    merging.undo(Merge.objects.get())
    assert world(shop) == before


def test_a_job_never_changes_its_customer_by_itself(as_role, estimator, shop):
    job = make(shop)
    record = job.customer_record
    record.name = "Orrin & Daughter"
    record.save()
    other = shop.customers.create(name="Fenwick Orrin")  # somebody else of the old name
    change(estimator, job, "site", "Weir Steps")
    job.refresh_from_db()
    assert job.customer_record == record
    assert job.site_record.customer == record
    change(estimator, job, "customer", "Corra Vane")
    change(estimator, job, "customer", "Fenwick Orrin")  # typed anew: whose name it is now
    job.refresh_from_db()
    assert job.customer_record == other


def test_jobs_are_found_under_the_name_that_stays(as_role, shop, two):
    merge_two(two)
    page = as_role("owner").get("/", {"q": "fenwick barn"})
    assert "Upper Barn" in text_of(page)


def test_who_was_taken_out_is_merged_with_nobody(as_role, two):
    Customer.objects.filter(pk=two[0].pk).update(taken_out=True)
    answer = as_role("owner").post(f"/customers/{two[1].pk}/merge/", {"stays": two[0].pk})
    assert answer.status_code == 422


def test_pumps_are_two_again_and_a_changed_one_is_not(as_role, shop):
    stays, goes = shop.pumps.filter(archived=False)[:2]
    CatalogueEntry.objects.filter(pk=stays.pk).update(warranty_years=None, price=None)
    CatalogueEntry.objects.filter(pk=goes.pk).update(warranty_years=3.0, price=99.0)
    before = [state_of(row) for row in shop.pumps.order_by("pk")]
    owner = as_role("owner")
    merge = archiving.merge(shop, stays=stays.pump_id, goes=goes.pump_id)
    assert "Merged here" in text_of(owner.get(f"/catalogue/{stays.pump_id}/"))
    sent = owner.post(f"/catalogue/{goes.pump_id}/edit/", {"maker": "typed meanwhile"})
    assert (sent.status_code, "typed meanwhile" in sent.text) == (409, True)
    assert owner.post(f"/catalogue/merges/{merge.pk}/undo/").url == f"/catalogue/{goes.pump_id}/"
    assert [state_of(row) for row in shop.pumps.order_by("pk")] == before
    merge = archiving.merge(shop, stays=stays.pump_id, goes=goes.pump_id)
    CatalogueEntry.objects.filter(pk=stays.pk).update(price=120.0)
    refused = owner.post(f"/catalogue/merges/{merge.pk}/undo/", follow=True)
    assert "price" in text_of(refused)
    assert CatalogueEntry.objects.get(pk=goes.pk).archived
