"""Stand counts, and the plans by which places are drawn for counts and samples."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.base.quantities import Measured, Quantity
from apps.records.models import FieldRecord
from apps.trials.models import Strip, Trial

COUNT_LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="row_length", label="Length of row")


COUNT_ROW_SPACING = Quantity(name="row_spacing", suffix="m", dimension="length", kind="row_spacing", label="Row spacing")


COUNT_AREA = Quantity(name="area", suffix="m2", dimension="area", kind="sample_area", label="Area of the frame")


HOOP = Quantity(name="diameter", suffix="m", dimension="length", kind="tape_length", label="Diameter of the hoop")


WANTED = Quantity(name="wanted", suffix="pct", dimension="percent", kind="percent", label="Wanted within ±")


SAMPLE = Quantity(name="sample", suffix="m", dimension="length", kind="row_length", label="Length a count covers")


END = Quantity(name="end", suffix="m", dimension="length", kind="strip_length", label="Kept free at the ends")


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
    wanted = Measured(WANTED)
    sample = Measured(SAMPLE)
    end = Measured(END)
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
    diameter = Measured(HOOP)
    length = Measured(COUNT_LENGTH)
    rows = models.PositiveSmallIntegerField(null=True, blank=True)
    row_spacing = Measured(COUNT_ROW_SPACING)
    area = Measured(COUNT_AREA)
    by_eye = models.BooleanField(default=False)
    plants_per_m2 = models.FloatField()
    opener = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="Row of the machine, from the left as seen from behind"
    )
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]
