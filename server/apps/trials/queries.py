"""Reading trials, always through the reader's memberships."""

from __future__ import annotations

from uuid import UUID

from django.db.models import Prefetch, QuerySet

from apps.accounts.models import User
from apps.accounts.rights import within_reach
from apps.base.errors import NotFound
from apps.base.read_once import read_once
from apps.trials.models import Amendment, Covariate, Level, Protocol, Sowing, Strip, Treatment, Trial


def readable(user: User) -> QuerySet[Trial]:
    """Trials of the person's workspaces on the farms within reach."""
    return Trial.objects.filter(within_reach(user, farm="field__farm")).select_related("workspace", "field")


def trial_for(user: User, trial_id: UUID) -> Trial:
    """A trial of one of the person's workspaces, else ``NotFound``."""
    trial = readable(user).select_related("covariate", "protocol__by").filter(id=trial_id).first()
    if trial is None:
        raise NotFound
    return trial


def strip_for(user: User, strip_id: UUID) -> Strip:
    """A strip of one of the person's workspaces, else ``NotFound``."""
    reach = within_reach(user, workspace="trial__workspace", farm="trial__field__farm")
    strip = Strip.objects.filter(reach, id=strip_id).select_related("trial__workspace").first()
    if strip is None:
        raise NotFound
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
