"""The life of a trial: copied for another year or field, archived, binned and restored, its season closed and opened again."""

from __future__ import annotations

import logging
from datetime import timedelta
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import reach_in, require
from apps.accounts.services import save_as
from apps.backup.removing import remove_whole
from apps.base.errors import Conflict, NotFound
from apps.trials.editing import require_open
from apps.trials.models import SeasonClosing, Trial, TrialLife
from apps.trials.queries import closing_of, in_bin, trial_for, within

log = logging.getLogger("cultrix.trials")
RESTORED = "restored from the bin"
MOST = 300


def archive(user: User, trial_id: UUID, *, archived: bool) -> Trial:
    """Put a trial out of sight of Today and the list of trials, or back; ledger, series and pools go on counting it."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "design")
        life = _life(trial, user)
        if (life.archived_at is not None) != archived:
            life.archived_at = timezone.now() if archived else None
            _keep(life, user, "archived" if archived else "taken out of the archive")
    return trial


def put_in_bin(user: User, trial_id: UUID, reason: str) -> Trial:
    """Take a trial out of every list, pool and export; it can be restored for 90 days.

    Raises
    ------
    Refusal : no reason. Conflict : its season is closed, so it is a result that others may rest on.
    """
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "design")
        require_open(trial)
        if not reason.strip():
            raise Refusal("missing", field="reason", label="The reason", remedy="Somebody may look for this trial; say why.")
        life = _life(trial, user)
        life.binned_at, life.reason = timezone.now(), reason.strip()[:MOST]
        _keep(life, user, "put in the bin")
    return trial


def bin_of(user: User, workspace_id: UUID) -> list[Trial]:
    """Trials in the bin within reach, the latest first."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    trials = within(user).filter(workspace=workspace, life__binned_at__isnull=False)
    return list(trials.select_related("life__by").order_by("-life__binned_at"))


def restore(user: User, workspace_id: UUID, trial_id: UUID) -> Trial:
    """Take a trial out of the bin, with everything that hangs on it."""
    with transaction.atomic():
        trial = binned(user, workspace_for(user, workspace_id), trial_id)
        require(user, trial.workspace, "design")
        trial.life.binned_at, trial.life.reason = None, ""
        _keep(trial.life, user, RESTORED)
    return trial


def binned(user: User, workspace: Workspace, trial_id: UUID) -> Trial:
    """A trial in the bin of a workspace, else ``NotFound``."""
    trial = within(user).filter(workspace=workspace, id=trial_id).select_related("life").first()
    if trial is None or not in_bin(trial):
        raise NotFound
    reach_in(user, workspace)
    return trial


def purge(user: User, workspace_id: UUID, trial_id: UUID) -> None:
    """Remove a trial in the bin for good, with all its records, their history and its files; an owner's to do."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    trial = binned(user, workspace, trial_id)
    log.info("trial %s purged from the bin by %s", trial.id, user.username)
    remove_whole(trial)


def purge_overdue() -> int:
    """Remove what has lain in the bin for the days of its workspace; how many trials that were."""
    trials: list[Trial] = []
    for days in set(Workspace.objects.values_list("bin_days", flat=True)):
        since = timezone.now() - timedelta(days=days)
        trials += Trial.objects.filter(workspace__bin_days=days, life__binned_at__lt=since).select_related("workspace")
    for trial in trials:
        log.info("trial %s purged after %d days in the bin", trial.id, trial.workspace.bin_days)
        remove_whole(trial)
    return len(trials)


def bin_old() -> int:
    """Put into the bin what is older than its workspace keeps trials; how many there were.

    From there they can be restored, and what somebody restored stays.
    """
    year, number = timezone.now().year, 0
    for workspace in Workspace.objects.exclude(keep_years=None):
        owner = workspace.memberships.filter(role="owner").select_related("user").order_by("pk").first()
        if owner is None:
            continue
        old = Trial.objects.filter(workspace=workspace, season__lt=year - (workspace.keep_years or 0), life__binned_at=None)
        for trial in old.select_related("life"):
            life = _life(trial, owner.user)
            if life.pk and TrialLife.history.filter(id=life.pk, history_change_reason=RESTORED).exists():
                continue
            life.binned_at, life.reason = timezone.now(), f"older than the {workspace.keep_years} years that trials are kept"
            _keep(life, owner.user, "put in the bin by the time of keeping")
            number += 1
    return number


def close_season(user: User, trial_id: UUID, note: str) -> SeasonClosing:
    """Note that a trial was reviewed, and lock it: from now on its verdict is final.

    Raises
    ------
    Conflict : nothing to review yet, or closed already.
    """
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "freeze")
        if closing_of(trial) is not None:
            raise Conflict("season_closed", "This season is closed already.")
        if not trial.strips.exists():
            raise Conflict("nothing_to_close", "There are no strips yet, so there is nothing to review.")
        closing = SeasonClosing(trial=trial, by=user, note=note.strip()[:MOST])
        save_as(closing, user, "closed the season")
    return closing


def open_season(user: User, trial_id: UUID, reason: str) -> SeasonClosing:
    """Open a closed season again, for a correction; who did it and why stands beside the verdict."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "amend")
        closing = closing_of(trial)
        if closing is None:
            raise Conflict("season_open", "This season is open already.")
        if not reason.strip():
            raise Refusal("missing", field="reason", label="The reason", remedy="It stands beside the verdict from now on.")
        closing.opened_at, closing.opened_by, closing.reason = timezone.now(), user, reason.strip()[:MOST]
        save_as(closing, user, f"opened the season again: {closing.reason}")
    return closing


def _life(trial: Trial, user: User) -> TrialLife:
    life: TrialLife = getattr(trial, "life", None) or TrialLife(trial=trial, by=user)
    return life


def _keep(life: TrialLife, user: User, reason: str) -> None:
    life.by = user
    save_as(life, user, reason)
