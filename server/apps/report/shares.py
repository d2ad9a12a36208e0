"""Links to a report: made, listed, revoked, opened."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta
from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from django.db.models import F
from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.rights import reach_in, require, within_reach
from apps.accounts.services import save_as
from apps.base.errors import NotFound
from apps.report.models import ReportShare
from apps.trial_state.view import TrialView, view
from apps.trials.queries import readable, trial_for

MOST_DAYS = 365
MOST_OPEN = 40


def add_share(
    user: User, trial_id: UUID, *, days: int, title: str = "", places: bool = False, record: bool = False
) -> tuple[ReportShare, str]:
    """A new link and its token, which is shown once and not kept."""
    trial = trial_for(user, trial_id)
    require(user, trial.workspace, "share")
    require_between(days, 1, MOST_DAYS, "days", label="Days it stays open")
    standing = trial.shares.filter(revoked_at=None, expires_at__gt=timezone.now()).count()
    if standing >= MOST_OPEN:
        raise Refusal(
            "too_large",
            field="shares",
            label="Open links of this trial",
            value=standing + 1,
            limit=MOST_OPEN,
            remedy="Revoke those nobody needs.",
        )
    token = secrets.token_urlsafe(32)
    share = ReportShare(
        trial=trial,
        token_hash=_hash(token),
        title=title.strip()[:120],
        places=places,
        record=record,
        created_by=user,
        expires_at=timezone.now() + timedelta(days=days),
    )
    save_as(share, user, "shared the report")
    return share, token


def revoke_share(user: User, share_id: UUID) -> ReportShare:
    """Close a link for good."""
    reach = within_reach(user, workspace="trial__workspace", farm="trial__field__farm")
    share = ReportShare.objects.filter(reach, id=share_id).select_related("trial").first()
    if share is None:
        raise NotFound
    require(user, share.trial.workspace, "share")
    if share.revoked_at is None:
        share.revoked_at = timezone.now()
        save_as(share, user, "revoked")
    return share


def opened(token: str) -> tuple[ReportShare, TrialView]:
    """The share a token opens, with the trial as the one who shared it reads it.

    Raises
    ------
    NotFound : unknown, expired or revoked; when the one who shared it has no account or may not share any more, or lets go of
        the farm; while the trial lies in the bin.
    """
    share = ReportShare.objects.filter(token_hash=_hash(token)).select_related("created_by").first()
    if share is None or share.revoked_at is not None or share.expires_at <= timezone.now():
        raise NotFound
    if not share.created_by.is_active:
        raise NotFound
    trial = readable(share.created_by).filter(id=share.trial_id).first()
    if trial is None or not reach_in(share.created_by, trial.workspace).may("share"):
        raise NotFound
    ReportShare.objects.filter(pk=share.pk).update(opened=F("opened") + 1)
    return share, view(share.created_by, trial)


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
