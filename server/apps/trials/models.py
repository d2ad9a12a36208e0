import uuid

from cultrix_core.design.designs import DESIGNS
from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Measured, Quantity
from apps.farms.models import Field, SeedLot

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
EXPECTED_YIELD = Quantity(
    name="expected_yield", suffix="kg_per_ha", dimension="mass_per_area", kind="yield", label="Expected yield"
)
STANDARD_MOISTURE = Quantity(
    name="standard_moisture", suffix="pct", dimension="percent", kind="percent", label="Standard moisture"
)
EMERGENCE = Quantity(name="emergence", suffix="pct", dimension="percent", kind="percent", label="Expected emergence")
SURVIVAL = Quantity(name="survival", suffix="pct", dimension="percent", kind="percent", label="Survival to harvest")
DEPTH = Quantity(name="sowing_depth", suffix="m", dimension="length", kind="depth", label="Sowing depth")
SHARE = Quantity(name="share", suffix="pct", dimension="percent", kind="percent", label="Share")
PART_RATE = Quantity(name="rate", suffix="per_m2", dimension="areal_density", kind="density", label="Its own rate")
TIMES = Quantity(name="times", suffix="count", dimension="count", kind="count", label="Times")
EACH = Quantity(name="each", suffix="per_ha", dimension="money_per_area", kind="money_per_area", label="Cost")
SPREAD = Quantity(name="spread", suffix="m2", dimension="area", kind="farm_area", label="Area it is spread over")
FUEL = Quantity(name="fuel", suffix="l_per_ha", dimension="volume_per_area", kind="fuel", label="Fuel")
FUEL_PRICE = Quantity(name="fuel_price", suffix="per_l", dimension="money_per_volume", kind="fuel_price", label="Price of fuel")
HOURS = Quantity(name="hours", suffix="h_per_ha", dimension="time_per_area", kind="hours", label="Hours")
WAGE = Quantity(name="wage", suffix="per_h", dimension="money_per_time", kind="wage", label="Wage")
HIRE = Quantity(name="hire", suffix="per_h", dimension="money_per_time", kind="wage", label="Hire of the machine")
OF_PASS = (FUEL, FUEL_PRICE, HOURS, WAGE, HIRE)
EXTRA_COST = Quantity(name="extra_cost", suffix="per_ha", dimension="money_per_area", kind="money_per_area", label="Extra cost")
STRIP_WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_width", label="Strip width")
STRIP_LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Strip length")


DESIGN_NAMES = [(design.key, design.name) for design in DESIGNS]


class Trial(models.Model):
    """One question on one field in one season."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="trials")
    field = models.ForeignKey(Field, on_delete=models.PROTECT, null=True, blank=True, related_name="trials")
    title = models.CharField(max_length=120)
    crop = models.CharField(max_length=64)
    season = models.PositiveIntegerField()
    series = models.CharField(max_length=80, blank=True, default="", help_text="Same question over several years")
    question = models.TextField(max_length=600, blank=True, default="")
    guess = models.TextField(max_length=600, blank=True, default="")
    primary_response = models.CharField(max_length=260, default="yield", help_text="yield, net_return or a recorded response")
    response_margin = Measured("canonical")
    amounts_by = models.CharField(
        max_length=6,
        choices=[("curve", "A curve"), ("pairs", "Pairs of levels")],
        default="curve",
        help_text="What answers for a factor that is an amount at three levels or more",
    )
    package = models.JSONField(default=list, blank=True, help_text="What a level needs to exist and belongs to its treatment")
    alpha = models.FloatField(default=0.10)
    price = Measured(PRICE)
    unit_cost = Measured(UNIT_COST)
    practical_margin = Measured(PRACTICAL_MARGIN)
    net_margin = Measured(NET_MARGIN)
    row_spacing = Measured(ROW_SPACING)
    seeding_rate = Measured(SEEDING_RATE)
    thousand_seed_weight = Measured("g")
    expected_yield = Measured(EXPECTED_YIELD)
    standard_moisture = Measured(STANDARD_MOISTURE)
    bag_price = Measured("money")
    bag_seeds = Measured("count")
    emergence = Measured(EMERGENCE)
    emergence_of = models.CharField(max_length=4, choices=[("sown", "Seed sown"), ("live", "Live seed")], default="sown")
    survival = Measured(SURVIVAL)
    sowing_depth = Measured(DEPTH)
    kept = models.JSONField(default=dict, blank=True, help_text="Typed inputs of calculators kept to this trial, by calculator")
    design = models.CharField(max_length=14, blank=True, default="", choices=DESIGN_NAMES)
    plan = models.JSONField(default=dict, blank=True, help_text="How the layout was asked for, drawn and placed")
    drawn = models.BooleanField(default=True, help_text="False when the layout was read from a file")
    seed = models.BigIntegerField(null=True, blank=True)
    planted_on = models.DateField(null=True, blank=True)
    price_source = models.CharField(max_length=160, blank=True, default="", help_text="Where the price was read, and when")
    version = models.PositiveIntegerField(default=1)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    responsible = models.ForeignKey(
        settings.AUTH_USER_MODEL,
        null=True,
        blank=True,
        on_delete=models.SET_NULL,
        related_name="trials_in_hand",
        help_text="Who answers for it now; its maker until it is handed over",
    )
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
        ("sowing_date", "Sowing date"),
        ("free", "Something else"),
    ]
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="factors")
    position = models.PositiveSmallIntegerField(default=0)
    kind = models.CharField(max_length=14, choices=KINDS)
    name = models.CharField(max_length=60, blank=True, default="")
    hard_to_change = models.BooleanField(default=False)

    class Meta:
        ordering = ["position"]

    @property
    def title(self) -> str:
        """What the factor is called: its own name, else its kind."""
        return self.name or dict(self.KINDS)[self.kind]


class Level(models.Model):
    """One level: a named one, or an amount in the canonical unit of the factor's kind."""

    factor = models.ForeignKey(Factor, on_delete=models.CASCADE, related_name="levels")
    position = models.PositiveSmallIntegerField(default=0)
    amount = Measured("canonical")
    name = models.CharField(max_length=60, blank=True, default="")

    class Meta:
        ordering = ["factor__position", "position"]


class CostLine(models.Model):
    """So many times so much, for every strip with this level.

    ``each`` was typed per area, per unit of yield (``each_per_t``), or as a sum spread over an area (``spread``). A pass may be
    made of fuel and hours instead: ``made_of`` holds what was typed of them, text and unit by quantity.
    """

    KINDS = [
        ("product", "Product"),
        ("passes", "Passes"),
        ("machinery", "Machinery share"),
        ("other", "Other"),
    ]
    level = models.ForeignKey(Level, on_delete=models.CASCADE, related_name="cost_lines")
    kind = models.CharField(max_length=10, choices=KINDS)
    label = models.CharField(max_length=60, blank=True, default="")
    times = Measured(TIMES)
    each = Measured(EACH)
    BASES = [
        ("area", "By area"),
        ("yield", "By unit of yield"),
        ("trial", "For the trial"),
        ("machine_year", "A machine's year"),
    ]
    basis = models.CharField(max_length=12, choices=BASES, default="area")
    each_per_t = models.FloatField(null=True, blank=True)
    spread = Measured(SPREAD)
    made_of = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["id"]


class Treatment(models.Model):
    """What a strip receives: one level of every factor. The letter is its name on ribbon, map and pass card."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="treatments")
    position = models.PositiveSmallIntegerField()
    levels = models.ManyToManyField(Level, related_name="treatments")
    is_control = models.BooleanField(default=False)
    extra_cost = Measured(EXTRA_COST)
    history = HistoricalRecords()

    class Meta:
        ordering = ["position"]

    @property
    def letter(self) -> str:
        """A, B, … Z, AA, AB, … by position."""
        high, low = divmod(self.position, 26)
        return (chr(64 + high) if high else "") + chr(65 + low)


class Sowing(models.Model):
    """What goes through the drill: the crop's lot, parts of a mixture, or a companion crop.

    Without a level it goes on every strip, else on those whose treatment has the level. Parts of a mixture share the
    treatment's rate; a companion has a rate of its own.
    """

    PARTS = [("crop", "The crop"), ("mixture", "Part of a mixture"), ("companion", "Companion crop")]
    PLACES = [("in_row", "In the same rows"), ("between", "Between the rows"), ("broadcast", "Broadcast")]
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="sowings")
    position = models.PositiveSmallIntegerField(default=0)
    part = models.CharField(max_length=9, choices=PARTS, default="crop")
    lot = models.ForeignKey(SeedLot, on_delete=models.PROTECT, related_name="sowings")
    level = models.ForeignKey(Level, on_delete=models.CASCADE, null=True, blank=True, related_name="sowings")
    share = Measured(SHARE)
    share_by = models.CharField(max_length=6, choices=[("weight", "Weight"), ("seeds", "Seeds")], default="weight")
    rate = Measured(PART_RATE)
    place = models.CharField(max_length=9, choices=PLACES, default="in_row")

    class Meta:
        ordering = ["position"]


class Covariate(models.Model):
    """An amount measured on strips before treatments began; ``values``: text as typed by strip id."""

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="covariate")
    name = models.CharField(max_length=60)
    unit = models.CharField(max_length=20, blank=True, default="")
    measured_on = models.DateField()
    values = models.JSONField(default=dict)
    history = HistoricalRecords()

    def __str__(self) -> str:
        """As the protocol says it."""
        return f"{self.name}, {self.unit}" if self.unit else self.name


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
    width = Measured(STRIP_WIDTH)
    length = Measured(STRIP_LENGTH)
    main = models.PositiveSmallIntegerField(default=0, help_text="Number of the main strip it lies in; 0: none")
    column = models.PositiveSmallIntegerField(default=0, help_text="Place across the driving direction, from 1; 0: not placed")
    row = models.PositiveSmallIntegerField(default=1, help_text="Place along the driving direction, from 1")
    ring = models.JSONField(null=True, blank=True, help_text="Corners in metres of the layout's frame")
    swath = models.JSONField(null=True, blank=True, help_text="Corners of the harvested swath")
    area_m2 = models.FloatField(null=True, blank=True)
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

    @property
    def received_id(self) -> uuid.UUID:
        """Its id, without reading it."""
        return self.sown_treatment_id or self.treatment_id


class LayoutDraw(models.Model):
    """A draw of the layout, kept when a later one replaces it."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="draws")
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    design = models.CharField(max_length=14)
    seed = models.BigIntegerField(null=True)
    said = models.TextField()

    class Meta:
        ordering = ["id"]


class Protocol(models.Model):
    """What was settled before the result: frozen with a time and the fingerprint of its content."""

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="protocol")
    frozen_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    content = models.JSONField()
    fingerprint = models.CharField(max_length=64)


class Amendment(models.Model):
    """A change to a frozen protocol, with its reason; the original stays beside it."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="amendments")
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    reason = models.CharField(max_length=300)
    changes = models.JSONField(help_text="[[what, before, after], …]")

    class Meta:
        ordering = ["id"]


class TrialLife(models.Model):
    """Where a trial is put that is not worked on: out of sight in the archive, or in the bin until it is purged.

    A trial without a row, or with both empty, is at work. A binned trial is in no list, pool, export or search.
    """

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="life")
    archived_at = models.DateTimeField(null=True, blank=True)
    binned_at = models.DateTimeField(null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    reason = models.CharField(max_length=300, blank=True, default="")
    history = HistoricalRecords()


class SeasonClosing(models.Model):
    """A season that was reviewed and closed: its records change only after it was opened again, with a reason."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="closings")
    closed_at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    note = models.CharField(max_length=300, blank=True, default="")
    opened_at = models.DateTimeField(null=True, blank=True)
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+", null=True, blank=True)
    reason = models.CharField(max_length=300, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["id"]


class TrialOrigin(models.Model):
    """The package that a trial was read back from, so that the same one is recognised when it comes again."""

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="origin")
    of_trial = models.UUIDField(help_text="The trial that was saved, by the id it had there")
    digest = models.CharField(max_length=64, help_text="Of what the package held, whatever the day it was made")
    read_at = models.DateTimeField(auto_now_add=True)
