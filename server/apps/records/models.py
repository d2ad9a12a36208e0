"""What is recorded on strips. The client makes the id; nothing is deleted, only struck with a reason."""

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.quantities import Quantity, typed_column, unit_column, value_column
from apps.trials.models import Strip, Trial

COUNT_LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="tape_length", label="Length of row")
COUNT_ROW_SPACING = Quantity(name="row_spacing", suffix="m", dimension="length", kind="row_spacing", label="Row spacing")
COUNT_AREA = Quantity(name="area", suffix="m2", dimension="area", kind="sample_area", label="Area of the frame")
HOOP = Quantity(name="diameter", suffix="m", dimension="length", kind="tape_length", label="Diameter of the hoop")
WANTED = Quantity(name="wanted", suffix="pct", dimension="percent", kind="percent", label="Wanted within ±")
SAMPLE = Quantity(name="sample", suffix="m", dimension="length", kind="tape_length", label="Length a count covers")
END = Quantity(name="end", suffix="m", dimension="length", kind="strip_length", label="Kept free at the ends")
GROSS = Quantity(name="gross", suffix="kg", dimension="mass", kind="mass", label="Gross weight")
TARE = Quantity(name="tare", suffix="kg", dimension="mass", kind="mass", label="Tare")
NET = Quantity(name="net", suffix="kg", dimension="mass", kind="mass", label="Net weight")
MOISTURE = Quantity(name="moisture", suffix="pct", dimension="percent", kind="percent", label="Moisture")
SWATH_WIDTH = Quantity(name="swath_width", suffix="m", dimension="length", kind="strip_width", label="Swath width")
CUT_LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Length cut")
TEST_WEIGHT = Quantity(name="test_weight", suffix="kg_hl", dimension="test_weight", kind="test_weight", label="Test weight")
SHRINK = Quantity(name="shrink", suffix="pct", dimension="percent", kind="percent", label="Handling shrink")
STATED_YIELD = Quantity(name="stated_yield", suffix="kg_per_ha", dimension="mass_per_area", kind="yield", label="Yield")


class FieldRecord(models.Model):
    """Common to all records: whose id, which version, struck or not."""

    id = models.UUIDField(primary_key=True, editable=False)
    version = models.PositiveIntegerField(default=1)
    struck = models.BooleanField(default=False)
    struck_reason = models.CharField(max_length=200, blank=True, default="")
    recorded_at = models.DateTimeField(help_text="When it was entered, by the device")
    received_at = models.DateTimeField(auto_now_add=True)
    clock_shift_s = models.IntegerField(
        null=True, blank=True, help_text="Seconds by which recorded_at was corrected, where the device's clock was wrong"
    )
    recorded_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        abstract = True


class SamplingPlan(FieldRecord):
    """How a visit is sampled. Places are not stored: the seed, the number and the strip draw the same ones for ever."""

    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="sampling_plans")
    PURPOSES = [("stand", "Stand counts"), ("yield", "Yield samples")]
    number = models.PositiveSmallIntegerField()
    purpose = models.CharField(max_length=5, choices=PURPOSES, default="stand")
    method = models.CharField(max_length=10, blank=True, default="", help_text="How yield is estimated")
    pieces = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Pieces drawn at each place")
    name = models.CharField(max_length=80)
    planned = models.PositiveSmallIntegerField()
    reserve = models.PositiveSmallIntegerField(default=6)
    wanted_typed, wanted_unit, wanted_pct = typed_column(), unit_column(), value_column()
    sample_typed, sample_unit, sample_m = typed_column(), unit_column(), value_column()
    end_typed, end_unit, end_m = typed_column(), unit_column(), value_column()
    framed = models.BooleanField(default=False, help_text="A frame or hoop laid anywhere rather than rows")
    rows = models.PositiveSmallIntegerField(default=1)
    edge_rows = models.PositiveSmallIntegerField(default=1)
    wheel_rows = models.CharField(max_length=120, blank=True, default="")
    seed = models.BigIntegerField()
    history = HistoricalRecords()

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["trial", "number"], name="one_plan_a_number")]


class StandCount(FieldRecord):
    """Plants on a length of row, in a frame or in a hoop; at a place of a plan, or at one chosen by eye."""

    METHODS = [("rows", "Rows"), ("quadrat", "Quadrat"), ("hoop", "Hoop")]
    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="stand_counts")
    plan = models.ForeignKey(SamplingPlan, on_delete=models.PROTECT, null=True, blank=True, related_name="counts")
    place = models.PositiveSmallIntegerField(null=True, blank=True)
    method = models.CharField(max_length=10, choices=METHODS)
    plants = models.PositiveIntegerField()
    gaps = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Gaps counted through")
    doubles = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Plants standing double, counted as two")
    diameter_typed, diameter_unit, diameter_m = typed_column(), unit_column(), value_column()
    length_typed, length_unit, length_m = typed_column(), unit_column(), value_column()
    rows = models.PositiveSmallIntegerField(null=True, blank=True)
    row_spacing_typed, row_spacing_unit, row_spacing_m = typed_column(), unit_column(), value_column()
    area_typed, area_unit, area_m2 = typed_column(), unit_column(), value_column()
    by_eye = models.BooleanField(default=False)
    plants_per_m2 = models.FloatField()
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class HarvestLoad(FieldRecord):
    """A weighed load of a strip, or a yield stated by somebody else's reckoning."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="harvest_loads")
    method = models.CharField(max_length=8, choices=[("weighed", "Weighed"), ("stated", "Stated")])
    gross_typed, gross_unit, gross_kg = typed_column(), unit_column(), value_column()
    tare_typed, tare_unit, tare_kg = typed_column(), unit_column(), value_column()
    net_typed, net_unit, net_kg = typed_column(), unit_column(), value_column()
    moisture_typed, moisture_unit, moisture_pct = typed_column(), unit_column(), value_column()
    swath_width_typed, swath_width_unit, swath_width_m = typed_column(), unit_column(), value_column()
    length_typed, length_unit, length_m = typed_column(), unit_column(), value_column()
    passes = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Passes of the swath; one where empty")
    pieces = models.PositiveIntegerField(null=True, blank=True, help_text="Heads, bulbs or fruits counted in the load")
    test_weight_typed, test_weight_unit, test_weight_kg_hl = typed_column(), unit_column(), value_column()
    shrink_typed, shrink_unit, shrink_pct = typed_column(), unit_column(), value_column()
    stated_yield_typed, stated_yield_unit, stated_yield_kg_per_ha = typed_column(), unit_column(), value_column()
    standard_moisture_pct = models.FloatField(null=True, blank=True)
    yield_kg_per_ha = models.FloatField(null=True, blank=True, help_text="None while the moisture is not known")
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class FieldEvent(FieldRecord):
    """Something that happened, to all strips or to some."""

    KINDS = [
        ("rain", "Rain"),
        ("frost", "Frost"),
        ("hail", "Hail"),
        ("spray", "Spraying"),
        ("missed", "Missed spray"),
        ("leak", "Leak or spill"),
        ("irrigation", "Irrigation"),
        ("cut", "Cut or grazing"),
        ("nutrients", "Fertiliser"),
        ("weeds", "Weeds"),
        ("pests", "Pests"),
        ("disease", "Disease"),
        ("lodging", "Lodging"),
        ("machine", "Wheels or machine"),
        ("note", "Something else"),
    ]
    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="field_events")
    kind = models.CharField(max_length=10, choices=KINDS)
    happened_on = models.DateField()
    text = models.CharField(max_length=400)
    reentry_hours = models.PositiveSmallIntegerField(null=True, blank=True, help_text="From the label of what was sprayed")
    strips = models.ManyToManyField(Strip, blank=True, related_name="field_events")
    history = HistoricalRecords(m2m_fields=[strips])

    class Meta:
        ordering = ["happened_on", "received_at"]
