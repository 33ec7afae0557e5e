"""Lists of customers and installed pumps: shown first, doubtful rows apart, undone; equal again."""

import io

import pytest

from kyrtos.customers import cards
from kyrtos.customers.models import Customer, Site
from kyrtos.installations import lists
from kyrtos.installations.models import InstalledPump
from kyrtos.jobs import services
from kyrtos.shops.models import BroughtIn
from sizing.base.reader import Reader, reading
from tests.kyrtos.reading import text_of

PEOPLE = "/customers/import/"
PUMPS = "/pumps/import/"


@pytest.fixture
def owner(as_role):
    return as_role("owner")


def send(client, at, text):
    sent = io.BytesIO(text.encode())
    sent.name = "list.csv"
    return client.post(at, {"file": sent}, follow=True)


def do(client, at, what, **more):
    found = BroughtIn.objects.order_by("-pk").first()
    return client.post(at, {"do": what, "list": found.pk, **more}, follow=True)


def held():
    """All that a list may touch."""
    return [
        list(model.objects.order_by("pk").values()) for model in (Customer, Site, InstalledPump)
    ]


def but_moments(rows):
    return [[{k: v for k, v in row.items() if k != "changed"} for row in part] for part in rows]


def test_it_is_shown_and_changes_nothing_until_it_is_taken(owner, shop):
    before = held()
    page = send(owner, PEOPLE, "name,phone,mail\nWeir Guild,0555 1,\nBryn,,nonsense\n")
    assert held() == before
    wrong = "row 3: mail: “nonsense” is no mail address"
    for text in ("<b>1</b> new", wrong, "Nothing is changed yet"):
        assert text in text_of(page)
    assert "1 new" in text_of(do(owner, PEOPLE, "take"))
    assert shop.customers.get(name="Weir Guild").phone == "0555 1"
    assert "taken already" in text_of(do(owner, PEOPLE, "take"))
    do(owner, PEOPLE, "undo")
    assert held() == before


def test_what_was_filled_is_as_before_after_undoing(owner, shop):
    record = shop.customers.exclude(phone="").first()
    before = held()
    send(owner, PEOPLE, f'name,phone,site,site mail\n"{record}",0555 99,Weir Steps,w@x.example\n')
    do(owner, PEOPLE, "take")
    kept = shop.customers.get(pk=record.pk)
    assert kept.phone == f"{record.phone}\n0555 99"  # a second one is added, none lost
    assert kept.sites.get(name="Weir Steps").mail == "w@x.example"
    do(owner, PEOPLE, "undo")
    assert but_moments(held()) == but_moments(before)


@pytest.mark.parametrize(
    ("since", "says"),
    [
        (lambda made, shop: Customer.objects.filter(pk=made.pk).update(phone="1"), "was changed"),
        (lambda made, shop: made.sites.create(shop=shop, name="mill"), "has a site: mill"),
        (
            lambda made, shop: services.create(
                shop=shop,
                user=shop.memberships.first().user,
                kind_code="sump",
                title="A pit",
                customer="Weir Guild",
            ),
            "has a job: A pit",
        ),
        (lambda made, shop: shop.customers.create(name="Somebody else"), None),
    ],
)
def test_only_what_stands_in_the_way_refuses_an_undo_and_is_named(owner, shop, since, says):
    send(owner, PEOPLE, "name\nWeir Guild\n")
    do(owner, PEOPLE, "take")
    since(shop.customers.get(name="Weir Guild"), shop)
    page = text_of(do(owner, PEOPLE, "undo"))
    assert (says in page) if says else ("is undone" in page)
    assert shop.customers.filter(name="Weir Guild").exists() is bool(says)


def test_another_spelling_waits_for_a_word(owner, shop):
    shop.customers.create(name="Orrin & Daughter")
    page = send(owner, PEOPLE, "name\nOrrin and Daughter\nOrrin & daughter\n")
    assert "may be orrin &amp; daughter" in text_of(page)
    do(owner, PEOPLE, "take")
    assert not shop.customers.filter(name="Orrin and Daughter").exists()
    send(owner, PEOPLE, "name\nOrrin and Daughter\n")
    do(owner, PEOPLE, "take", doubtful="on")
    assert shop.customers.filter(name="Orrin and Daughter").exists()


@pytest.mark.parametrize(
    ("column", "value", "says"),
    [
        ("voltage v", "1,250", "may be read in two ways"),
        ("altitude m", "9000", "5500"),
        ("phases", "2", "is not a valid choice"),
        ("latitude", "north", "no number"),
        ("site mail", "x", "no mail address"),
    ],
)
def test_a_site_is_judged_as_in_its_form_and_the_row_is_left_whole(shop, column, value, says):
    text = f'name,site,{column}\nWeir Guild,mill,"{value}"\n'
    taken = cards.take_in(shop, text.encode())
    assert says in taken.left[0]
    assert not shop.customers.filter(name="Weir Guild").exists()


@pytest.mark.parametrize("style", ["point", "comma"])
@pytest.mark.parametrize("kind", ["csv", "vcf"])
def test_out_and_in_again_is_equal(shop, kind, style):
    one = shop.customers.create(
        name='Weir, Guild; of "Fullers"',
        people="Ida Marsh, head\nOdo Lamb",
        phone="+44 555 1\n0555 2 yard",
        mail="a@x.example\nb@x.example",
        address="1 Weir Steps, Ilvermoor\n2 Mill Lane",
        notes="gate code 3\nring twice",
        units="us",
    )
    one.sites.create(
        shop=shop,
        name="mill",
        people="Ada",
        phone="0555 3",
        address="at the weir",
        plus_code="9C2X",
        latitude=50.016667,
        longitude=-3.125,
        altitude_m=104.125,
        frost_depth_m=0.8,
        voltage_v=400.0,
        phases=3,
        frequency_hz=60.0,
        water="pH 7.2\nchloride 90",
        notes="key at the pub",
    )
    one.sites.create(shop=shop, name="upper barn")
    names = ("id", "created", "changed", "customer_id")
    with reading(Reader(style=style)):
        write = {"csv": cards.as_csv, "vcf": cards.as_vcards}[kind]
        content = write(shop.customers.filter(pk=one.pk)).encode()
        before = plain(shop, names)
        shop.sites.filter(customer=one).delete()
        one.delete()
        taken = cards.take_in(shop, content)
        assert (taken.new, taken.left) == (1, [])
        assert plain(shop, names) == before
        assert cards.take_in(shop, content).filled == 0  # nothing is added twice


def plain(shop, but):
    one = shop.customers.get(known_as__startswith="weir")
    rows = [one.__dict__, *(site.__dict__ for site in one.sites.order_by("pk"))]
    return [{k: v for k, v in row.items() if k not in but and k[0] != "_"} for row in rows]


def test_pumps_are_shown_taken_and_undone_with_their_sites(owner, shop):
    before = held()
    head = "customer,site,maker,model,installed,serial,price\n"
    page = send(
        owner,
        PUMPS,
        head + 'Weir Guild,mill,Ondrath,K 11,2024-05-01,S1,"1,250"\n'
        "Weir Guild,mill,Ondrath,K 12,2024-05-01,S2,300\n",
    )
    assert "may be read in two ways" in text_of(page)
    assert held() == before
    do(owner, PUMPS, "take")
    pump = shop.installed.get(serial="S2")
    assert (pump.site.name, pump.price) == ("mill", 300.0)
    pump.events.create(kind="serviced", on=pump.installed)
    assert "Ondrath K 12 has an event: serviced" in text_of(do(owner, PUMPS, "undo"))
    assert shop.installed.filter(serial="S2").exists()
    pump.events.all().delete()
    do(owner, PUMPS, "undo")
    assert held() == before


def test_a_pump_that_may_stand_there_already_waits_for_a_word(owner, shop):
    pump = shop.installed.exclude(serial="").exclude(site__customer=None).first()
    row = f'customer,site,maker,model\n"{pump.site.customer}","{pump.site}",'
    row += f"{pump.maker},{pump.model}\n"
    taken = lists.take_in(shop, row.encode())
    assert (taken.new, len(taken.doubtful)) == (0, 1)
    assert "may be the one that stands" in taken.doubtful[0]
    assert lists.take_in(shop, row.encode(), True).new == 1
