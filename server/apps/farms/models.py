import uuid

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Measured, Quantity

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
    width = Measured(WIDTH)
    length = Measured(LENGTH)
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
    thousand_seed_weight = Measured(SEED_WEIGHT)
    weight_of = models.CharField(max_length=6, choices=[("bare", "Bare seed"), ("coated", "Coated seed")], default="bare")
    germination = Measured(GERMINATION)
    tested_on = models.DateField(null=True, blank=True)
    hard_seed = Measured(HARD_SEED)
    purity = Measured(PURITY)
    purity_of = models.CharField(max_length=4, choices=[("seed", "The seed"), ("bag", "The whole bag")], default="seed")
    coating = Measured(COATING)
    treated = models.BooleanField(default=False)
    treatment = models.CharField(max_length=120, blank=True, default="", help_text="What the seed is treated with")
    bag_price = Measured(BAG_PRICE)
    bag_seeds = Measured(BAG_SEEDS)
    bag_weight = Measured(BAG_WEIGHT)
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
    width = Measured(MACHINE_WIDTH)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_machine_of_a_name")]


class Merged(models.Model):
    """What was entered twice and merged: a device that still names the one that is gone is understood."""

    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="merged")
    gone = models.UUIDField(unique=True)
    kept = models.UUIDField()
    at = models.DateTimeField(auto_now_add=True)


class PooledRemainder(models.Model):
    """What pools keep of a trial whose farm was erased: sums of a crop, without farm, field, person or day.

    ``pool`` names what the numbers go into: ``estimate`` (how estimates err), ``yield`` (variation between strips),
    ``count`` (variation between counts), ``weight`` (grain weight).
    """

    POOLS = [("estimate", "Estimates"), ("yield", "Yields"), ("count", "Counts"), ("weight", "Grain weights")]
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="remainders")
    pool = models.CharField(max_length=8, choices=POOLS)
    crop = models.CharField(max_length=64)
    numbers = models.JSONField()

    class Meta:
        indexes = [models.Index(fields=["workspace", "pool", "crop"])]
