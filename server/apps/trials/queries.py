"""Reading trials, always through the reader's memberships."""

from __future__ import annotations

from uuid import UUID

from django.db.models import Prefetch, QuerySet

from apps.accounts.models import User
from apps.accounts.rights import within_reach
from apps.base.errors import Conflict, NotFound
from apps.base.read_once import read_once
from apps.trials.models import Amendment, Covariate, Level, Protocol, SeasonClosing, Sowing, Strip, Treatment, Trial, TrialLife

IN_BIN = "This trial lies in the bin. Restore it under Setup, Bin; what you have of it is kept."


def readable(user: User) -> QuerySet[Trial]:
    """Trials of the person's workspaces on the farms within reach; what lies in the bin is not there."""
    return within(user).filter(life__binned_at=None)


def within(user: User) -> QuerySet[Trial]:
    """The same with what lies in the bin."""
    return Trial.objects.filter(within_reach(user, farm="field__farm")).select_related("workspace", "field", "life")


def trial_for(user: User, trial_id: UUID) -> Trial:
    """A trial of one of the person's workspaces, else ``NotFound``."""
    trial = within(user).select_related("covariate", "protocol__by", "life").filter(id=trial_id).first()
    if trial is None:
        raise NotFound
    if in_bin(trial):
        raise Conflict("in_bin", IN_BIN)
    return trial


def in_bin(trial: Trial) -> bool:
    """Whether a trial lies in the bin."""
    life: TrialLife | None = getattr(trial, "life", None)
    return life is not None and life.binned_at is not None


def is_archived(trial: Trial) -> bool:
    """Whether a trial is out of sight of Today and the list of trials."""
    life: TrialLife | None = getattr(trial, "life", None)
    return life is not None and life.archived_at is not None


@read_once
def closings_of(trial: Trial) -> list[SeasonClosing]:
    """How often the season of a trial was closed, and opened again."""
    return list(trial.closings.select_related("by", "opened_by"))


def closing_of(trial: Trial) -> SeasonClosing | None:
    """How the season of a trial was closed; None while it is open."""
    closings = closings_of(trial)
    return closings[-1] if closings and closings[-1].opened_at is None else None


def strip_for(user: User, strip_id: UUID) -> Strip:
    """A strip of one of the person's workspaces, else ``NotFound``."""
    reach = within_reach(user, workspace="trial__workspace", farm="trial__field__farm")
    strip = Strip.objects.filter(reach, id=strip_id).select_related("trial__workspace", "trial__life").first()
    if strip is None:
        raise NotFound
    if in_bin(strip.trial):
        raise Conflict("in_bin", IN_BIN)
    return strip


def protocol_of(trial: Trial) -> Protocol | None:
    """The frozen protocol and who froze it; None before."""
    return getattr(trial, "protocol", None)


@read_once
def amendments_of(trial: Trial) -> list[Amendment]:
    """Changes to the frozen protocol in order, and who made them."""
    return list(trial.amendments.select_related("by"))


def covariate_of(trial: Trial) -> Covariate | None:
    """What was measured of the strips beforehand; None without one."""
    return getattr(trial, "covariate", None)


def sowings_of(trial: Trial) -> tuple[Sowing, ...]:
    """What goes through the drill, with lots read along."""
    return tuple(trial.sowings.select_related("lot", "level"))


def treatments_of(trial: Trial) -> tuple[Treatment, ...]:
    """Treatments in order, with levels, factors and cost lines read along."""
    return tuple(
        trial.treatments.prefetch_related(Prefetch("levels", Level.objects.select_related("factor")), "levels__cost_lines")
    )
