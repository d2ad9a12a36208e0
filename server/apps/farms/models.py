import uuid

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.quantities import Quantity, typed_column, unit_column, value_column

WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_length", label="Field width")
LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Field length")


MACHINE_WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_width", label="Working width")


class Field(models.Model):
    """A field: a boundary, or a rectangle of width across the driving direction and length along it.

    ``boundary`` is a GeoJSON polygon; its coordinates are longitude and latitude (WGS 84), or metres when
    ``boundary_in_m``. ``areas`` are obstacles and no-go areas in the same coordinates. Headings are degrees
    clockwise from north: of driving, and of the way the ground changes.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="fields")
    farm = models.CharField(max_length=80, blank=True, default="")
    name = models.CharField(max_length=80)
    width_typed, width_unit, width_m = typed_column(), unit_column(), value_column()
    length_typed, length_unit, length_m = typed_column(), unit_column(), value_column()
    boundary = models.JSONField(null=True, blank=True)
    boundary_in_m = models.BooleanField(default=False)
    boundary_said = models.TextField(blank=True, default="", help_text="Where it came from and what was mended")
    areas = models.JSONField(default=list, blank=True)
    heading_deg = models.FloatField(null=True, blank=True)
    gradient_deg = models.FloatField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "farm", "name"], name="one_field_of_a_name")]

    def __str__(self) -> str:
        return f"{self.farm} · {self.name}" if self.farm else self.name


class Machine(models.Model):
    """A machine that works in strips, with its working width."""

    KINDS = [
        ("planter", "Planter or drill"),
        ("tillage", "Tillage"),
        ("sprayer", "Sprayer or spreader"),
        ("harvester", "Harvester"),
    ]
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="machines")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=KINDS)
    width_typed, width_unit, width_m = typed_column(), unit_column(), value_column()
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_machine_of_a_name")]
