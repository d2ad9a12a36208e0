"""Readings: values taken off an instrument on a strip, nothing else. What they are made of stands in ``field/kinds.py``."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.base.quantities import Measured, Quantity
from apps.records.models import FieldRecord
from apps.trials.models import Strip

RESISTANCE = Quantity(
    name="resistance", suffix="kpa", dimension="pressure", kind="soil_resistance", label="Resistance to the cone"
)
READING_DEPTH = Quantity(name="depth", suffix="m", dimension="length", kind="soil_depth", label="Depth of the cone")


class Reading(FieldRecord):
    """What every reading has beside its values."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="%(class)ss")
    by_eye = models.BooleanField(default=False, help_text="At a place chosen by eye")
    note = models.CharField(max_length=200, blank=True, default="")

    class Meta:
        abstract = True
        ordering = ["recorded_at", "received_at"]


class PenetrometerReading(Reading):
    """Force on the cone by its base area, at a depth."""

    resistance = Measured(RESISTANCE)
    depth = Measured(READING_DEPTH)
    history = HistoricalRecords()
