"""Finding logs, always through the reader's memberships."""

from __future__ import annotations

from uuid import UUID

from apps.accounts.models import User
from apps.accounts.rights import within_reach
from apps.base.errors import NotFound
from apps.base.read_once import read_once
from apps.field.logs.models import YieldLog
from apps.trials.models import Trial


def log_for(user: User, log_id: UUID) -> YieldLog:
    """A standing log of one of the person's trials, else ``NotFound``."""
    log = (
        YieldLog.objects.filter(
            within_reach(user, workspace="trial__workspace", farm="trial__field__farm"), id=log_id, voided=False
        )
        .select_related("trial__workspace", "machine", "recorded_by")
        .first()
    )
    if log is None:
        raise NotFound
    return log


@read_once
def logs_of(trial: Trial) -> list[YieldLog]:
    """Standing logs of a trial, as they came."""
    return list(trial.yield_logs.filter(voided=False).select_related("trial", "machine", "recorded_by"))
