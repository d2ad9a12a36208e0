"""Long work as a row: what is asked for, how far it is, who is at it until when, and whether it should stop."""

import uuid

from django.conf import settings
from django.db import models

from apps.accounts.models import Workspace


class Job(models.Model):
    """One piece of work. The row is the only truth: there is no queue beside it.

    ``worker`` holds the work until ``lease_until`` and renews that while it lives; a lease that ran out means that the worker
    is gone, and the work is taken again, at most ``tries`` times.
    """

    STATES = [
        ("waiting", "Waiting"),
        ("running", "Under way"),
        ("done", "Done"),
        ("failed", "Failed"),
        ("cancelled", "Cancelled"),
    ]
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="jobs")
    trial = models.ForeignKey("trials.Trial", null=True, blank=True, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20)
    subject = models.UUIDField(help_text="Id of what the work is about")
    inputs_hash = models.CharField(max_length=64)
    state = models.CharField(max_length=9, choices=STATES, default="waiting")
    progress = models.FloatField(default=0)
    said = models.CharField(max_length=400, blank=True, default="", help_text="What it is at, or why it failed")
    field = models.CharField(max_length=40, blank=True, default="", help_text="Input a failure is about")
    cancel = models.BooleanField(default=False)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    worker = models.CharField(max_length=80, blank=True, default="", help_text="Host, process and number of who is at it")
    lease_until = models.DateTimeField(null=True, blank=True)
    tries = models.PositiveSmallIntegerField(default=0)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["asked_at"]
        indexes = [models.Index(fields=["subject", "asked_at"]), models.Index(fields=["state", "asked_at"])]
