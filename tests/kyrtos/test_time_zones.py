"""Days are the shop's: over midnight, daylight saving, a leap day, the year's end, a clock back."""

import io
from datetime import UTC, date, datetime, timedelta

import pytest
from allauth.account.models import EmailAddress
from django.core import mail
from django.utils import timezone
from pypdf import PdfReader

from kyrtos.installations import labels, reminders
from kyrtos.paper.pdf import emoji_named, pdf_of_page
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of
from tests.thin import some

# zone, moment in UTC, the day there
MOMENTS = [
    ("Pacific/Auckland", datetime(2026, 12, 31, 11, 30, tzinfo=UTC), date(2027, 1, 1)),
    ("Pacific/Auckland", datetime(2026, 12, 31, 10, 30, tzinfo=UTC), date(2026, 12, 31)),
    ("America/Los_Angeles", datetime(2028, 3, 1, 7, 30, tzinfo=UTC), date(2028, 2, 29)),
    ("America/Los_Angeles", datetime(2026, 3, 8, 9, 59, tzinfo=UTC), date(2026, 3, 8)),
    ("Europe/Berlin", datetime(2026, 3, 29, 22, 30, tzinfo=UTC), date(2026, 3, 30)),
    ("Europe/Berlin", datetime(2026, 10, 24, 22, 30, tzinfo=UTC), date(2026, 10, 25)),
    ("Europe/Berlin", datetime(2026, 10, 25, 22, 30, tzinfo=UTC), date(2026, 10, 25)),
]


@pytest.fixture
def at(shop, monkeypatch):
    def set_to(zone: str, moment: datetime) -> None:
        shop.time_zone = zone
        shop.save()
        monkeypatch.setattr(timezone, "now", lambda: moment)

    return set_to


@pytest.mark.parametrize(("zone", "moment", "day"), some(MOMENTS, 4, "papers"))
def test_forms_events_and_papers_say_the_shops_day(as_role, shop, job, at, zone, moment, day):
    at(zone, moment)
    estimator = as_role("estimator")
    site = job.site_record
    form = estimator.get(f"/sites/{site.pk}/pumps/new/")
    assert f'value="{day}"' in form.text
    change(estimator, job, "note", "as of today")
    assert estimator.post(f"/jobs/{job.pk}/paper/issue/").status_code == 302
    paper = PdfReader(io.BytesIO(bytes(job.papers.get().pdf)))
    said = f"{day.day} {day:%b} {day.year}"
    assert said in paper.pages[0].extract_text()
    assert said in text_of(estimator.get(f"/jobs/{job.pk}/"))
    assert str(timezone.get_current_timezone()) == "UTC"  # nothing stays behind for the next


@pytest.mark.parametrize(("zone", "moment", "day"), MOMENTS)
def test_a_pump_that_goes_in_today_goes_in_on_the_shops_day(as_role, shop, at, zone, moment, day):
    at(zone, moment)
    owner, site = as_role("owner"), shop.sites.first()
    for late, status in ((0, 302), (2, 422)):  # tomorrow is let in, the day after is not
        sent = {"model": "K 1", "installed": str(day + timedelta(days=late))}
        assert owner.post(f"/sites/{site.pk}/pumps/new/", sent).status_code == status


@pytest.fixture
def owner(as_role):
    return as_role("owner")


@pytest.mark.parametrize(
    ("zone", "hours"),
    [
        ("UTC", [5]),
        ("Asia/Kolkata", [0]),  # half an hour off: 5 o'clock there begins at 23:30
        ("America/New_York", [9]),
        ("Europe/Berlin", [4]),  # the night in which the clock goes back: once
    ],
)
def test_mails_go_out_once_in_the_shops_morning(shop, settings, monkeypatch, zone, hours):
    settings.SENDS_MAIL = True
    user = shop.memberships.get(role="owner").user
    EmailAddress.objects.create(user=user, email="i@farshore.example", verified=True)
    shop.time_zone = zone
    shop.save()
    sent = []
    for hour in range(24):
        moment = datetime(2026, 10, 25, hour, 15, tzinfo=UTC)
        monkeypatch.setattr(timezone, "now", lambda moment=moment: moment)
        shop.installed.filter(state="running").first().reminders.create(
            text=f"hour {hour}", due=date(2026, 10, 26)
        )
        before = len(mail.outbox)
        reminders.tell_all(reminders.where_it_is_morning())
        sent += [hour] * (len(mail.outbox) - before)
    assert sent == hours


def test_a_zone_is_chosen_in_the_settings_and_nonsense_is_refused(owner, shop):
    page = owner.get("/settings/shop/")
    assert 'value="Pacific/Auckland"' in page.text
    answer = owner.post("/settings/shop/", {"time_zone": "Middle/Earth"})
    assert answer.status_code == 422
    assert "Select a valid choice" in text_of(answer)


# --- what is printed


def words_of(pdf: bytes) -> str:
    return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)


def test_a_label_holds_the_serial_number_and_long_words_break(shop):
    pump = shop.installed.exclude(serial="").first()
    pump.place = "Regenrückhaltebeckenentleerungspumpenschacht" * 2
    made = labels.sheet(shop, [pump], lambda one: "http://x.example/p/A/")
    page = PdfReader(io.BytesIO(made)).pages[0]
    assert pump.serial in page.extract_text()
    ends = []
    page.extract_text(visitor_text=lambda text, cm, tm, font, size: ends.append((text, tm[4])))
    widths = [x for text, x in ends if text.strip()]
    assert max(widths) < 90 * 72 / 25.4  # none begins beyond the label
    assert max(len(line) for line in page.extract_text().splitlines()) < 40  # beside the code


def test_a_paper_breaks_a_word_that_is_wider_than_its_column(estimator, job):
    change(estimator, job, "title", "x" * 180)
    estimator.post(f"/jobs/{job.pk}/paper/issue/")
    lines = words_of(bytes(job.papers.get().pdf)).split()
    runs = [one.count("x") for one in lines if "xxx" in one]
    assert sum(runs) >= 180
    assert max(runs) < 100


@pytest.mark.parametrize(
    ("typed", "printed"),
    [
        ("ring 🔔 first", "ring [bell] first"),
        ("👷🏽\u200d♀️ on site", "[construction worker] on site"),
        ("⚠ 230 V ✓", "⚠ 230 V ✓"),
    ],
)
def test_pictographs_print_by_their_names(typed, printed):
    assert emoji_named(typed).replace("♀\ufe0f", "") == printed
    assert printed[:6] in words_of(pdf_of_page(f"<p style='font-family: Archivo'>{typed}</p>"))


@pytest.mark.parametrize("name", ["מאיר הלוי", "ورشة النهر"])
def test_a_right_to_left_name_prints_with_letters_and_no_boxes(name):
    made = pdf_of_page(f"<link rel=stylesheet href=kyrtos/paper.css><h1>{name}</h1>")
    held = words_of(made)
    for word in name.split():
        assert word in held or word[::-1] in held or set(word) <= set(held)
