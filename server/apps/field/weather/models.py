"""The weather of a workspace: a simulated station that ships, or days from a file."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace


class Station(models.Model):
    """Where daily weather comes from. A simulated one is named by its seed and never stored: it says the same again."""

    KINDS = [("simulated", "Simulated station"), ("file", "From a file")]
    workspace = models.OneToOneField(Workspace, on_delete=models.CASCADE, related_name="station")
    kind = models.CharField(max_length=9, choices=KINDS)
    name = models.CharField(max_length=80)
    seed = models.PositiveIntegerField(default=1)
    southern = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()


class WeatherDay(models.Model):
    """One day read from a file, in °C and mm."""

    station = models.ForeignKey(Station, on_delete=models.CASCADE, related_name="days")
    on = models.DateField()
    min_c = models.FloatField()
    max_c = models.FloatField()
    rain_mm = models.FloatField(default=0)
    soil_c = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["on"]
        constraints = [models.UniqueConstraint(fields=["station", "on"], name="one_line_a_day")]
