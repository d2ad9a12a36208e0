"""Days that a person says are one visit. Without that every day is a visit of its own."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.records.models import FieldRecord
from apps.trials.models import Trial


class JoinedVisit(FieldRecord):
    """“This count took three days”: every record of a task from the first to the last day belongs to one visit."""

    TASKS = [
        ("count", "Stand counts"),
        ("tape", "Spacing along the row"),
        ("dug", "Dug plants"),
        ("measure", "Measurements"),
        ("rating", "Ratings"),
        ("reading", "Readings"),
        ("yield", "Yield samples"),
    ]
    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="joined_visits")
    task = models.CharField(max_length=8, choices=TASKS)
    first_on = models.DateField()
    last_on = models.DateField()
    note = models.CharField(max_length=200, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["first_on", "received_at"]
