"""Why a backup cannot be made or used, in words that say what to do."""

from __future__ import annotations


class BackupError(Exception):
    """Something about a backup that stops it; its text is for a person."""
