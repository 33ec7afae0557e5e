"""Days and figures that cannot be: refused at every door, and one row's fault is that row's."""

from datetime import date, timedelta

import pytest

from kyrtos.installations import days, keeping, lists
from kyrtos.installations.models import InstalledPump
from sizing.base.reader import Reader, reading
from tests.kyrtos.reading import text_of

HEAD = b"site,maker,model,installed,state,ended,price,hours_per_year,kind\n"


@pytest.fixture
def pump(shop) -> InstalledPump:
    return shop.installed.filter(state="running").order_by("pk").first()


@pytest.mark.parametrize(
    "stored",
    [
        {"installed": date(1, 1, 1)},
        {"installed": date(9999, 12, 31)},
        {"ended": date(9999, 12, 31), "state": "failed"},
        {"ended": date(1960, 1, 1), "state": "failed"},
        {"warranty_until": date(9999, 12, 31)},
        {"hours_per_year": 1e-5},
        {"price": 1e300},
    ],
)
def test_one_row_of_before_kills_no_page(as_role, shop, pump, stored):
    owner = as_role("owner")
    InstalledPump.objects.filter(pk=pump.pk).update(**stored)
    for at in ("/pumps/", "/pumps/life/", "/pumps/due/", f"/p/{pump.code}/", "/pumps.csv"):
        assert owner.get(at).status_code == 200, at
    page = text_of(owner.get("/pumps/life/"))
    told = f'Left out, for their days cannot be: <a href="/p/{pump.code}/change/">' in page
    assert told == ("installed" in stored or "ended" in stored)


def test_reminders_of_what_hardly_runs_never_overflow(as_role, pump):
    owner = as_role("owner")
    InstalledPump.objects.filter(pk=pump.pk).update(hours_per_year=0.01)
    pump.reminders.create(text="oil", due=date(2026, 1, 1), every_hours=200_000)
    pump.reminders.create(text="end", due=date(9999, 12, 1), every_months=240)
    for one in pump.reminders.filter(text__in=("oil", "end")):
        assert owner.post(f"/p/{pump.code}/reminders/{one.pk}/", {"do": "done"}).status_code == 302
    assert pump.reminders.get(text="oil", done=None).due <= date.today() + days.PLANNED
    assert keeping.later(date(9999, 12, 1), 240) <= date.max


@pytest.mark.parametrize("due", ["1900-01-01", "9999-01-01"])
def test_a_reminder_is_of_a_day_that_can_be(as_role, pump, due):
    answer = as_role("owner").post(f"/p/{pump.code}/reminders/", {"text": "x", "due": due})
    assert answer.status_code == 422
    assert "cannot be" in text_of(answer)


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("mill,Ondrath,K 11,1900-01-01,running,,,,", "1900-01-01 cannot be"),
        ("mill,Ondrath,K 11,2999-01-01,running,,,,", "2999-01-01 cannot be"),
        ("mill,Ondrath,K 11,2020-01-01,failed,,,,", "since when"),
        ("mill,Ondrath,K 11,2020-01-01,failed,2019-01-01,,,", "before it went in"),
        ('mill,Ondrath,K 11,2020-01-01,running,,"1,250",,', "may be read in two ways"),
        ("mill,Ondrath,K 11,2020-01-01,running,,-3,,", "no figure that can be"),
        ("mill,Ondrath,K 11,2020-01-01,running,,,9000,", "no figure that can be"),
        ("mill,Ondrath,K 11,2020-01-01,running,,,,kiln", "none of ours"),
    ],
)
def test_a_list_is_judged_as_the_form_is(shop, row, says):
    before = shop.installed.count()
    taken = lists.take_in(shop, lists.read(HEAD + row.encode() + b"\nmill,Ondrath,K 12,,,,,,\n"))
    assert (taken.new, len(taken.left)) == (1, 1)  # the row beside it goes in
    assert says in taken.left[0]
    assert shop.installed.count() == before + 1


@pytest.mark.parametrize(
    ("style", "text", "value"),
    [("point", "1250", 1250.0), ("point", "1.25", 1.25), ("comma", '"1,25"', 1.25)],
)
def test_figures_are_read_by_the_mark_of_who_brings_them(shop, style, text, value):
    row = f"mill,Ondrath,K 11,2020-01-01,running,,{text},,\n".encode()
    with reading(Reader(style=style)):
        lists.take_in(shop, lists.read(HEAD + row))
    assert shop.installed.order_by("-pk").first().price == pytest.approx(value)


def test_days_that_can_be():
    assert days.sensible(date.today()) == date.today()
    for wrong in (date(1949, 12, 31), date.today() + timedelta(days=2)):
        with pytest.raises(days.NoSuchDay):
            days.sensible(wrong)
    assert days.sensible(date.today() + timedelta(days=900), ahead=days.PLANNED)
