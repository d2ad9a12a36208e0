import uuid

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from apps.trials.models import Trial


class ReportShare(models.Model):
    """A link to a trial's report for somebody without an account. Only the hash of its token is kept."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    trial = models.ForeignKey(Trial, on_delete=models.CASCADE, related_name="shares")
    token_hash = models.CharField(max_length=64, unique=True)
    title = models.CharField(max_length=120, blank=True, default="", help_text="Said in the place of the trial's own title")
    places = models.BooleanField(default=False, help_text="Field, farm, map and other site-years may be seen")
    record = models.BooleanField(default=False, help_text="The full record goes along")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    revoked_at = models.DateTimeField(null=True, blank=True)
    opened = models.PositiveIntegerField(default=0)
    history = HistoricalRecords(excluded_fields=["opened"])

    class Meta:
        ordering = ["-created_at"]
