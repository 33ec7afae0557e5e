"""Pumps that stand somewhere: put in, events, reminders, readings, labels, lists."""

from __future__ import annotations

import io
import uuid
from datetime import date, datetime, timedelta

import pytest
from allauth.account.models import EmailAddress
from django.core import mail
from django.utils import timezone
from pypdf import PdfReader

from kyrtos.config import queue
from kyrtos.customers import merging
from kyrtos.demo import fleet
from kyrtos.installations import lists, pump_records, readings, reminders
from kyrtos.installations.models import InstalledPump, Reminder
from kyrtos.jobs import services as jobs
from kyrtos.paper import services as papers
from sizing.aftercare.commissioning import typed_readings
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_customers import picture


@pytest.fixture
def user(shop):
    return shop.memberships.get(role="technician").user


@pytest.fixture
def pump(shop):
    """The cellar's pump, read over four years."""
    return shop.installed.get(serial="VE220841")


@pytest.fixture
def bare(job):
    """A pump of which only the plate is known."""
    return job.shop.installed.create(site=job.site_record, maker="Nobody", model="X 9")


def test_what_was_sold_is_put_in_with_its_record_promise_and_reminders(shop, estimator, job):
    paper = papers.issue(job=job, user=shop.memberships.get(role="owner").user)
    where = f"/jobs/{job.pk}/put-in/"
    page = estimator.get(where).text
    assert 'value="Tarn 80"' in page
    posted = {"maker": "Vessmar", "model": "Tarn 80", "family": "sump", "serial": "N1"}
    posted |= {"installed": "2026-11-20", "warranty_until": "2029-11-20", "price": "243"}
    answer = estimator.post(where, posted)
    made = shop.installed.get(serial="N1")
    assert answer.url == f"/p/{made.code}/"
    assert (made.job, made.paper, made.site) == (job, paper, job.site_record)
    assert made.record["curve"]["heads_m"]
    promise = pump_records.promise_for(made)
    assert promise.flow_m3s > promise.needed_flow_m3s
    due = [one.due for one in made.reminders.all()]
    assert date(2029, 10, 21) in due  # a month before the warranty ends
    assert len(due) == 3
    assert "1 put in" in text_of(estimator.get(f"/jobs/{job.pk}/")).replace("2 put in", "1 put in")


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [
        ("installed", "1066-01-01", "cannot be"),
        ("installed", "soon", "valid date"),
        ("installed", "2090-01-01", "cannot be"),
        ("price", "-5", "out of range: 0 to 10000000"),
        ("price", "dear", "number"),
        ("hours_per_year", "9000", "8784"),
        ("model", "", "required"),
    ],
)
def test_nonsense_is_told_beside_its_field_and_nothing_is_lost(estimator, job, field, text, says):
    posted = {"maker": "Vessmar", "model": "Tarn 80", "serial": "KEEP"} | {field: text}
    answer = estimator.post(f"/sites/{job.site_record_id}/pumps/new/", posted)
    assert answer.status_code == 422
    assert f'id="{field}_error"' in answer.text
    assert says in answer.text
    assert 'value="KEEP"' in answer.text


def happen(client, pump, kind, on="2026-11-20", **more):
    return client.post(f"/p/{pump.code}/events/", {"kind": kind, "on": on, **more})


def test_events_end_and_mend_a_pump_and_the_list_of_causes_grows(estimator, pump):
    happen(estimator, pump, "failed", cause="ate a tennis ball", cost="0")
    pump.refresh_from_db()
    assert (pump.state, pump.ended, pump.cause) == (
        "failed",
        date(2026, 11, 20),
        "ate a tennis ball",
    )
    page = estimator.get(f"/p/{pump.code}/").text
    assert "Find its replacement" in page
    assert '<option value="ate a tennis ball">' in page
    happen(estimator, pump, "repaired", cost="45")
    pump.refresh_from_db()
    assert (pump.state, pump.ended, pump.cause) == ("running", None, "")


def test_an_event_sent_twice_is_one(estimator, pump):
    token = str(uuid.uuid4())
    for _ in range(2):
        happen(estimator, pump, "cleaned", token=token)
    assert pump.events.filter(kind="cleaned").count() == 1


@pytest.mark.parametrize(
    ("sent", "says"),
    [
        ({"kind": ""}, "event-kind_error"),
        ({"kind": "exploded"}, "event-kind_error"),
        ({"on": "3000-01-01"}, "event-on_error"),
        ({"cost": "-3"}, "event-cost_error"),
        ({"hours": "1e99"}, "event-hours_error"),
    ],
)
def test_a_wrong_event_is_told_beside_its_field(estimator, pump, sent, says):
    posted = {"kind": "serviced", "on": "2026-11-20", "text": "keep me"} | sent
    answer = estimator.post(f"/p/{pump.code}/events/", posted)
    assert answer.status_code == 422
    assert says in answer.text
    assert "keep me" in answer.text


def test_another_in_its_place_keeps_the_run_and_ends_the_old_one(estimator, shop, pump):
    where = f"/sites/{pump.site_id}/pumps/new/?instead={pump.code}&maker=Vessmar&model=Tarn+110"
    assert 'value="Tarn 110"' in estimator.get(where).text
    posted = {"maker": "Vessmar", "model": "Tarn 110", "serial": "N2", "installed": "2026-11-24"}
    estimator.post(where, posted)
    made = shop.installed.get(serial="N2")
    pump.refresh_from_db()
    assert (pump.state, pump.replaced_by) == ("out", made)
    assert pump_records.promise_for(made) == pump_records.promise_for(pump)
    assert not pump.reminders.filter(done=None).exists()


# --- reminders


@pytest.mark.parametrize(
    ("day", "months", "then"),
    [
        (date(2026, 1, 31), 1, date(2026, 2, 28)),
        (date(2024, 2, 29), 12, date(2025, 2, 28)),
        (date(2026, 11, 30), 3, date(2027, 2, 28)),
    ],
)
def test_months_later_is_a_day_that_there_is(day, months, then):
    assert pump_records.later(day, months) == then


def test_what_comes_round_is_due_again_and_a_season_keeps_its_month(pump):
    plain = Reminder.objects.create(pump=pump, text="look", due=date(2026, 3, 1), every_months=6)
    pump_records.done(plain, date(2026, 4, 10))
    assert pump.reminders.get(text="look", done=None).due == date(2026, 10, 10)
    text = "before frost: take it in or see that it lies deep"
    frost = Reminder.objects.create(pump=pump, text=text, due=date(2026, 10, 1), every_months=12)
    pump_records.done(frost, date(2026, 11, 15))
    assert pump.reminders.get(text=text, done=None).due == date(2027, 10, 1)


def test_by_running_hours_the_counter_says_when(estimator, pump):
    happen(estimator, pump, "serviced", "2026-01-01", hours="100")
    happen(estimator, pump, "serviced", "2026-04-11", hours="300")  # 2 h a day
    assert pump_records.hours_per_day(pump) == pytest.approx(2.0)
    estimator.post(f"/p/{pump.code}/reminders/", {"text": "new seal", "every_hours": "200"})
    made = pump.reminders.get(text="new seal")
    assert made.due == date.today() + timedelta(days=100)


def test_a_reminder_without_a_day_or_hours_is_told(estimator, pump):
    answer = estimator.post(f"/p/{pump.code}/reminders/", {"text": "something"})
    assert answer.status_code == 422
    assert "by which day" in answer.text


def test_this_month_shows_what_is_late_first_and_done_takes_it_off(estimator, shop):
    shown = estimator.get("/pumps/due/").context["rows"]
    assert shown
    assert list(shown) == sorted(shown, key=lambda one: (one.due, one.pk))
    first = shown[0]
    estimator.post(f"/p/{first.pump.code}/reminders/{first.pk}/", {"from": "due"})
    assert first.pk not in {one.pk for one in estimator.get("/pumps/due/").context["rows"]}


def test_owners_are_told_by_mail_each_thing_once(shop, settings):
    settings.SENDS_MAIL = True
    owner = shop.memberships.get(role="owner").user
    owner.email = "isolde@ilvermoor.example"
    owner.save()
    assert reminders.tell_all() == 0  # an address that nobody confirmed counts for nothing
    EmailAddress.objects.create(user=owner, email=owner.email, verified=True)
    assert reminders.tell_all() == 1
    assert "Due at pumps" in mail.outbox[0].body
    assert reminders.tell_all() == 0
    settings.SENDS_MAIL = False
    Reminder.objects.update(told=None)
    assert reminders.tell_all() == 0


# --- readings


def test_readings_are_kept_and_a_second_sending_is_the_same(estimator, pump):
    given = fleet.worn(pump, 0.0) | {"token": str(uuid.uuid4()), "handed_over": "1"}
    where = f"/p/{pump.code}/commission/"
    before = pump.readings.count()
    first, second = estimator.post(where, given), estimator.post(where, given)
    assert first.url == second.url
    assert pump.readings.count() == before + 1
    kept = pump.readings.first()
    assert kept.diagnosis == "as_predicted"
    assert pump.events.filter(kind="handed_over", text="as predicted").count() == 1
    page = text_of(estimator.get(first.url))
    assert "As predicted" in page
    assert "2B" in page


def test_a_blocked_valve_is_found_and_taken_into_the_job_as_built(estimator, shop, pump):
    curve, promise = readings.curve_and_promise(pump)
    flow = 0.75 * promise.flow_m3s
    head = float(curve.head_m(flow))
    given = blocked(pump, flow, head, float(curve.powers_at([flow])[0]))
    answer = estimator.post(f"/p/{pump.code}/commission/", given)
    kept = pump.readings.first()
    assert kept.diagnosis == "more_friction"
    assert kept.come["k_s2_m5"] == pytest.approx((head - promise.static_m) / flow**2, rel=2e-2)
    said = text_of(estimator.post(f"{answer.url}as-built/", follow=True))
    assert "as built" in said or "of its losses" in said
    content = jobs.current(pump.job)
    share = kept.come["k_s2_m5"] / promise.k_s2_m5
    assert content.as_built.si("ratio") == pytest.approx(share, abs=0.01)
    pump.site.refresh_from_db()
    assert pump.site.as_built[pump.kind] == content.as_built.text


def blocked(pump, flow, head, watts):
    from sizing.base.water import GRAVITY_M_S2
    from sizing.hydraulics.friction import velocity_head_m, velocity_m_s

    promise = pump_records.promise_for(pump)
    gauge = head - float(velocity_head_m(velocity_m_s(flow, promise.outlet_bore_m)))
    return {
        "flow": f"20 l in {0.02 / flow:.2f} s ± 2 %",
        "outlet": f"{promise.density_kg_m3 * GRAVITY_M_S2 * gauge / 1000:.2f} kPa ± 1 %",
        "volts": "230 V",
        "amps": f"{watts / (230 * 0.86):.3f} A ± 2 %",
        "factor": "0.86",
    }


def test_wear_is_followed_over_the_years(estimator, pump):
    shown = text_of(estimator.get(f"/p/{pump.code}/"))
    assert "It loses 3.0 % ± 0.5 % a year of its head" in shown
    assert "It will miss its duty in about" in shown
    found = readings.wear_over_years(pump)
    assert found.rate_per_year == pytest.approx(0.03, abs=0.002)  # what the fleet was made with


def test_with_too_few_readings_nothing_is_foretold(estimator, pump):
    pump.readings.exclude(pk__in=pump.readings.values("pk")[:2]).delete()
    assert "No trend yet" in text_of(estimator.get(f"/p/{pump.code}/"))


def test_of_a_plate_alone_readings_are_kept_and_not_compared(estimator, bare, pump):
    answer = estimator.post(f"/p/{bare.code}/commission/", fleet.worn(pump, 0.0))
    page = text_of(estimator.get(answer.url))
    assert "nothing was promised of its run" in page
    assert bare.readings.get().typed["volts"] == "230 V"


@pytest.mark.parametrize("given", [{}, {"flow": "much"}, {"outlet": "1 bar ± 9 bar"}])
def test_readings_that_cannot_be_are_told_and_not_kept(estimator, pump, given):
    before = pump.readings.count()
    answer = estimator.post(f"/p/{pump.code}/commission/", given)
    assert answer.status_code == 422
    assert "Nothing was kept" in answer.text
    assert pump.readings.count() == before


@pytest.mark.parametrize("at", ["2026-11-25T10:00:00.000Z", "nonsense", "2999-01-01T00:00:00Z", ""])
def test_when_it_was_read_comes_from_the_phone_where_that_can_be(estimator, pump, at):
    estimator.post(f"/p/{pump.code}/commission/", fleet.worn(pump, 0.0) | {"at": at})
    on = pump.readings.order_by("-pk").first().on
    assert (on.date() == date(2026, 11, 25)) is at.startswith("2026")
    assert on.year < 2999


@pytest.mark.parametrize(
    ("told", "on"),
    [
        ("2026-11-20T07:15", datetime(2026, 11, 20, 7, 15)),
        ("2024-05-14", datetime(2024, 5, 14, 12, 0)),
        ("14.05.2024 16:40", datetime(2024, 5, 14, 16, 40)),
    ],
)
def test_a_reading_has_its_own_day_and_hour(estimator, pump, told, on):
    sent = fleet.worn(pump, 0.0) | {"read_at": told, "at": "2026-11-25T10:00:00.000Z"}
    assert estimator.post(f"/p/{pump.code}/commission/", sent).status_code == 302
    kept = pump.readings.order_by("-pk").first()
    assert timezone.localtime(kept.on).replace(tzinfo=None) == on


def test_what_a_phone_kept_for_the_old_address_is_still_taken(estimator, pump):
    before = pump.readings.count()
    assert estimator.get(f"/p/{pump.code}/readings/").status_code == 200
    sent = fleet.worn(pump, 0.0)
    assert estimator.post(f"/p/{pump.code}/readings/", sent).status_code == 302
    assert pump.readings.count() == before + 1


@pytest.mark.parametrize("told", ["soon", "2999-01-01T00:00", "1900-01-01", "2026-13-01"])
def test_a_moment_that_cannot_be_is_told_beside_it_and_kept_as_typed(estimator, pump, told):
    before = pump.readings.count()
    answer = estimator.post(
        f"/p/{pump.code}/commission/", fleet.worn(pump, 0.0) | {"read_at": told}
    )
    assert answer.status_code == 422
    assert f'value="{told}" aria-invalid="true"' in answer.text
    assert pump.readings.count() == before


def test_only_looking_leaves_no_token_in_the_address(estimator, pump):
    sent = fleet.worn(pump, 0.0) | {"do": "compare", "token": str(uuid.uuid4())}
    before = pump.readings.count()
    answer = estimator.post(f"/p/{pump.code}/commission/", sent)
    assert answer.status_code == 302
    assert "token" not in answer.url
    assert "flow=" in answer.url
    assert pump.readings.count() == before
    assert "predicted" in estimator.get(answer.url).text


def table_of(pump, *shares):
    rows = [fleet.worn(pump, share) for share in shares]
    names = [name for name in rows[0] if name in typed_readings.FIELDS]
    lines = [
        ";".join([f"{2019 + number}-06-01", *(row[name] for name in names)])
        for number, row in enumerate(rows)
    ]
    return "\n".join([";".join(["date", *names]), *lines])


def test_readings_of_before_come_as_a_table_once_and_make_the_trend(estimator, pump):
    pump.readings.all().delete()
    at, sent = f"/p/{pump.code}/readings/before/", {"rows": table_of(pump, 0.0, 0.03, 0.06, 0.09)}
    assert estimator.post(at, sent).status_code == 302
    assert [one.on.year for one in pump.readings.order_by("on")] == [2019, 2020, 2021, 2022]
    assert "4 were there already" in text_of(estimator.post(at, sent, follow=True))
    assert pump.readings.count() == 4
    assert "It loses" in text_of(estimator.get(f"/p/{pump.code}/"))


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ("", "empty"),
        ("flow;watts\n1;2", "no date"),
        ("date;colour\n2024-05-14;red", "no column is called colour"),
        ("date;watts\n2024-05-14;620\n2024-05-15;much", "line 3: watts"),
        ("date;watts\n2999-05-14;620", "line 2"),
        ("date;watts\n2024-05-14;", "no reading in it"),
    ],
)
def test_a_table_with_one_bad_row_is_told_by_line_and_none_is_kept(estimator, pump, rows, says):
    before = pump.readings.count()
    answer = estimator.post(f"/p/{pump.code}/readings/before/", {"rows": rows})
    assert answer.status_code == 422
    assert says in text_of(answer)
    assert pump.readings.count() == before


# --- labels and lists


def test_a_label_names_the_pump_and_a_sheet_holds_all(estimator, pump):
    one = PdfReader(io.BytesIO(estimator.get(f"/p/{pump.code}/label.pdf").content))
    assert len(one.pages) == 1
    text = one.pages[0].extract_text()
    assert f"{pump.code[:4]} {pump.code[4:]}" in text
    assert "Tarn 80" in text
    sheet = PdfReader(io.BytesIO(estimator.get("/pumps/labels.pdf?q=harrowick+w").content))
    assert len(sheet.pages) >= 1
    assert sum(page.extract_text().count("Harrowick") for page in sheet.pages) > 5


def test_out_as_a_table_and_in_again_nothing_is_doubled(estimator, shop):
    content = estimator.get("/pumps.csv").content
    count = shop.installed.count()
    assert len(lists.read(content)) == count
    assert lists.take_in(shop, content).new == 0
    book = estimator.get("/pumps.xlsx").content
    shop.installed.all().delete()
    taken = lists.take_in(shop, book)
    assert (taken.new, taken.left) == (count, [])
    assert shop.installed.filter(state="failed").count() > 100


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("Hall,,", "site and model"),
        ("Hall,K 7,soon", "no day"),
        ("Hall,K 7,2020-01-01,lost", "state 'lost'"),
        ("Hall,K 7,2020-01-01,failed,2019-01-01", "before it went in"),
        ("Hall,K 7,2020-01-01,running,,-4", "price: -4 is out of range: 0 to 10000000"),
    ],
)
def test_a_row_that_cannot_be_is_left_out_and_told(shop, row, says):
    head = b"site,model,installed,state,ended,price\n"
    taken = lists.take_in(shop, head + row.encode())
    assert taken.new == 0
    assert "line 2" in taken.left[0]
    assert says in taken.left[0]


def test_a_table_without_its_headings_is_told(estimator):
    sent = io.BytesIO(b"pump,where\nK 7,hall\n")
    sent.name = "pumps.csv"
    answer = estimator.post("/pumps/import/", {"file": sent})
    assert answer.status_code == 422
    assert "no column called site" in answer.text


@pytest.mark.parametrize("words", ["VE220841", "tarn 80", "pell sorrow", "tanner", "left of"])
def test_a_pump_is_found_by_anything(estimator, pump, words):
    assert pump.code in estimator.get("/pumps/", {"q": words}).text
    assert pump.code in estimator.get("/pumps/", {"q": pump.code.lower()}).text


def test_merged_sites_take_their_pumps_along(shop, pump):
    other = shop.sites.create(name="Same place", customer=pump.site.customer)
    merging.merge_sites(other, pump.site)
    pump.refresh_from_db()
    assert pump.site == other


def test_a_pump_of_another_shop_is_not_there(as_role, pump):
    assert as_role("stranger").get(f"/p/{pump.code}/").status_code == 404


def test_an_installed_pump_keeps_its_curve_when_the_catalogue_forgets(shop, pump):
    shop.pumps.all().delete()
    assert (
        pump_records.pump_of_record(InstalledPump.objects.get(pk=pump.pk)).name == "Vessmar Tarn 80"
    )


def test_the_worker_is_versioned_and_keeps_nothing_of_anyone(client):
    text = client.get("/p/worker.js").text
    assert '"version": "' in text
    for word in ("csrf", "customer", "Ilvermoor"):
        assert word not in text


def test_the_devices_fill_the_same_fields_and_say_when_no_pump_runs(estimator, pump, monkeypatch):
    now = {"level_m": 0.3, "flow_m3h": 7.2, "pressure_bar": 0.85, "power_w": None}
    monkeypatch.setattr(readings.devices, "now", lambda: now)
    page = estimator.get(f"/p/{pump.code}/commission/", {"devices": "1"}).text
    assert 'value="7.200 m3/h ± 3 %"' in page
    assert 'value="0.850 bar ± 0.02 bar"' in page
    now["flow_m3h"] = 0.0
    shown = estimator.get(f"/p/{pump.code}/commission/", {"devices": "1", "volts": "231 V"})
    assert "no pump runs" in shown.text.lower()
    assert 'value="231 V"' in shown.text
    monkeypatch.undo()
    shown = estimator.get(f"/p/{pump.code}/commission/", {"devices": "1"})
    assert shown.status_code == 200
    assert "no device answers" in shown.text.lower()


def test_the_next_sizing_of_the_site_starts_from_the_run_as_built(shop, pump, user):
    pump.site.as_built = {"sump": "118 % ± 6 %"}
    pump.site.save()
    told = {"kind_code": "sump", "title": "Again"}
    names = {"customer": pump.site.customer.name, "site": pump.site.name}
    made = jobs.create(shop=shop, user=user, **told, **names)
    assert jobs.current(made).as_built.text == "118 % ± 6 %"
    other = jobs.create(shop=shop, user=user, kind_code="sewage", title="Other", **names)
    assert jobs.current(other).as_built is None


def test_turns_are_shown_beside_those_of_the_record(estimator, pump):
    given = fleet.worn(pump, 0.0) | {"turns": "2700"}
    assert "turns a minute" in text_of(estimator.get(f"/p/{pump.code}/commission/", given))


def test_a_pump_that_stands_for_years_is_due_from_now_on(shop, job):
    draft = InstalledPump(shop=shop, site=job.site_record, maker="Vessmar", model="Tarn 80")
    draft.installed, draft.warranty_until = date(2012, 5, 3), date(2014, 5, 3)
    made = pump_records.put_in(draft)
    assert made.reminders.count() == 2
    assert all(one.due >= date.today() for one in made.reminders.all())


def test_a_photo_of_its_plate_is_kept_with_its_site_and_shown(estimator, pump):
    sent = io.BytesIO(picture(600, 400))
    sent.name = "plate.jpg"
    assert estimator.post(f"/p/{pump.code}/plate/", {"file": sent}).status_code == 302
    pump.refresh_from_db()
    assert pump.plate.place == "plate"
    assert f"/sites/files/{pump.plate_id}/" in estimator.get(f"/p/{pump.code}/").text
    for wrong in ({}, {"file": io.BytesIO(b"no picture")}):
        answer = estimator.post(f"/p/{pump.code}/plate/", wrong)
        assert answer.status_code == 422
        assert "Not kept" in answer.text


def test_another_model_that_was_meant_brings_its_own_record(estimator, pump):
    posted = {"maker": "Vessmar", "model": "Tarn 110", "installed": "2022-11-08"}
    estimator.post(f"/p/{pump.code}/change/", posted)
    pump.refresh_from_db()
    assert pump_records.pump_of_record(pump).name == "Vessmar Tarn 110"
    estimator.post(f"/p/{pump.code}/change/", posted | {"model": "nobody knows"})
    pump.refresh_from_db()
    assert (pump.record, pump.pump_id) == (None, "")


def test_who_is_taken_out_is_not_named_at_their_pumps_either(as_role, pump):
    customer = pump.site.customer
    pump.events.create(kind="noted", on=date(2026, 11, 1), text=f"{customer.name} rang")
    pump.settings = f"key with {customer.name}"
    pump.save()
    as_role("owner").post(f"/customers/{customer.pk}/forget/", {"sure": "on"})
    queue.run_held()
    pump.refresh_from_db()
    said = [pump.settings, *pump.events.values_list("text", flat=True)]
    assert not any(customer.name in one for one in said)
    assert any("rang" in one for one in said)
