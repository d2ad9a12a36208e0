"""Events of a workspace, a trial or a person; chained by day with the tables of history, whose columns they share."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class AuditEvent(models.Model):
    """Something that was done. ``changes`` are names with the text before and after.

    Of a trial, it also belongs to the trial's workspace; a sign-in belongs to a person and no workspace.
    """

    KINDS = [
        ("sign_in", "Signing in"),
        ("export", "Files taken out"),
        ("people", "People and rights"),
        ("settings", "Settings"),
        ("plan", "Plan and costs"),
        ("prices", "Prices"),
        ("weather", "Weather"),
        ("merge", "Merging"),
        ("leaving", "Leaving and erasing"),
    ]
    history_id = models.BigAutoField(primary_key=True)
    history_date = models.DateTimeField(default=timezone.now, db_index=True)
    history_user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    history_change_reason = models.CharField(max_length=300, blank=True, default="")
    workspace = models.ForeignKey("accounts.Workspace", null=True, on_delete=models.CASCADE, related_name="events")
    trial = models.ForeignKey("trials.Trial", null=True, on_delete=models.CASCADE, related_name="events")
    kind = models.CharField(max_length=10, choices=KINDS)
    what = models.CharField(max_length=200)
    changes = models.JSONField(default=list, help_text="[[what, before, after], …]")

    class Meta:
        ordering = ["-history_date", "-history_id"]
