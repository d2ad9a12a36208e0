"""What every write to a trial goes through: version, frozen protocol, records that would lose their strip."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.writing import written_day

from apps.accounts.models import User
from apps.accounts.rights import Deed, require
from apps.accounts.services import save_as
from apps.base.errors import Conflict
from apps.trials import protocol
from apps.trials.hooks import notes_on_strips, tally
from apps.trials.models import Trial
from apps.trials.queries import closing_of, trial_for


def writable(user: User, trial_id: UUID, version: int, deed: Deed = "design") -> Trial:
    """The trial, when this person may do this to it and looked at its present version."""
    trial = trial_for(user, trial_id)
    require(user, trial.workspace, deed)
    require_open(trial)
    if version != trial.version:
        raise Conflict(
            "stale",
            "This trial was changed elsewhere meanwhile. What you typed is kept; look at what is there now and decide.",
            {"version": trial.version},
        )
    return trial


def require_open(trial: Trial) -> None:
    """Refuse a change to a trial whose season is reviewed and closed."""
    closing = closing_of(trial)
    if closing is not None:
        raise Conflict(
            "season_closed",
            f"This season was reviewed and closed by {closing.by.get_full_name() or closing.by.username} on "
            f"{written_day(closing.closed_at)}. An owner or adviser opens it again with a reason; what you typed is kept.",
        )


def saved(trial: Trial, user: User, reason: str, amendment: str = "") -> Trial:
    """Save a changed trial; a change to a frozen protocol needs a reason and is kept beside the original."""
    trial.version += 1
    save_as(trial, user, reason)
    protocol.amend(trial, user, amendment)
    return trial


def take_up_layout(trial: Trial, what: str) -> None:
    """Remove strips without records; refuse when any record would lose its strip."""
    require_loose_layout(trial, what)
    trial.strips.all().delete()
    trial.blocks.all().delete()


def require_loose_layout(trial: Trial, what: str) -> None:
    """Refuse when any record would lose its strip with the layout."""
    strips = list(trial.strips.all())
    records = tally(strips)
    marked = sum(1 for strip in strips if strip.lost or strip.sown_treatment_id)
    if records or marked or any(notes_on_strips(trial, strips)):
        words = records.words or (f"{marked} strip notes" if marked else "notes of the season")
        raise Conflict(
            "would_orphan",
            f"{what} cannot change any more: {words} hang on these strips and would lose their place. "
            "Costs, prices and the control may still change; for other treatments start a new trial.",
        )
