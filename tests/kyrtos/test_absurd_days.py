"""Days and figures that cannot be: refused at every door, and one row's fault is that row's."""

from datetime import date, timedelta

import pytest

from kyrtos.installations import days, lists, pump_records
from kyrtos.installations.models import InstalledPump
from sizing.base.reader import Reader, reading
from tests.kyrtos.reading import text_of
from tests.thin import some

HEAD = b"site,maker,model,installed,state,ended,price,hours_per_year,kind\n"


@pytest.fixture
def pump(shop) -> InstalledPump:
    return shop.installed.filter(state="running").order_by("pk").first()


@pytest.mark.parametrize(
    "stored",
    some(
        [
            {"installed": date(1, 1, 1)},
            {"installed": date(9999, 12, 31)},
            {"ended": date(9999, 12, 31), "state": "failed"},
            {"ended": date(1960, 1, 1), "state": "failed"},
            {"warranty_until": date(9999, 12, 31)},
            {"hours_per_year": 1e-5},
            {"price": 1e300},
        ],
        3,
    ),
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
    assert pump_records.later(date(9999, 12, 1), 240) <= date.max


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
        ("mill,Ondrath,K 11,2020-01-01,running,,-3,,", "out of range"),
        ("mill,Ondrath,K 11,2020-01-01,running,,dear,,", "no number that can be read"),
        ("mill,Ondrath,K 11,2020-01-01,running,,,9000,", "out of range"),
        ("mill,Ondrath,K 11,2020-01-01,running,,,,kiln", "none of ours"),
    ],
)
def test_a_list_is_judged_as_the_form_is(shop, row, says):
    before = shop.installed.count()
    taken = lists.take_in(shop, HEAD + row.encode() + b"\nmill,Ondrath,K 12,,,,,,\n")
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
        lists.take_in(shop, HEAD + row)
    assert shop.installed.order_by("-pk").first().price == pytest.approx(value)


def test_days_that_can_be():
    assert days.sensible(date.today()) == date.today()
    for wrong in (date(1949, 12, 31), date.today() + timedelta(days=2)):
        with pytest.raises(days.NoSuchDay):
            days.sensible(wrong)
    assert days.sensible(date.today() + timedelta(days=900), ahead=days.PLANNED)


# --- the state of a pump, by the days of what happened


def happens(client, pump, kind: str, on: str, cause: str = "") -> int:
    sent = {"kind": kind, "on": on, "cause": cause}
    return client.post(f"/p/{pump.code}/events/", sent).status_code


RUN, FAILED, OUT = InstalledPump.State


@pytest.mark.parametrize("order", ["by day", "backwards"])
@pytest.mark.parametrize(
    ("story", "state", "ended", "cause"),
    [
        ([("failed", "2024-03-01", "seal")], FAILED, date(2024, 3, 1), "seal"),
        ([("failed", "2024-03-01", "seal"), ("repaired", "2024-04-01", "")], RUN, None, ""),
        (
            [("failed", "2024-03-01", "seal"), ("taken_out", "2024-03-05", "")],
            FAILED,
            date(2024, 3, 1),
            "seal",
        ),
        (
            [
                ("failed", "2023-03-01", "seal"),
                ("repaired", "2023-04-01", ""),
                ("taken_out", "2024-05-01", "house sold"),
            ],
            OUT,
            date(2024, 5, 1),
            "house sold",
        ),
    ],
)
def test_the_state_is_that_of_the_days_not_of_the_typing(
    as_role, pump, order, story, state, ended, cause
):
    InstalledPump.objects.filter(pk=pump.pk).update(installed=date(2020, 1, 1))
    pump.events.all().delete()
    client = as_role("technician")
    for one in story if order == "by day" else reversed(story):
        assert happens(client, pump, *one) == 302
    pump.refresh_from_db()
    assert (pump.state, pump.ended, pump.cause) == (state, ended, cause)


def test_what_was_noted_by_mistake_is_taken_back_and_stays_in_the_record(as_role, pump, shop):
    InstalledPump.objects.filter(pk=pump.pk).update(installed=date(2020, 1, 1))
    client = as_role("technician")
    happens(client, pump, "failed", "2024-03-01", "seal")
    made = pump.events.get(kind="failed")
    for _ in range(2):
        assert client.post(f"/p/{pump.code}/events/{made.pk}/back/").status_code == 302
    pump.refresh_from_db()
    assert (pump.state, pump.ended, pump.cause) == (RUN, None, "")
    assert shop.audit.filter(what="event taken back", about__contains="seal").count() == 1


def test_nothing_fails_before_it_went_in(as_role, pump):
    InstalledPump.objects.filter(pk=pump.pk).update(installed=date(2024, 1, 1))
    client = as_role("technician")
    answer = client.post(f"/p/{pump.code}/events/", {"kind": "failed", "on": "2023-12-31"})
    assert answer.status_code == 422
    assert "cannot have failed on 2023-12-31" in text_of(answer)
    assert happens(client, pump, "noted", "2023-12-31") == 302


def test_nothing_is_replaced_before_it_went_in(as_role, shop, pump):
    InstalledPump.objects.filter(pk=pump.pk).update(installed=date(2024, 1, 1))
    before = shop.installed.count()
    sent = {"maker": "Ondrath", "model": "K 11", "installed": "2023-05-01"}
    at = f"/sites/{pump.site_id}/pumps/new/?instead={pump.code}"
    answer = as_role("owner").post(at, sent)
    assert answer.status_code == 422
    assert "cannot have been replaced on 2023-05-01" in text_of(answer)
    assert shop.installed.count() == before


def test_what_a_list_says_has_ended_has_its_event(shop):
    row = HEAD + b"mill,Ondrath,K 11,2020-01-01,failed,2021-02-03,,,\n"
    lists.take_in(shop, row)
    made = shop.installed.order_by("-pk").first()
    assert [(one.kind, one.on) for one in made.events.all()] == [("failed", date(2021, 2, 3))]
    pump_records.work_out_state(made)
    assert (made.state, made.ended) == (FAILED, date(2021, 2, 3))


# --- prices and hours, by the mark of whoever reads


@pytest.mark.parametrize(
    ("numbers", "text", "kept", "shown"),
    [
        ("point", "1250.5", 1250.5, "1250.5"),
        ("comma", "1250,5", 1250.5, "1250,5"),
        ("comma", "12.500,5", 12500.5, "12500,5"),
        ("point", "1,250", None, "two ways"),
        ("comma", "1.250", None, "two ways"),
        ("point", "-1", None, "out of range"),
        ("point", "1e9", None, "out of range"),
        ("point", "dear", None, "no number"),
    ],
)
def test_prices_follow_the_readers_mark(as_role, shop, pump, numbers, text, kept, shown):
    client = as_role("owner")
    shop.memberships.filter(role="owner").update(numbers=numbers)
    page = client.get(f"/p/{pump.code}/change/")
    sent = {
        one.html_name: one.field.widget.format_value(one.value()) or ""
        for one in page.context["form"]
    }
    sent = {name: value[0] if isinstance(value, list) else value for name, value in sent.items()}
    answer = client.post(f"/p/{pump.code}/change/", sent | {"price": text})
    if kept is None:
        assert answer.status_code == 422
        assert shown in text_of(answer)
        assert f'value="{text}"' in answer.text
        return
    assert answer.status_code == 302
    pump.refresh_from_db()
    assert pump.price == kept
    assert f'value="{shown}"' in client.get(f"/p/{pump.code}/change/").text
