"""Tasks of a trial."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.trials.models import Trial


class VisitTask(models.Model):
    """Something to be done on a trial, by whom and until when.

    ``ref`` names what is due, a visit of the crop or a stage of the season; it is empty for anything else.
    ``hours`` is the labour it took, of all people together, where somebody noted it.
    """

    id = models.UUIDField(primary_key=True, editable=False)
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="tasks")
    ref = models.CharField(max_length=60, blank=True, default="")
    what = models.CharField(max_length=160)
    due_on = models.DateField(null=True, blank=True)
    given_to = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.SET_NULL, related_name="visit_tasks"
    )
    note = models.CharField(max_length=300, blank=True, default="")
    hours_typed = models.CharField(max_length=12, blank=True, default="")
    hours = models.FloatField(null=True, blank=True)
    done_at = models.DateTimeField(null=True, blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords()

    class Meta:
        ordering = ["due_on", "made_at"]
        constraints = [
            models.UniqueConstraint(
                fields=["trial", "ref"], condition=models.Q(done_at=None) & ~models.Q(ref=""), name="one_open_task_of_a_visit"
            )
        ]
