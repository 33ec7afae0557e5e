"""The counter's screen: whatever is known, answered at once; sized properly; sold and put in."""

from __future__ import annotations

import re

import pytest

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from tests.kyrtos.reading import text_of

PLATE = {"maker": "Ondrath", "model": "K 11", "lift": "4 m", "length": "12 m", "bore": "40 mm"}


def ask(client, **given):
    return client.get("/counter/", given)


def test_nothing_known_is_no_error(estimator):
    page = ask(estimator)
    assert page.status_code == 200
    assert "Half a plate is enough" in text_of(page)


def test_half_a_plate_gives_the_pump_its_duty_and_its_life_here(estimator):
    shown = text_of(ask(estimator, **PLATE))
    assert "Ondrath K 11. This model lasts" in shown
    assert "its curve on its run" in shown
    assert "too big for the lift" in shown
    assert "check valve" in shown


@pytest.mark.parametrize("text", ["much", "-4", "1e400", "0 °C", "<b>", "9" * 70])
@pytest.mark.parametrize(
    "field", ["volts", "amps", "hertz", "power", "bolts", "lift", "flow", "age", "rpm", "factor"]
)
def test_nonsense_stands_beside_its_field_and_the_rest_answers(estimator, field, text):
    answer = ask(estimator, **PLATE | {field: text})
    assert answer.status_code == 422
    assert answer.text.count('aria-invalid="true"') == 1
    assert f'id="{field}-say"' in answer.text
    assert "It is" in text_of(answer)
    assert 'value="K 11"' in answer.text


@pytest.mark.parametrize(
    ("age", "years"), [("2020", 6), ("7 years", 7), ("2.5", 2.5), ("3 y", 3), ("18 months", 1.5)]
)
def test_an_age_is_a_year_or_years(age, years):
    from datetime import date

    from kyrtos.counter.forms import read

    assert read({"age": age}, "metric", date(2026, 11, 27)).old.age_years == years


def test_sizes_of_ports_come_back_as_typed_beside_what_was_seen(estimator):
    """They went by the names of the clues of the family, and were lost."""
    told = {"inlet_size": "2 in", "outlet_size": "1-1/4 in", "inlet": "flange", "outlet": "large"}
    shown = ask(estimator, **PLATE, **told)
    assert 'name="inlet_size"\n  value="2 in"' in shown.text
    form = shown.text.partition('id="counter"')[2].partition("</form>")[0]
    names = re.findall(r'<(?:input|select)[^>]* name="([^"]+)"', form)
    assert len(names) == len(set(names))
    assert "1-1/4 in was: a reducer" in text_of(shown)


def test_what_is_sold_leads_to_a_site_and_is_put_in_there(estimator, shop, as_role):
    shown = ask(estimator, **PLATE)
    (at,) = set(re.findall(r'href="(/counter/sold/\?maker=Ondrath&amp;model=K\+11)"', shown.text))
    page = estimator.get(at.replace("&amp;", "&"), {"q": "pell"} | {"maker": "O", "model": "K 11"})
    (to,) = re.findall(r'href="(/sites/\d+/pumps/new/\?[^"]+)"', page.text)
    form = estimator.get(to.replace("&amp;", "&"))
    assert 'value="K 11"' in form.text
    nowhere = estimator.get("/counter/sold/", {"q": "nobody"})
    assert "No site of that name" in nowhere.text
    assert as_role("viewer").get("/counter/sold/").status_code == 403


def test_half_a_name_is_no_name(estimator):
    assert "It is" not in text_of(ask(estimator, model="K")).replace("What it is", "")


def test_what_was_seen_narrows_the_family(estimator):
    shown = text_of(ask(estimator, stands="beside", inlet="flange", volts="230", amps="7.4"))
    assert "spa pump" in shown
    assert "grinder" not in shown.split("Power")[0].split("Family")[-1].replace("(", "")


def test_a_full_sizing_takes_the_facts_over(estimator, shop):
    given = PLATE | {"volts": "230", "for": "sump", "solids": "9 mm"}
    answer = estimator.post("/counter/size/", given)
    made = Job.objects.get(title="In the place of Ondrath K 11")
    assert answer.url == f"/jobs/{made.pk}/"
    content = services.current(made)
    assert content.answers["voltage"].si("voltage") == 230
    assert content.answers["largest_solid"].si("size") == pytest.approx(0.009)
    assert content.legs[-1].ends_at.si("length") == 4.0
    assert "Ondrath" in content.note


def test_an_installed_pump_that_failed_fills_the_counter_in(estimator, shop):
    pump = shop.installed.get(serial="VE220841")
    shown = ask(estimator, pump=pump.code)
    text = text_of(shown)
    assert "what is on record is filled in" in text
    assert "the same pump" in text or "the same again" in text
    assert f"instead={pump.code}" in shown.text
    assert estimator.get("/counter/?pump=NOSUCH12").status_code == 200


def test_in_us_units_bare_figures_are_feet_and_inches(estimator, shop):
    shop.memberships.filter(role="estimator").update(units="us")
    shown = text_of(ask(estimator, **PLATE | {"lift": "13", "length": "40", "bore": "1.5"}))
    assert "gpm" in shown
    assert "its curve on its run" in shown


def test_another_lift_than_the_old_runs_is_believed(estimator, shop):
    pump = shop.installed.get(serial="VE220841")
    as_it_was = ask(estimator, pump=pump.code).context["view"].duty
    higher = ask(estimator, pump=pump.code, lift="9 m", length="40 m", bore="40 mm")
    assert higher.context["view"].duty != as_it_was
