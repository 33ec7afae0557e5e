"""Pumps as a shop keeps them."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models

from kyrtos.shop.models import Shop


class Pump(models.Model):
    """One pump of one shop's catalogue; figures in SI, None where the maker does not say."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="pumps")
    pump_id = models.CharField(max_length=160)
    maker = models.CharField(max_length=80)
    model = models.CharField(max_length=80)
    family = models.CharField(max_length=24)
    flows_m3s = ArrayField(models.FloatField())
    heads_m = ArrayField(models.FloatField())
    powers_w = ArrayField(models.FloatField(), null=True)
    npsh_required_m = ArrayField(models.FloatField(), null=True)
    solids_m = models.FloatField(null=True)
    width_m = models.FloatField(null=True)
    height_m = models.FloatField(null=True)
    lowest_stop_m = models.FloatField(null=True)
    discharge = models.CharField(max_length=200, blank=True)
    voltage_v = models.FloatField(null=True)
    phases = models.PositiveSmallIntegerField(null=True)
    current_a = models.FloatField(null=True)
    motor_power_w = models.FloatField(null=True)
    hottest_c = models.FloatField(null=True)
    float_type = models.CharField(max_length=200, blank=True)
    drinking_water = models.BooleanField(default=False)
    noise_db = models.FloatField(null=True)
    price = models.FloatField(null=True)
    warranty_years = models.FloatField(null=True)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "pump_id"], name="one_pump_per_name")]
        indexes = [models.Index(fields=["shop", "family"])]
        ordering = ["maker", "model"]

    def __str__(self) -> str:
        return f"{self.maker} {self.model}"
