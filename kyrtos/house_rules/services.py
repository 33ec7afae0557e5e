"""What a shop decides for its jobs: its house rules."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

from kyrtos.accounts.models import User
from kyrtos.house_rules.models import HouseRule
from kyrtos.house_rules.signals import rules_changed
from kyrtos.shops.models import Shop
from sizing.base.errors import SizingError
from sizing.base.numbers import as_kept
from sizing.base.rules import PARTS, Part, Rule, Rules, defaults
from sizing.base.units import System


class RuleError(Exception):
    """A house rule that cannot be set; ``field`` is the form's field that is wrong."""

    def __init__(self, field: str, text: str) -> None:
        self.field = field
        super().__init__(text)


def rules_of(shop: Shop) -> Rules:
    """The house rules in force in a shop."""
    return Rules({house.rule_id: house.override for house in shop.house_rules.all()})


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


def set_rule(
    *,
    shop: Shop,
    user: User,
    rule: Rule,
    texts: Mapping[str, str],
    reason: str,
    system: System,
) -> HouseRule:
    """Put the house's own values over a rule, with the reason why; a blank leaves the trade's.

    Parameters
    ----------
    texts : what was typed, by part: those of ``rule.parts`` count.

    Raises
    ------
    RuleError
        A value that cannot be read or that must be a slip, values out of order, none at all, no
        reason, or a rule that decides nothing.
    """
    if not rule.binds:
        raise RuleError("usual", "This rule is good to know: nothing is decided by it.")
    own = {part: _own(rule, part, texts.get(part, ""), system) for part in rule.parts}
    if all(value is None for value in own.values()):
        raise RuleError(_first(rule), "Give a value, or go back to the trade's.")
    _in_order(rule, own)
    if not reason.strip():
        raise RuleError(
            "reason", "Say why the house does otherwise: somebody will ask in two years."
        )
    made, _ = HouseRule.objects.update_or_create(
        shop=shop,
        rule_id=rule.rule_id,
        defaults={
            "low_si": own.get("low"),
            "value_si": own.get("usual"),
            "high_si": own.get("high"),
            "reason": reason.strip(),
            "set_by": user,
        },
    )
    rules_changed.send(HouseRule, shop=shop)
    return made


def _first(rule: Rule) -> Part:
    return next(part for part in PARTS if part in rule.parts)


def _own(rule: Rule, part: Part, text: str, system: System) -> float | None:
    """One value as typed; None where it is blank, or what the trade says anyway."""
    if not text.strip() or text.strip() == rule.shown(rule.part(part), system):
        return None
    try:
        return rule.read(as_kept(text), system)
    except SizingError as problem:
        raise RuleError(part, str(problem)) from None


def _in_order(rule: Rule, own: Mapping[Part, float | None]) -> None:
    """Those that decide must stand in order, with the trade's where the house has none."""
    standing = [(part, own.get(part) or rule.part(part)) for part in PARTS if part in rule.parts]
    known = [(part, value) for part, value in standing if value is not None]
    for (_, before), (part, after) in pairwise(known):
        if after < before:
            wrong = part if own.get(part) is not None else _first(rule)
            raise RuleError(wrong, "Low, usual and high must stand in that order.")


def clear_rule(*, shop: Shop, rule: Rule) -> None:
    """Go back to the value that ships."""
    shop.house_rules.filter(rule_id=rule.rule_id).delete()
    rules_changed.send(HouseRule, shop=shop)
