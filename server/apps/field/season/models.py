"""What is measured, judged and photographed on strips between planting and harvest."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Measured, Quantity
from apps.records.models import FieldRecord
from apps.trials.models import Strip

REFERENCE = Quantity(name="reference", suffix="m", dimension="length", kind="in_row_spacing", label="Spacing wanted")
FRAME = Quantity(name="area", suffix="m2", dimension="area", kind="sample_area", label="Area of the frame")
LINE = Quantity(name="value", suffix="per_m2", dimension="plant_density", kind="density_dense", label="Threshold")


class TapeRun(FieldRecord):
    """Positions of successive plants along a tape, as typed; or marks tapped at the places where a plant was wanted."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="tape_runs")
    reference = Measured(REFERENCE)
    positions = models.JSONField(default=list, help_text="Texts as typed, in the order walked")
    positions_unit = models.CharField(max_length=12, blank=True, default="")
    looked_at = models.JSONField(default=list, help_text="Numbers of the spacings marked as real gaps")
    marks = models.CharField(max_length=500, blank=True, default="")
    by_eye = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class DugPlant(FieldRecord):
    """One plant dug out: crown and root, and shoots on the crown."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="dug_plants")
    health = models.CharField(max_length=8, choices=[("firm", "Firm"), ("doubtful", "Doubtful"), ("dead", "Dead")])
    shoots = models.PositiveSmallIntegerField(null=True, blank=True)
    by_eye = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class PlantMeasure(FieldRecord):
    """One measured value of a trait. ``value_number`` is per plant, per m² or percent, as the trait says."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="plant_measures")
    trait = models.CharField(max_length=240, help_text="Of the catalogue, or of one's own, whose key says what it is")
    subject = models.CharField(max_length=40, blank=True, default="")
    value = Measured("number")
    sample_plants = models.PositiveSmallIntegerField(null=True, blank=True)
    area = Measured(FRAME)
    by_eye = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class Rating(FieldRecord):
    """What an eye said of a strip on a scale of 1 to 9; ``blind``: without knowing the treatment."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="ratings")
    trait = models.CharField(max_length=240, help_text="Of the catalogue, or of one's own, whose key says what it is")
    score = models.PositiveSmallIntegerField()
    blind = models.BooleanField(default=False)
    note = models.CharField(max_length=200, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class Photo(FieldRecord):
    """A photograph of a strip, re-encoded and without position data; the file lies beside the database under its hash."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="photos")
    caption = models.CharField(max_length=200, blank=True, default="")
    digest = models.CharField(max_length=64)
    width = models.PositiveSmallIntegerField()
    height = models.PositiveSmallIntegerField()
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class StandLine(models.Model):
    """A workspace's own value for a threshold of a crop, with its source."""

    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="stand_lines")
    crop = models.CharField(max_length=64)
    key = models.CharField(max_length=16)
    value = Measured(LINE)
    source = models.CharField(max_length=120)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "crop", "key"], name="one_line_a_key")]
