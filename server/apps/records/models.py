"""What is recorded on strips. The client makes the id; nothing is deleted, only voided with a reason."""

from django.conf import settings
from django.db import models


class FieldRecord(models.Model):
    """Common to all records: whose id, which version, voided or not."""

    id = models.UUIDField(primary_key=True, editable=False)
    version = models.PositiveIntegerField(default=1)
    voided = models.BooleanField(default=False)
    void_reason = models.CharField(max_length=200, blank=True, default="")
    recorded_at = models.DateTimeField(help_text="When it was entered, by the device")
    received_at = models.DateTimeField(auto_now_add=True)
    clock_shift_s = models.IntegerField(
        null=True, blank=True, help_text="Seconds by which recorded_at was corrected, where the device's clock was wrong"
    )
    recorded_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        abstract = True
