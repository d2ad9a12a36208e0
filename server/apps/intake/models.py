"""Uploads of a workspace, for its limits: how many in an hour, and the space that what was kept takes."""

from django.conf import settings
from django.db import models

from apps.accounts.models import Workspace


class Upload(models.Model):
    """One file that came in, whether it was kept or refused. ``kept_bytes``: what it takes on the disk, 0 when refused."""

    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="uploads")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    kind = models.CharField(max_length=20)
    at = models.DateTimeField(auto_now_add=True)
    kept_bytes = models.PositiveBigIntegerField(default=0)

    class Meta:
        indexes = [models.Index(fields=["workspace", "at"])]
