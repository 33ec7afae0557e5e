"""What a shop decides for its jobs: its house rules."""

from __future__ import annotations

from kyrtos.accounts.models import User
from kyrtos.house_rules.models import HouseRule
from kyrtos.house_rules.signals import rules_changed
from kyrtos.shops.models import Shop
from kyrtos.shops.services import system_of
from sizing.base.errors import SizingError
from sizing.base.rules import Rule, Rules, defaults


class RuleError(Exception):
    """A house rule that cannot be set; ``field`` is the form's field that is wrong."""

    def __init__(self, field: str, text: str) -> None:
        self.field = field
        super().__init__(text)


def rules_of(shop: Shop) -> Rules:
    """The house rules in force in a shop."""
    return Rules(dict(shop.house_rules.values_list("rule_id", "value_si")))


def search_rules(words: str) -> list[Rule]:
    """Rules whose id, use, parameter or reason holds every word; all rules for no word."""
    wanted = words.lower().split()
    return [
        rule
        for rule in defaults().values()
        if all(
            word in f"{rule.rule_id} {rule.application} {rule.parameter} {rule.reason}".lower()
            for word in wanted
        )
    ]


def set_rule(*, shop: Shop, user: User, rule: Rule, text: str, reason: str) -> HouseRule:
    """Put the house's own usual value over a rule, with the reason why.

    Raises
    ------
    RuleError
        A value that cannot be read or that must be a slip, no reason, or a rule in words only.
    """
    if not rule.numeric:
        raise RuleError("value", "This rule has no number to change.")
    try:
        value = rule.read(text, system_of(shop))
    except SizingError as problem:
        raise RuleError("value", str(problem)) from None
    if not reason.strip():
        raise RuleError(
            "reason", "Say why the house does otherwise: somebody will ask in two years."
        )
    made, _ = HouseRule.objects.update_or_create(
        shop=shop,
        rule_id=rule.rule_id,
        defaults={"value_si": value, "reason": reason.strip()[:240], "set_by": user},
    )
    rules_changed.send(HouseRule, shop=shop)
    return made


def clear_rule(*, shop: Shop, rule: Rule) -> None:
    """Go back to the value that ships."""
    shop.house_rules.filter(rule_id=rule.rule_id).delete()
    rules_changed.send(HouseRule, shop=shop)
