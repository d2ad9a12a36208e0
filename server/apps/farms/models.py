import uuid

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Quantity, typed_column, unit_column, value_column

WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_length", label="Field width")
LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Field length")


SEED_WEIGHT = Quantity(
    name="thousand_seed_weight", suffix="g", dimension="seed_mass", kind="seed_mass", label="Thousand-seed weight"
)
GERMINATION = Quantity(name="germination", suffix="pct", dimension="percent", kind="percent", label="Germination")
HARD_SEED = Quantity(name="hard_seed", suffix="pct", dimension="percent", kind="percent", label="Hard seed")
PURITY = Quantity(name="purity", suffix="pct", dimension="percent", kind="percent", label="Purity")
COATING = Quantity(name="coating", suffix="pct", dimension="percent", kind="percent", label="Coating")
BAG_PRICE = Quantity(name="bag_price", suffix="money", dimension="money", kind="money", label="Price of a bag of seed")
BAG_SEEDS = Quantity(name="bag_seeds", suffix="count", dimension="count", kind="count", label="Seeds in a bag")
BAG_WEIGHT = Quantity(name="bag_weight", suffix="kg", dimension="mass", kind="mass", label="Weight of a bag")
TAG = (SEED_WEIGHT, GERMINATION, HARD_SEED, PURITY, COATING, BAG_PRICE, BAG_SEEDS, BAG_WEIGHT)
MACHINE_WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_width", label="Working width")


class Field(models.Model):
    """A field: a boundary, or a rectangle of width across the driving direction and length along it.

    ``boundary`` is a GeoJSON polygon; its coordinates are longitude and latitude (WGS 84), or metres when
    ``boundary_in_m``. ``areas`` are obstacles and no-go areas in the same coordinates. Headings are degrees
    clockwise from north: of driving, and of the way the ground changes.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="fields")
    farm = models.CharField(max_length=80, blank=True, default="")
    name = models.CharField(max_length=80)
    width_typed, width_unit, width_m = typed_column(), unit_column(), value_column()
    length_typed, length_unit, length_m = typed_column(), unit_column(), value_column()
    boundary = models.JSONField(null=True, blank=True)
    boundary_in_m = models.BooleanField(default=False)
    boundary_said = models.TextField(blank=True, default="", help_text="Where it came from and what was mended")
    areas = models.JSONField(default=list, blank=True)
    heading_deg = models.FloatField(null=True, blank=True)
    gradient_deg = models.FloatField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "farm", "name"], name="one_field_of_a_name")]

    def __str__(self) -> str:
        return f"{self.farm} · {self.name}" if self.farm else self.name


class SeedLot(models.Model):
    """A lot of seed as its tag tells it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="seed_lots")
    crop = models.CharField(max_length=64)
    name = models.CharField(max_length=80, help_text="Variety")
    tag = models.CharField(max_length=40, blank=True, default="", help_text="Number on the tag")
    thousand_seed_weight_typed, thousand_seed_weight_unit, thousand_seed_weight_g = (
        typed_column(),
        unit_column(),
        value_column(),
    )
    weight_of = models.CharField(max_length=6, choices=[("bare", "Bare seed"), ("coated", "Coated seed")], default="bare")
    germination_typed, germination_unit, germination_pct = typed_column(), unit_column(), value_column()
    tested_on = models.DateField(null=True, blank=True)
    hard_seed_typed, hard_seed_unit, hard_seed_pct = typed_column(), unit_column(), value_column()
    purity_typed, purity_unit, purity_pct = typed_column(), unit_column(), value_column()
    purity_of = models.CharField(max_length=4, choices=[("seed", "The seed"), ("bag", "The whole bag")], default="seed")
    coating_typed, coating_unit, coating_pct = typed_column(), unit_column(), value_column()
    treated = models.BooleanField(default=False)
    treatment = models.CharField(max_length=120, blank=True, default="", help_text="What the seed is treated with")
    bag_price_typed, bag_price_unit, bag_price_money = typed_column(), unit_column(), value_column()
    bag_seeds_typed, bag_seeds_unit, bag_seeds_count = typed_column(), unit_column(), value_column()
    bag_weight_typed, bag_weight_unit, bag_weight_kg = typed_column(), unit_column(), value_column()
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "crop", "name", "tag"], name="one_lot_of_a_tag")]

    def __str__(self) -> str:
        return f"{self.name}, lot {self.tag}" if self.tag else self.name


class Machine(models.Model):
    """A machine that works in strips, with its working width."""

    KINDS = [
        ("planter", "Planter or drill"),
        ("tillage", "Tillage"),
        ("sprayer", "Sprayer or spreader"),
        ("harvester", "Harvester"),
    ]
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="machines")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=KINDS)
    width_typed, width_unit, width_m = typed_column(), unit_column(), value_column()
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_machine_of_a_name")]
