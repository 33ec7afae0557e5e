import pytest
from django.test import Client

from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, defaults


@pytest.fixture
def owner(as_role):
    return as_role("owner")


def test_the_owner_puts_the_houses_own_value_over_a_rule(owner, shop, job):
    assert (
        owner.post(
            "/rules/CYC-01/", {"usual": "6 per hour", "reason": "hard water here"}
        ).status_code
        == 302
    )
    held = shop.house_rules.get(rule_id="CYC-01")
    assert (held.value_si, held.reason, held.set_by.username) == (
        pytest.approx(6 / 3600),
        "hard water here",
        "isolde",
    )
    page = owner.get("/rules/").content.decode()
    assert page.index("CYC-01") < page.index("VEL-01"), "the house's own rules come first"
    assert "6.0/h is usual" in owner.get(f"/jobs/{job.pk}/").content.decode()


def test_setting_again_replaces_and_clearing_goes_back(owner, shop):
    for value in ("6", "8"):
        owner.post("/rules/CYC-01/", {"usual": value, "reason": "x"})
    assert shop.house_rules.get().value_si == pytest.approx(8 / 3600)
    owner.post("/rules/CYC-01/", {"clear": "1"})
    assert not shop.house_rules.exists()


BAD = [
    ("CYC-01", {"usual": "many", "reason": "x"}, "holds no number"),
    ("CYC-01", {"usual": "6 gpm", "reason": "x"}, "unit of flow"),
    ("CYC-01", {"usual": "6000", "reason": "x"}, "far from the trade"),
    ("CYC-01", {"usual": "", "reason": "x"}, "Give a value, or go back"),
    ("CYC-01", {"usual": "6", "reason": "  "}, "Say why"),
    ("BAS-12", {"usual": "6", "reason": "x"}, "Good to know: nothing is decided"),
]


@pytest.mark.parametrize(("rule_id", "typed", "says"), BAD)
def test_a_bad_value_is_told_and_what_was_typed_stays(owner, shop, rule_id, typed, says):
    answer = owner.post(f"/rules/{rule_id}/", typed)
    assert answer.status_code == 422
    assert not shop.house_rules.exists()
    assert says in answer.content.decode()
    if rule_id != "BAS-12" and typed["usual"]:
        assert f'value="{typed["usual"]}"' in answer.content.decode()


def test_only_the_owner_sets_rules(estimator, shop):
    assert estimator.post("/rules/CYC-01/", {"usual": "6", "reason": "x"}).status_code == 403
    assert "The owner of the shop sets them" in estimator.get("/rules/CYC-01/").content.decode()


def test_rules_are_found_by_words(owner):
    found = {line.rule.rule_id for line in owner.get("/rules/?q=sump+starts").context["binding"]}
    assert "CYC-01" in found
    assert "VEL-01" not in found
    assert "No rule holds" in owner.get("/rules/?q=zebra").content.decode()


def test_disagreement_and_confidence_are_not_hidden(owner):
    text = owner.get("/rules/CYC-01/").content.decode()
    assert "Schools disagree" in text
    assert "Makers state from 10 to 60 starts per hour" in text


@pytest.mark.parametrize("rule_id", sorted(defaults()))
def test_every_rule_with_a_number_reads_back_what_it_shows(rule_id):
    rule = SHIPPED.rule(rule_id)
    for system in ("metric", "us"):
        shown = rule.shown(rule.typical_si, system)
        if rule.typical_si is not None and rule.dimension:
            assert rule.read(shown, system) == pytest.approx(rule.typical_si, rel=0.06, abs=1e-9)


def test_a_rule_refuses_a_slip():
    with pytest.raises(SizingError, match="must lie between"):
        SHIPPED.rule("VEL-12").read("122", "metric")


def test_low_and_high_can_be_set_where_they_decide(owner, shop, job):
    text = owner.get("/rules/VEL-12/").content.decode()
    assert 'name="low"' in text
    assert 'name="usual"' not in text
    assert owner.post("/rules/VEL-12/", {"high": "1 m/s", "reason": "hammer"}).status_code == 302
    assert "to 1.00" in owner.get(f"/jobs/{job.pk}/").content.decode().replace("\u00a0", " ")
    assert "high 1.00" in owner.get("/rules/").content.decode().replace("\u00a0", " ")
    wrong = owner.post("/rules/VEL-12/", {"low": "2 m/s", "high": "1 m/s", "reason": "x"})
    assert "must stand in that order" in wrong.content.decode()


def test_what_decides_nothing_is_shown_apart(owner):
    context = owner.get("/rules/").context
    assert not {line.rule.rule_id for line in context["good_to_know"]} & {
        line.rule.rule_id for line in context["binding"]
    }
    assert all(line.rule.decides for line in context["binding"])


def test_a_default_comes_from_the_house_rule(owner, estimator, shop, job):
    undercroft = shop.jobs.get(title="Chandler's undercroft")
    owner.post("/rules/SMP-05/", {"usual": "1.8", "reason": "wet cellars"})
    text = estimator.get(f"/jobs/{undercroft.pk}/").content.decode()
    assert 'data-path="answers.margin" value="1.8 ×"' in text
    assert "1.8" in estimator.get(f"/jobs/{undercroft.pk}/").content.decode()


def test_the_form_carries_its_token(shop):
    """Django's test client forgives a form without one; a browser does not."""
    client = Client(enforce_csrf_checks=True)
    client.force_login(shop.memberships.get(role="owner").user)
    page = client.get("/rules/CYC-01/").content.decode()
    token = page.split('name="csrfmiddlewaretoken" value="')[-1].split('"')[0]
    sent = {"usual": "6", "reason": "x", "csrfmiddlewaretoken": token}
    assert page.count("csrfmiddlewaretoken") == 2  # of the form, and of signing out
    assert client.post("/rules/CYC-01/", sent).status_code == 302
