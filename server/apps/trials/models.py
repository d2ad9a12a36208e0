import uuid

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.farms.models import Field
from apps.quantities import Quantity, typed_column, unit_column, value_column

PRICE = Quantity(name="price", suffix="per_t", dimension="price", kind="price", label="Price")
UNIT_COST = Quantity(name="unit_cost", suffix="per_t", dimension="price", kind="price", label="Cost per unit of yield")
PRACTICAL_MARGIN = Quantity(
    name="practical_margin", suffix="kg_per_ha", dimension="mass_per_area", kind="yield", label="Practical margin"
)
NET_MARGIN = Quantity(
    name="net_margin", suffix="per_ha", dimension="money_per_area", kind="money_per_area", label="Margin in money"
)
ROW_SPACING = Quantity(name="row_spacing", suffix="m", dimension="length", kind="row_spacing", label="Row spacing")
SEEDING_RATE = Quantity(name="seeding_rate", suffix="per_m2", dimension="areal_density", kind="density", label="Seeding rate")
SEED_WEIGHT = Quantity(
    name="thousand_seed_weight", suffix="g", dimension="seed_mass", kind="seed_mass", label="Thousand-seed weight"
)
EXTRA_COST = Quantity(name="extra_cost", suffix="per_ha", dimension="money_per_area", kind="money_per_area", label="Extra cost")
STRIP_WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_width", label="Strip width")
STRIP_LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Strip length")


class Trial(models.Model):
    """One question on one field in one season."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="trials")
    field = models.ForeignKey(Field, on_delete=models.PROTECT, null=True, blank=True, related_name="trials")
    title = models.CharField(max_length=120)
    crop = models.CharField(max_length=24)
    season = models.PositiveIntegerField()
    series = models.CharField(max_length=80, blank=True, default="", help_text="Same question over several years")
    question = models.TextField(max_length=600, blank=True, default="")
    guess = models.TextField(max_length=600, blank=True, default="")
    primary_response = models.CharField(
        max_length=10, choices=[("yield", "Yield"), ("net_return", "Net return")], default="yield"
    )
    alpha = models.FloatField(default=0.10)
    price_typed, price_unit, price_per_t = typed_column(), unit_column(), value_column()
    unit_cost_typed, unit_cost_unit, unit_cost_per_t = typed_column(), unit_column(), value_column()
    practical_margin_typed, practical_margin_unit, practical_margin_kg_per_ha = typed_column(), unit_column(), value_column()
    net_margin_typed, net_margin_unit, net_margin_per_ha = typed_column(), unit_column(), value_column()
    row_spacing_typed, row_spacing_unit, row_spacing_m = typed_column(), unit_column(), value_column()
    seeding_rate_typed, seeding_rate_unit, seeding_rate_per_m2 = typed_column(), unit_column(), value_column()
    thousand_seed_weight_typed, thousand_seed_weight_unit, thousand_seed_weight_g = (
        typed_column(),
        unit_column(),
        value_column(),
    )
    design = models.CharField(
        max_length=14, blank=True, default="", choices=[("rcbd", "Complete blocks"), ("unreplicated", "Unreplicated look")]
    )
    drawn = models.BooleanField(default=True, help_text="False when the layout was read from a file")
    seed = models.BigIntegerField(null=True, blank=True)
    planted_on = models.DateField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    def __str__(self) -> str:
        return self.title


class Factor(models.Model):
    """What is varied; ``unit`` in which its levels were typed, empty for named levels."""

    KINDS = [
        ("row_spacing", "Row spacing"),
        ("seeding_rate", "Seeding rate"),
        ("seeding_depth", "Seeding depth"),
        ("tillage", "Tillage"),
        ("free", "Something else"),
    ]
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="factors")
    kind = models.CharField(max_length=14, choices=KINDS)
    name = models.CharField(max_length=60, blank=True, default="")


class Level(models.Model):
    """One level: a named one, or an amount in the canonical unit of the factor's kind."""

    factor = models.ForeignKey(Factor, on_delete=models.CASCADE, related_name="levels")
    amount_typed, amount_unit, amount_canonical = typed_column(), unit_column(), value_column()
    name = models.CharField(max_length=60, blank=True, default="")


class Treatment(models.Model):
    """What a strip receives. The letter is its name on ribbon, map and pass card."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="treatments")
    position = models.PositiveSmallIntegerField()
    level = models.ForeignKey(Level, on_delete=models.PROTECT, related_name="treatments")
    is_control = models.BooleanField(default=False)
    extra_cost_typed, extra_cost_unit, extra_cost_per_ha = typed_column(), unit_column(), value_column()
    history = HistoricalRecords()

    class Meta:
        ordering = ["position"]

    @property
    def letter(self) -> str:
        """A, B, … Z, AA, AB, … by position."""
        high, low = divmod(self.position, 26)
        return (chr(64 + high) if high else "") + chr(65 + low)


class Block(models.Model):
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="blocks")
    number = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=60, blank=True, default="")

    class Meta:
        ordering = ["number"]


class Strip(models.Model):
    """A strip in field order, what it was meant to get and, where it differs, what it got."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="strips")
    block = models.ForeignKey(Block, on_delete=models.CASCADE, related_name="strips")
    order = models.PositiveSmallIntegerField()
    treatment = models.ForeignKey(Treatment, on_delete=models.PROTECT, related_name="strips")
    width_typed, width_unit, width_m = typed_column(), unit_column(), value_column()
    length_typed, length_unit, length_m = typed_column(), unit_column(), value_column()
    sown_treatment = models.ForeignKey(Treatment, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    lost = models.BooleanField(default=False)
    reason = models.CharField(max_length=300, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["order"]
        constraints = [models.UniqueConstraint(fields=["trial", "order"], name="one_strip_a_place")]

    @property
    def received(self) -> Treatment:
        """The treatment this strip really got."""
        return self.sown_treatment or self.treatment
