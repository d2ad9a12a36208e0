"""Loads of strips at harvest, weighed or stated."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.base.quantities import Measured, Quantity
from apps.records.models import FieldRecord
from apps.trials.models import Strip

GROSS = Quantity(name="gross", suffix="kg", dimension="mass", kind="mass", label="Gross weight")


TARE = Quantity(name="tare", suffix="kg", dimension="mass", kind="mass", label="Tare")


NET = Quantity(name="net", suffix="kg", dimension="mass", kind="mass", label="Net weight")


MOISTURE = Quantity(name="moisture", suffix="pct", dimension="percent", kind="percent", label="Moisture")


SWATH_WIDTH = Quantity(name="swath_width", suffix="m", dimension="length", kind="strip_width", label="Swath width")


CUT_LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Length cut")


TEST_WEIGHT = Quantity(name="test_weight", suffix="kg_hl", dimension="test_weight", kind="test_weight", label="Test weight")


SHRINK = Quantity(name="shrink", suffix="pct", dimension="percent", kind="percent", label="Handling shrink")


STATED_YIELD = Quantity(name="stated_yield", suffix="kg_per_ha", dimension="mass_per_area", kind="yield", label="Yield")


class HarvestLoad(FieldRecord):
    """A weighed load of a strip, or a yield stated by somebody else's reckoning."""

    strip = models.ForeignKey(Strip, on_delete=models.PROTECT, related_name="harvest_loads")
    method = models.CharField(max_length=8, choices=[("weighed", "Weighed"), ("stated", "Stated")])
    gross = Measured(GROSS)
    tare = Measured(TARE)
    net = Measured(NET)
    moisture = Measured(MOISTURE)
    swath_width = Measured(SWATH_WIDTH)
    length = Measured(CUT_LENGTH)
    passes = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Passes of the swath; one where empty")
    pieces = models.PositiveIntegerField(null=True, blank=True, help_text="Heads, bulbs or fruits counted in the load")
    test_weight = Measured(TEST_WEIGHT)
    shrink = Measured(SHRINK)
    stated_yield = Measured(STATED_YIELD)
    standard_moisture_pct = models.FloatField(null=True, blank=True)
    yield_kg_per_ha = models.FloatField(null=True, blank=True, help_text="None while the moisture is not known")
    history = HistoricalRecords()

    class Meta:
        ordering = ["recorded_at", "received_at"]
