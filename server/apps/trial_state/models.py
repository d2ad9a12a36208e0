"""What lists show of a trial, kept so that a list reads rows and not trials."""

from django.db import models

from apps.trials.models import Trial


class TrialSummary(models.Model):
    """Made from a trial and all that hangs on it; it may be thrown away at any time and is made again.

    ``revision`` goes up in the transaction of every write that a trial rests on. The summary stands as long as it was made of
    that revision by the code that runs now (``code``); else lists read the trial itself, and the worker makes it anew.
    """

    trial = models.OneToOneField(Trial, on_delete=models.CASCADE, primary_key=True, related_name="summary")
    revision = models.PositiveIntegerField(default=1)
    made_of = models.PositiveIntegerField(default=0, help_text="The revision it was made of")
    code = models.CharField(max_length=16, blank=True, default="", help_text="Fingerprint of the code that made it")
    progress = models.JSONField(default=dict, help_text="How far the trial is, in plain numbers and days")
    rows = models.JSONField(default=dict, help_text="Its row of the list, by the units it is read in")
    readers = models.TextField(default="", help_text="The keys of rows, dues and comparisons, each between spaces")
    sprayed = models.BooleanField(default=False, help_text="Whether a re-entry interval was ever noted")
    words = models.TextField(default="", help_text="What a search finds it by, in lower case")
    crop_name = models.CharField(max_length=80, default="")
    step = models.PositiveSmallIntegerField(default=0, help_text="Place of its next stage in the season line")
    finished = models.BooleanField(default=False, help_text="Whether its last stage is done")
    day = models.DateField(null=True, help_text="The day whose visits stand in dues; none where none can come")
    dues = models.JSONField(default=dict, help_text="What is due on that day, by the units it is read in")
    urgency = models.PositiveSmallIntegerField(null=True, help_text="Of the most urgent of them")
    due_on = models.DateField(null=True, help_text="The day of the most urgent of them")
    due_count = models.PositiveSmallIntegerField(default=0)
    comparisons = models.JSONField(default=dict, help_text="Its comparisons for the ledger, by the units they are read in")
