"""Logs of combines: the raw file beside the database, what its columns mean, how it was cleaned, and which source counts."""

from cultrix_core.errors import require_between
from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.base.quantities import Measured, Quantity, TypedIn, parse
from apps.farms.models import Machine
from apps.records.models import FieldRecord
from apps.trials.models import Trial

MARGIN = Quantity(name="margin", suffix="m", dimension="length", kind="strip_width", label="Inner margin")

SWATH = Quantity(name="swath", suffix="m", dimension="length", kind="strip_width", label="Width of the header")


def constant_swath(typed: TypedIn) -> float | None:
    """Width of a header that is always full, in m; refuses none and widths no header has."""
    value = parse(SWATH, typed)
    return None if value is None else require_between(value, 0.1, 50, "swath", label=SWATH.label, unit=" m")


class YieldLog(FieldRecord):
    """One file of one machine. ``digest`` names the raw file, which is never changed; points lie in a file of columns."""

    COORDINATES = [("degrees", "Longitude and latitude"), ("metres", "Metres of the layout")]
    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="yield_logs")
    machine = models.ForeignKey(Machine, on_delete=models.PROTECT, null=True, blank=True, related_name="yield_logs")
    name = models.CharField(max_length=120)
    digest = models.CharField(max_length=64)
    suffix = models.CharField(max_length=8)
    size = models.PositiveBigIntegerField()
    header = models.JSONField(help_text="Names of the columns and some rows, as read when it came")
    coordinates = models.CharField(max_length=7, choices=COORDINATES, default="degrees")
    columns = models.JSONField(default=dict, blank=True, help_text="Role to column, unit or constant")
    steps = models.JSONField(
        default=dict, blank=True, help_text="Parameters of the cleaning that were changed, and steps undone"
    )
    margin = Measured(MARGIN)
    calibrated = models.BooleanField(default=True, help_text="Brought to the scale where loads are there")
    left_out = models.JSONField(default=list, blank=True, help_text="Ids of loads not calibrated on")
    result = models.JSONField(null=True, blank=True)
    result_hash = models.CharField(max_length=64, blank=True, default="")
    history = HistoricalRecords(excluded_fields=["result", "result_hash", "header"])

    class Meta:
        ordering = ["received_at"]


class MachineColumns(models.Model):
    """What the columns of a machine's files mean, remembered from the last time."""

    machine = models.OneToOneField(Machine, on_delete=models.CASCADE, related_name="log_columns")
    columns = models.JSONField()
    coordinates = models.CharField(max_length=7, choices=YieldLog.COORDINATES, default="degrees")
    history = HistoricalRecords()


class HarvestSource(models.Model):
    """Which yields the verdict uses: the scale's, or those of one log."""

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="harvest_source")
    log = models.ForeignKey(YieldLog, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    version = models.PositiveIntegerField(default=1)
    chosen_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    chosen_at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()
