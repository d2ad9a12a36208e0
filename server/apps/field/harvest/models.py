"""Loads of strips at harvest, weighed or stated."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.base.quantities import Quantity, typed_column, unit_column, value_column
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
