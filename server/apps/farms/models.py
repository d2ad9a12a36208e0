import uuid

from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.quantities import Quantity, typed_column, unit_column, value_column

WIDTH = Quantity(name="width", suffix="m", dimension="length", kind="strip_length", label="Field width")
LENGTH = Quantity(name="length", suffix="m", dimension="length", kind="strip_length", label="Field length")


class Field(models.Model):
    """A field as a rectangle: width across the driving direction, length along it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="fields")
    farm = models.CharField(max_length=80, blank=True, default="")
    name = models.CharField(max_length=80)
    width_typed, width_unit, width_m = typed_column(), unit_column(), value_column()
    length_typed, length_unit, length_m = typed_column(), unit_column(), value_column()
    history = HistoricalRecords()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "farm", "name"], name="one_field_of_a_name")]

    def __str__(self) -> str:
        return f"{self.farm} · {self.name}" if self.farm else self.name
