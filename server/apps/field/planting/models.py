"""What was done between the design and the first count: calibrations, seedbed, sowing, depths, deviations, passes."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Measured, Quantity
from apps.farms.models import Machine, SeedLot
from apps.records.models import FieldRecord
from apps.trials.models import Strip, Treatment, Trial

TARGET = Quantity(name="target", suffix="kg_per_ha", dimension="mass_per_area", kind="seed_rate_mass", label="Rate wanted")
TOLERANCE = Quantity(name="tolerance", suffix="pct", dimension="percent", kind="percent", label="Tolerance")
CAUGHT_SPACING = Quantity(name="row_spacing", suffix="m", dimension="length", kind="row_spacing", label="Row spacing")
CIRCUMFERENCE = Quantity(
    name="circumference", suffix="m", dimension="length", kind="tape_length", label="Rolling circumference"
)
SLIP = Quantity(name="slip", suffix="pct", dimension="percent", kind="percent", label="Slip")
SOWN_RATE = Quantity(name="rate", suffix="per_m2", dimension="areal_density", kind="density", label="Rate sown")
SPEED = Quantity(name="speed", suffix="km_h", dimension="speed", kind="speed", label="Speed")
DUG = Quantity(name="depth", suffix="m", dimension="length", kind="depth", label="Depth")
FROM = Quantity(name="start", suffix="m", dimension="length", kind="strip_length", label="From")
TO = Quantity(name="end", suffix="m", dimension="length", kind="strip_length", label="To")
BOOT = Quantity(name="boot_sink", suffix="m", dimension="length", kind="depth", label="How deep a boot sinks")
SOIL_TEMPERATURE = Quantity(
    name="soil_temperature", suffix="c", dimension="temperature", kind="temperature", label="Soil temperature"
)
PH = Quantity(name="ph", suffix="value", dimension="count", kind="ph", label="Soil pH")
RESIDUE = Quantity(name="residue", suffix="pct", dimension="percent", kind="percent", label="Ground under residue")
MOISTURE_LINE = Quantity(name="moisture_line", suffix="m", dimension="length", kind="depth", label="Depth of the moisture line")
ON_TOP = Quantity(
    name="seeds_on_top", suffix="per_m2", dimension="areal_density", kind="density_dense", label="Seeds left on top"
)
WORKED_DEPTH = Quantity(name="depth", suffix="m", dimension="length", kind="depth", label="Working depth")


class Calibration(FieldRecord):
    """Catches of one lot through one machine against a rate wanted.

    ``catches``: [{"setting", "text", "unit", "way", "way_unit", "kg_per_ha"}, …] as typed, with the rate computed;
    ``way`` is the length, the turns of the wheel or the area.
    """

    METHODS = [("length", "Over a length"), ("turns", "By wheel turns"), ("bag", "Area of a bag")]
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="calibrations")
    trial = models.ForeignKey(Trial, on_delete=models.SET_NULL, null=True, blank=True, related_name="calibrations")
    lot = models.ForeignKey(SeedLot, on_delete=models.PROTECT, related_name="calibrations")
    machine = models.ForeignKey(Machine, on_delete=models.PROTECT, related_name="calibrations")
    done_on = models.DateField()
    method = models.CharField(max_length=6, choices=METHODS)
    target = Measured(TARGET)
    tolerance = Measured(TOLERANCE)
    openers = models.PositiveSmallIntegerField(null=True, blank=True)
    row_spacing = Measured(CAUGHT_SPACING)
    circumference = Measured(CIRCUMFERENCE)
    slip = Measured(SLIP)
    catches = models.JSONField(default=list)
    note = models.CharField(max_length=200, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["done_on", "received_at"]


class PlantingRecord(FieldRecord):
    """How a strip was sown. What it was sown with instead of the plan stands in a ``Deviation``."""

    SOILS = [("dry", "Dry on top"), ("moist", "Moist"), ("wet", "Wet"), ("crusted", "Crusted"), ("cloddy", "Cloddy")]
    WAYS = [("first", "Sown"), ("pass", "Another pass of the same sowing"), ("again", "Sown again")]
    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="planting_records")
    sown_at = models.DateTimeField()
    way = models.CharField(max_length=5, choices=WAYS, default="first", help_text="A strip sown again is as old as that sowing")
    machine = models.ForeignKey(Machine, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    lot = models.ForeignKey(SeedLot, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    setting = models.CharField(max_length=40, blank=True, default="")
    rate = Measured(SOWN_RATE)
    speed = Measured(SPEED)
    soil = models.CharField(max_length=8, choices=SOILS, blank=True, default="")
    weather = models.CharField(max_length=120, blank=True, default="")
    note = models.CharField(max_length=400, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["sown_at", "received_at"]


class DepthCheck(FieldRecord):
    """One depth, dug and measured from the surface to the seed."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="depth_checks")
    depth = Measured(DUG)
    opener = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="Row of the machine, from the left as seen from behind"
    )
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class Deviation(FieldRecord):
    """Something that went otherwise at planting on a strip; with ``sown_treatment`` where it got another treatment."""

    KINDS = [
        ("skip", "Skip"),
        ("plugged_row", "Plugged row"),
        ("double", "Sown twice"),
        ("wrong_setting", "Wrong setting"),
        ("wrong_strip", "Wrong strip"),
        ("other", "Something else"),
    ]
    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="deviations")
    kind = models.CharField(max_length=13, choices=KINDS)
    rows = models.PositiveSmallIntegerField(null=True, blank=True)
    start = Measured(FROM)
    end = Measured(TO)
    sown_treatment = models.ForeignKey(Treatment, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    note = models.CharField(max_length=200, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class SeedbedCheck(FieldRecord):
    """The bed as it was found; what was not measured stays empty."""

    WEEDS = [("none", "None"), ("few", "Few"), ("many", "Many")]
    TEXTURES = [("sand", "Sand"), ("loam", "Loam"), ("clay", "Clay")]
    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="seedbed_checks")
    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, null=True, blank=True, related_name="seedbed_checks")
    checked_on = models.DateField()
    boot_sink = Measured(BOOT)
    soil_temperature = Measured(SOIL_TEMPERATURE)
    ph = Measured(PH)
    residue = Measured(RESIDUE)
    moisture_line = Measured(MOISTURE_LINE)
    seeds_on_top = Measured(ON_TOP)
    weeds = models.CharField(max_length=4, choices=WEEDS, blank=True, default="")
    texture = models.CharField(max_length=4, choices=TEXTURES, default="loam")
    note = models.CharField(max_length=400, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["checked_on", "received_at"]


class TillagePass(FieldRecord):
    """A pass over the ground, before or after planting, on all strips or on some."""

    KINDS = [
        ("plough", "Ploughing"),
        ("harrow", "Harrowing"),
        ("strip_till", "Strip tillage"),
        ("roll", "Rolling"),
        ("hoe", "Hoeing between rows"),
        ("weed_harrow", "Weed harrowing"),
        ("ridge", "Ridging"),
        ("other", "Another pass"),
    ]
    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="tillage_passes")
    done_on = models.DateField()
    kind = models.CharField(max_length=11, choices=KINDS)
    machine = models.ForeignKey(Machine, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    times = models.PositiveSmallIntegerField(default=1)
    depth = Measured(WORKED_DEPTH)
    strips = models.ManyToManyField(Strip, blank=True, related_name="tillage_passes")
    note = models.CharField(max_length=200, blank=True, default="")
    history = HistoricalRecords(m2m_fields=[strips])

    class Meta:
        ordering = ["done_on", "received_at"]
