"""A file beside a trial or a lot. It is never opened by the application, and leaves it as a download only."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.accounts.models import Workspace
from apps.farms.models import SeedLot
from apps.trials.models import Trial


class Attachment(models.Model):
    """A file under the hash of its content. Taken away, it stays readable in the history and lies on the disk until a purge."""

    KINDS = [
        ("laboratory", "Laboratory sheet"),
        ("label", "Label"),
        ("invoice", "Invoice"),
        ("other", "Other"),
    ]
    id = models.UUIDField(primary_key=True, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="attachments")
    trial = models.ForeignKey(Trial, null=True, on_delete=models.CASCADE, related_name="attachments")
    lot = models.ForeignKey(SeedLot, null=True, on_delete=models.CASCADE, related_name="attachments")
    kind = models.CharField(max_length=10, choices=KINDS)
    name = models.CharField(max_length=80)
    note = models.CharField(max_length=200, blank=True, default="")
    digest = models.CharField(max_length=64)
    size = models.PositiveIntegerField()
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    voided = models.BooleanField(default=False)
    void_reason = models.CharField(max_length=200, blank=True, default="")
    history = HistoricalRecords()

    class Meta:
        ordering = ["added_at"]
