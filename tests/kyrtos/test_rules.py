import pytest

from sizing.base.errors import SizingError
from sizing.base.rules import SHIPPED, defaults


@pytest.fixture
def owner(as_role):
    return as_role("owner")


def test_the_owner_puts_the_houses_own_value_over_a_rule(owner, shop, job):
    assert (
        owner.post(
            "/rules/CYC-01/", {"value": "6 per hour", "reason": "hard water here"}
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
        owner.post("/rules/CYC-01/", {"value": value, "reason": "x"})
    assert shop.house_rules.get().value_si == pytest.approx(8 / 3600)
    owner.post("/rules/CYC-01/", {"clear": "1"})
    assert not shop.house_rules.exists()


BAD = [
    ("CYC-01", {"value": "many", "reason": "x"}, "holds no number"),
    ("CYC-01", {"value": "6 gpm", "reason": "x"}, "unit of flow"),
    ("CYC-01", {"value": "6000", "reason": "x"}, "far from the trade"),
    ("CYC-01", {"value": "", "reason": "x"}, "nothing is written"),
    ("CYC-01", {"value": "6", "reason": "  "}, "Say why"),
    ("BAS-12", {"value": "6", "reason": "x"}, "no number to change"),
]


@pytest.mark.parametrize(("rule_id", "typed", "says"), BAD)
def test_a_bad_value_is_told_and_what_was_typed_stays(owner, shop, rule_id, typed, says):
    answer = owner.post(f"/rules/{rule_id}/", typed)
    assert answer.status_code == 422
    assert not shop.house_rules.exists()
    if rule_id != "BAS-12":
        assert says in answer.content.decode()
        assert f'value="{typed["value"]}"' in answer.content.decode()


def test_only_the_owner_sets_rules(estimator, shop):
    assert estimator.post("/rules/CYC-01/", {"value": "6", "reason": "x"}).status_code == 403
    assert "The owner of the shop sets it" in estimator.get("/rules/CYC-01/").content.decode()


def test_rules_are_found_by_words(owner):
    found = {line["rule"].rule_id for line in owner.get("/rules/?q=sump+starts").context["lines"]}
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
        if rule.numeric and rule.dimension:
            assert rule.read(shown, system) == pytest.approx(rule.typical_si, rel=0.06, abs=1e-9)


def test_a_rule_refuses_a_slip():
    with pytest.raises(SizingError, match="must lie between"):
        SHIPPED.rule("VEL-12").read("122", "metric")
