"""What a shop decides for its jobs."""

from __future__ import annotations

from kyrtos.shop.models import Shop
from sizing.rules import Rules


def rules_of(shop: Shop) -> Rules:
    """The house rules in force in a shop."""
    return Rules(dict(shop.house_rules.values_list("rule_id", "value_si")))
