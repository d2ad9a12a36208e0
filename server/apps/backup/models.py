"""The chain of history: a head for every day, and a stone for what was removed with right."""

from __future__ import annotations

from django.db import models


class HistoryDay(models.Model):
    """A past day of history: its head is made of the head before it and of every row written that day.

    ``columns``: which columns of each table went into it, so that a table that has grown since still fits.
    """

    day = models.DateField(unique=True)
    before = models.CharField(max_length=64, blank=True, default="")
    head = models.CharField(max_length=64)
    rows = models.PositiveIntegerField()
    columns = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["day"]


class HistoryTombstone(models.Model):
    """The digest of a row of history that was removed with its trial or workspace: the chain fits, the content is gone."""

    table = models.CharField(max_length=80)
    row = models.CharField(max_length=40)
    day = models.DateField()
    digest = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["table", "row"], name="one_stone_each")]
        indexes = [models.Index(fields=["day"])]
