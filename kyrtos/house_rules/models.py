"""A house's own values for rules."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from kyrtos.shops.models import Shop


class HouseRule(models.Model):
    """A shop's own usual value for a rule, in SI, with who says so and why."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="house_rules")
    rule_id = models.CharField(max_length=24)
    value_si = models.FloatField()
    reason = models.CharField(max_length=240)
    set_on = models.DateField(auto_now=True)
    set_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        app_label = "shop"  # its table was made under that name
        constraints = [
            models.UniqueConstraint(fields=["shop", "rule_id"], name="one_house_rule_per_rule")
        ]

    def __str__(self) -> str:
        return f"{self.rule_id} = {self.value_si}"
