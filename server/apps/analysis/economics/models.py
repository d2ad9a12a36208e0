"""Prices with their dates and sources, and what a trial's money is judged by."""

import uuid

from cultrix_core.writing import written_day
from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.base.quantities import Measured, Quantity
from apps.trials.models import Trial

MINIMUM_RATE = Quantity(
    name="minimum_rate", suffix="pct", dimension="percent", kind="percent", label="Least return on extra money"
)
WITHIN = Quantity(
    name="within", suffix="per_ha", dimension="money_per_area", kind="money_per_area", label="Money that counts as equal"
)
LOSS = Quantity(name="loss", suffix="per_ha", dimension="money_per_area", kind="money_per_area", label="Loss one would bear")
SWING = Quantity(name="swing", suffix="pct", dimension="percent", kind="percent", label="Swing of prices and costs")
SETTINGS = (MINIMUM_RATE, WITHIN, LOSS, SWING)
SCENARIO_PRICE = Quantity(name="price", suffix="per_t", dimension="price", kind="price", label="Price")
SCENARIO_UNIT_COST = Quantity(name="unit_cost", suffix="per_t", dimension="price", kind="price", label="Cost per unit of yield")
COSTS = Quantity(name="costs", suffix="pct", dimension="percent", kind="percent", label="Extra costs against today's")


class PriceList(models.Model):
    """Prices as somebody read them one day."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="price_lists")
    name = models.CharField(max_length=80)
    dated = models.DateField()
    source = models.CharField(max_length=160)
    retired = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()

    class Meta:
        ordering = ["-dated", "name"]

    def __str__(self) -> str:
        return f"{self.name}, {written_day(self.dated)} ({self.source})"


class PriceItem(models.Model):
    """One price of a list; ``crop`` only where it is a crop's. Its unit's dimension follows the kind."""

    KINDS = [
        ("crop", "A crop"),
        ("fuel", "Fuel"),
        ("hour", "An hour of labour or machine"),
        ("area", "A pass or product, by area"),
        ("bag", "A bag, or a sum"),
    ]
    price_list = models.ForeignKey(PriceList, on_delete=models.CASCADE, related_name="items")
    position = models.PositiveSmallIntegerField(default=0)
    kind = models.CharField(max_length=4, choices=KINDS)
    crop = models.CharField(max_length=64, blank=True, default="")
    name = models.CharField(max_length=80, blank=True, default="")
    price = Measured("canonical")

    class Meta:
        ordering = ["position"]


class MoneyPlan(models.Model):
    """What a trial's money is judged by, beside its prices and costs."""

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="money_plan")
    minimum_rate = Measured(MINIMUM_RATE)
    within = Measured(WITHIN)
    loss = Measured(LOSS)
    swing = Measured(SWING)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()


class Scenario(models.Model):
    """Other prices and costs for the same trial; what is empty stays as it is."""

    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="scenarios")
    position = models.PositiveSmallIntegerField(default=0)
    name = models.CharField(max_length=60)
    source = models.CharField(max_length=160, blank=True, default="")
    price = Measured(SCENARIO_PRICE)
    unit_cost = Measured(SCENARIO_UNIT_COST)
    costs = Measured(COSTS)

    class Meta:
        ordering = ["position"]
