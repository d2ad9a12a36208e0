"""Lists of trials: read from summaries, and from the trials themselves only where a summary does not stand."""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID

from cultrix_core.crops import CropProfile
from cultrix_core.regions import RegionProfile
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.writing import written_as
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.queries import reader_region, region_of, region_read_by
from apps.base.code_fingerprint import code_fingerprint
from apps.trial_state.changes import old
from apps.trial_state.models import TrialSummary
from apps.trial_state.progress import Progress, days_done, progress_kept
from apps.trial_state.rows import fixed_part
from apps.trial_state.stages import Stage, season_line
from apps.trial_state.view import TrialView, view_in
from apps.trials.models import Trial
from apps.trials.profiles import profile_of
from apps.trials.queries import readable

log = logging.getLogger("django.request")
LIVE_MOST = 25  # trials whose summary does not stand and that one list reads itself; the others say that they are being made


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedTrial:
    """A trial as lists need it. ``fixed``: ``rows.fixed_part``. ``recalculating``: what is told is of an earlier revision."""

    trial: Trial
    profile: CropProfile
    show: UnitFormatter
    progress: Progress
    fixed: dict[str, Any]
    recalculating: bool = False

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The season line of today."""
        return season_line(self.trial, self.progress, today=timezone.localdate())


def listed(user: User, workspace: Workspace) -> list[ListedTrial]:
    """All trials of a workspace, newest season first."""
    region = reader_region(user, workspace)
    key, code, live = reader_key(region, workspace), code_fingerprint(), 0
    found = []
    for trial in readable(user).filter(workspace=workspace).select_related("summary").order_by("-season", "title"):
        summary = getattr(trial, "summary", None)
        stands = summary is not None and summary.made_of == summary.revision and summary.code == code
        if summary is not None and key in summary.rows and (stands or live >= LIVE_MOST):
            found.append(_kept(trial, summary, region, key, recalculating=not stands))
        elif live < LIVE_MOST:
            live += 1
            found.append(_live(view_in(region, trial)))
        else:
            found.append(_bare(trial, region))
    return found


def reader_key(region: RegionProfile, workspace: Workspace) -> str:
    """What decides how a row reads: units by kind and crop, currency, and how numbers are written there."""
    own = region_of(workspace)
    read = [region.key, sorted(region.units.items()), sorted(region.changed), workspace.currency, own.writing]
    return hashlib.sha256(json.dumps(read).encode()).hexdigest()[:12]


def _kept(trial: Trial, summary: TrialSummary, region: RegionProfile, key: str, *, recalculating: bool) -> ListedTrial:
    profile = profile_of(trial)
    return ListedTrial(
        trial=trial,
        profile=profile,
        show=region.formatter(profile, currency=trial.workspace.currency),
        progress=progress_kept(summary.progress),
        fixed=summary.rows[key],
        recalculating=recalculating,
    )


def _live(view: TrialView) -> ListedTrial:
    return ListedTrial(
        trial=view.trial,
        profile=view.profile,
        show=view.show,
        progress=replace(view.progress, done=days_done(view.trial)),
        fixed=fixed_part(view),
    )


NOTHING = Progress(
    treatments=0,
    has_control=False,
    factor_kinds=(),
    has_lot=False,
    frozen=False,
    strips=0,
    blocks=0,
    lost=0,
    sown_otherwise=0,
    standing=0,
    counted=0,
    sown=0,
    sampled=0,
    harvested=0,
    loaded=False,
    events=0,
)


def _bare(trial: Trial, region: RegionProfile) -> ListedTrial:
    profile = profile_of(trial)
    show = region.formatter(profile, currency=trial.workspace.currency)
    fixed: dict[str, Any] = {"treatments": [], "treatment_letters": {}, "strips": []}
    return ListedTrial(trial=trial, profile=profile, show=show, progress=NOTHING, fixed=fixed, recalculating=True)


def make_old_ones_anew(most: int) -> int:
    """Make summaries that do not stand, oldest trials last; returns how many were made. The work of the worker."""
    ids = list(Trial.objects.filter(summary=None).values_list("id", flat=True)[:most])
    if len(ids) < most:
        stale = TrialSummary.objects.filter(old(code_fingerprint())).order_by("-trial__season")
        ids += stale.values_list("trial_id", flat=True)[: most - len(ids)]
    return make_summaries(ids)


def make_summaries(ids: Iterable[UUID]) -> int:
    """Make the summaries of these trials; one that is written to meanwhile stays old, and is made again."""
    number = 0
    for trial in Trial.objects.filter(id__in=list(ids)).select_related("workspace", "field"):
        with transaction.atomic():
            TrialSummary.objects.get_or_create(trial=trial)
        revision = TrialSummary.objects.values_list("revision", flat=True).get(trial=trial)
        # read after the revision: a write in between makes the revision of the row another
        try:
            progress, rows = _made_of(trial)
        except Exception:  # it must not end the worker, nor hold up the others: lists read that trial themselves
            log.exception("no summary of trial %s could be made", trial.id)
            progress, rows = {}, {}
        TrialSummary.objects.filter(trial=trial, revision=revision).update(
            made_of=revision, code=code_fingerprint(), progress=progress, rows=rows
        )
        number += 1
    return number


def _made_of(trial: Trial) -> tuple[dict[str, Any], dict[str, Any]]:
    """Progress and rows of a trial, as they are stored."""
    with written_as(region_of(trial.workspace).writing), transaction.atomic():
        view = view_in(region_of(trial.workspace), trial)
        regions = _regions_read(trial.workspace)
        rows = {reader_key(region, trial.workspace): fixed_part(view.in_region(region)) for region in regions}
        return replace(view.progress, done=days_done(trial)).kept(), rows


def _regions_read(workspace: Workspace) -> list[RegionProfile]:
    """The regions in whose units somebody of the workspace reads."""
    systems = set(workspace.memberships.values_list("user__unit_system", flat=True)) | {"home"}
    return [region_read_by(system, workspace) for system in sorted(systems)]
