"""Samples of yield before harvest, weighed grain, and a workspace's own defaults for them."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Measured, Quantity
from apps.field.stand.models import SamplingPlan
from apps.records.models import FieldRecord
from apps.trials.models import Strip, Trial

LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="row_length", label="Length of row")
ROW_SPACING = Quantity(name="row_spacing", suffix="m", dimension="length", kind="row_spacing", label="Row spacing")
AREA = Quantity(name="area", suffix="m2", dimension="area", kind="sample_area", label="Area")
MASS = Quantity(name="mass", suffix="kg", dimension="mass", kind="catch", label="Weight of the seeds")
MOISTURE = Quantity(name="moisture", suffix="pct", dimension="percent", kind="percent", label="Moisture")
STRESSED = Quantity(name="stressed", suffix="g", dimension="grain_mass", kind="seed_mass", label="Stressed grain weight")
USUAL = Quantity(name="usual", suffix="g", dimension="grain_mass", kind="seed_mass", label="Usual grain weight")
EXCELLENT = Quantity(name="excellent", suffix="g", dimension="grain_mass", kind="seed_mass", label="Excellent grain weight")


class YieldSample(FieldRecord):
    """One place: what was counted on an area, and each piece measured, as typed. ``pieces``: entries by field key."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="yield_samples")
    plan = models.ForeignKey(SamplingPlan, on_delete=models.PROTECT, null=True, blank=True, related_name="yield_samples")
    place = models.PositiveSmallIntegerField(null=True, blank=True)
    method = models.CharField(max_length=10)
    length = Measured(LENGTH)
    rows = models.PositiveSmallIntegerField(null=True, blank=True)
    row_spacing = Measured(ROW_SPACING)
    area = Measured(AREA)
    number = models.PositiveIntegerField(null=True, blank=True)
    pieces = models.JSONField(default=list)
    values = models.JSONField(default=dict, help_text="Entries of the place by field key, as typed")
    units = models.JSONField(default=dict, help_text="Unit by field key")
    sampled_m2 = models.FloatField()
    by_eye = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class GrainSample(FieldRecord):
    """Seeds counted and weighed, of one strip or of the whole trial."""

    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="grain_samples")
    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, null=True, blank=True, related_name="grain_samples")
    seeds = models.PositiveIntegerField()
    mass = Measured(MASS)
    moisture = Measured(MOISTURE)
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]


class EstimateSetting(models.Model):
    """A workspace's own way of estimating a crop, with the source of its grain weights."""

    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="estimate_settings")
    crop = models.CharField(max_length=64)
    method = models.CharField(max_length=10, blank=True, default="")
    places = models.PositiveSmallIntegerField(null=True, blank=True)
    pieces = models.PositiveSmallIntegerField(null=True, blank=True)
    stressed = Measured(STRESSED)
    usual = Measured(USUAL)
    excellent = Measured(EXCELLENT)
    source = models.CharField(max_length=120, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "crop"], name="one_setting_a_crop")]
