"""The season's log: what happened to all strips or to some."""

from django.db import models
from simple_history.models import HistoricalRecords

from apps.records.models import FieldRecord
from apps.trials.models import Strip, Trial


class FieldEvent(FieldRecord):
    """Something that happened, to all strips or to some."""

    KINDS = [
        ("rain", "Rain"),
        ("frost", "Frost"),
        ("hail", "Hail"),
        ("spray", "Spraying"),
        ("missed", "Missed spray"),
        ("leak", "Leak or spill"),
        ("irrigation", "Irrigation"),
        ("cut", "Cut or grazing"),
        ("nutrients", "Fertiliser"),
        ("weeds", "Weeds"),
        ("pests", "Pests"),
        ("disease", "Disease"),
        ("lodging", "Lodging"),
        ("machine", "Wheels or machine"),
        ("note", "Something else"),
    ]
    trial = models.ForeignKey(Trial, on_delete=models.PROTECT, related_name="field_events")
    kind = models.CharField(max_length=10, choices=KINDS)
    happened_on = models.DateField()
    text = models.CharField(max_length=400)
    reentry_hours = models.PositiveSmallIntegerField(null=True, blank=True, help_text="From the label of what was sprayed")
    strips = models.ManyToManyField(Strip, blank=True, related_name="field_events")
    history = HistoricalRecords(m2m_fields=[strips])

    class Meta:
        ordering = ["happened_on", "received_at"]
