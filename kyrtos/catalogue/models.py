"""Pumps as a shop keeps them."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models.functions import Upper

from kyrtos.shops.models import Shop
from kyrtos.shops.one_line import OneLine


class CatalogueEntry(models.Model):
    """One pump of one shop's catalogue; figures in SI, None where the maker does not say."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="pumps")
    pump_id = models.CharField(
        max_length=160
    )  # in addresses and job files; never changed, never shared
    identity = models.CharField(
        max_length=400
    )  # maker, model and variant as typed, but for case and spaces
    maker = OneLine(max_length=80)
    model = OneLine(max_length=80)
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
    drinking_water = models.BooleanField(null=True)
    least_flow_m3s = models.FloatField(null=True)
    most_starts_per_s = models.FloatField(null=True)
    least_run_s = models.FloatField(null=True)
    frequency_hz = models.FloatField(null=True)
    also_hz = models.FloatField(null=True)
    noise_db = models.FloatField(null=True)
    price = models.FloatField(null=True)
    warranty_years = models.FloatField(null=True)
    note = models.CharField(max_length=200, blank=True)
    suction = models.CharField(max_length=200, blank=True)
    length_m = models.FloatField(null=True)
    slowest_speed = models.FloatField(null=True)
    control = models.CharField(max_length=200, blank=True)
    materials = models.CharField(max_length=200, blank=True)
    seal = models.CharField(max_length=200, blank=True)
    elastomers = models.CharField(max_length=200, blank=True)
    stock = models.FloatField(null=True)
    lead_days = models.FloatField(null=True)
    discontinued = models.BooleanField(default=False)
    successor = models.CharField(max_length=200, blank=True)
    variant = models.CharField(max_length=200, blank=True)
    impeller_m = models.FloatField(null=True)
    speed_rpm = models.FloatField(null=True)
    bearings = models.CharField(max_length=200, blank=True)
    aside = models.CharField(
        max_length=500, blank=True
    )  # why it is kept aside and not chosen from; '' when it is not
    archived = models.BooleanField(default=False)  # put away: kept, but not chosen from or listed
    merged_into = models.CharField(max_length=160, blank=True)  # id of the pump that stands for it

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shop", "pump_id"], name="one_pump_per_name"),
            models.UniqueConstraint(fields=["shop", "identity"], name="one_pump_per_identity"),
        ]
        indexes = [
            models.Index(fields=["shop", "family", "maker", "model", "variant"]),
            models.Index(fields=["shop", "maker", "model", "variant"]),
            models.Index(fields=["shop"], condition=~models.Q(aside=""), name="pumps_kept_aside"),
            models.Index(fields=["shop"], condition=models.Q(archived=True), name="pumps_archived"),
            # Search by parts of words: letters in threes, as the case-blind comparison asks for
            # them.
            GinIndex(OpClass(Upper("maker"), name="gin_trgm_ops"), name="pump_maker_trigrams"),
            GinIndex(OpClass(Upper("model"), name="gin_trgm_ops"), name="pump_model_trigrams"),
        ]
        ordering = ["maker", "model", "variant"]

    def __str__(self) -> str:
        return ", ".join(filter(None, (f"{self.maker} {self.model}", self.variant)))


class PriceNote(models.Model):
    """A pump's price from a moment on; None where it was taken away."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="prices")
    pump_id = models.CharField(max_length=160)  # not a key: an undone import makes its rows anew
    price = models.FloatField(null=True)
    when = models.DateTimeField(auto_now_add=True)
    source = OneLine(max_length=200, blank=True)

    class Meta:
        indexes = [models.Index(fields=["shop", "pump_id", "-when"])]
        ordering = ["-when", "-pk"]

    def __str__(self) -> str:
        return f"{self.pump_id}: {self.price}"


class Published(models.Model):
    """The pumps that can be chosen from, at one revision of a shop's catalogue, packed for the
    workers that size jobs.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="published")
    revision = models.PositiveIntegerField()
    blob = models.BinaryField()
    digest = models.CharField(max_length=32)
    pumps = models.PositiveIntegerField()
    when = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shop", "revision"], name="one_blob_per_revision")
        ]

    def __str__(self) -> str:
        return f"revision {self.revision} of {self.shop}"


class Import(models.Model):
    """A file of pumps: read, shown, taken, perhaps undone.

    ``before`` holds the rows that it replaced, ``report`` what it would do.

    ``done`` of ``total`` says how far a worker is that reads, takes or undoes a large one.
    """

    class State(models.TextChoices):
        READING = "reading", "being read"
        COLUMNS = "columns", "its headings are to be matched"
        SHOWN = "shown", "shown, not taken"
        TAKING = "taking", "being taken"
        TAKEN = "taken", "taken"
        UNDOING = "undoing", "being undone"
        UNDONE = "undone", "undone"
        FAILED = "failed", "failed"

    shop = models.ForeignKey("shop.Shop", on_delete=models.CASCADE, related_name="imports")
    user = models.ForeignKey("shop.User", on_delete=models.SET_NULL, null=True)
    name = OneLine(max_length=200)
    when = models.DateTimeField(auto_now_add=True)
    content = models.BinaryField()
    state = models.CharField(max_length=10, default=State.SHOWN, choices=State.choices)
    total = models.IntegerField(default=0)
    done = models.IntegerField(default=0)
    problem = models.CharField(max_length=500, blank=True)
    report = models.JSONField(default=dict)
    # a supplier's headings: what is asked of them, what was chosen, and how the file was read
    asked = models.JSONField(default=dict)
    chosen = models.JSONField(default=dict)
    told = models.CharField(max_length=200, blank=True)
    added = models.IntegerField(default=0)
    changed = models.IntegerField(default=0)
    kept_aside = models.IntegerField(default=0)
    left_out = models.IntegerField(default=0)
    revision = models.IntegerField(default=0)  # of the catalogue, after it was taken
    before = models.JSONField(default=list)
    ids = models.JSONField(default=list)
    after = models.JSONField(default=dict)  # a digest of each row as the import left it, by its id

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def busy(self) -> bool:
        """Whether a worker has it in hand."""
        return self.state in (self.State.READING, self.State.TAKING, self.State.UNDOING)


class SupplierColumns(models.Model):
    """What the headings of a supplier's files mean, as somebody matched them once."""

    shop = models.ForeignKey("shop.Shop", on_delete=models.CASCADE, related_name="suppliers")
    supplier = OneLine(max_length=120, blank=True)
    signature = models.CharField(max_length=32)
    by_hand = models.JSONField(default=dict)
    fixed = models.JSONField(default=dict)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shop", "signature"], name="one_match_per_headings")
        ]

    def __str__(self) -> str:
        return self.supplier or "a supplier"


class Trace(models.Model):
    """A picture of printed curves, with what was marked and clicked on it so far."""

    shop = models.ForeignKey("shop.Shop", on_delete=models.CASCADE, related_name="traces")
    user = models.ForeignKey("shop.User", on_delete=models.SET_NULL, null=True)
    name = OneLine(max_length=200)
    when = models.DateTimeField(auto_now_add=True)
    image = models.BinaryField()
    width = models.IntegerField()
    height = models.IntegerField()
    state = models.JSONField()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name
