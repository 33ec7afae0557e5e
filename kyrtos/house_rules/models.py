"""A house's own values for rules."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from kyrtos.shops.models import Shop
from sizing.base.rules import Override, Part


class HouseRule(models.Model):
    """A shop's own values for a rule, in SI, with who says so and why; None leaves the trade's."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="house_rules")
    rule_id = models.CharField(max_length=24)
    low_si = models.FloatField(null=True)
    value_si = models.FloatField(null=True)  # the usual value
    high_si = models.FloatField(null=True)
    reason = models.CharField(max_length=240)
    set_on = models.DateField(auto_now=True)
    set_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        app_label = "shop"  # its table was made under that name
        constraints = [
            models.UniqueConstraint(fields=["shop", "rule_id"], name="one_house_rule_per_rule")
        ]

    @property
    def override(self) -> Override:
        """Its values over the trade's."""
        return Override(self.low_si, self.value_si, self.high_si)

    def part(self, name: Part) -> float | None:
        """One of its values; None where it leaves the trade's."""
        return {"low": self.low_si, "usual": self.value_si, "high": self.high_si}[name]

    def __str__(self) -> str:
        return f"{self.rule_id} of {self.shop}"
