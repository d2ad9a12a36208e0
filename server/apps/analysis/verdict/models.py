from django.db import models

from apps.trials.models import Trial


class Verdict(models.Model):
    """The numbers last computed for a trial, with the fingerprint of what they were computed from."""

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, related_name="verdict")
    inputs_hash = models.CharField(max_length=64)
    numbers = models.JSONField()
    computed_at = models.DateTimeField(auto_now=True)
