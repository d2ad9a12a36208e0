"""A covariate of a trial: what was measured on strips before treatments began, and whether it may adjust the comparison.

The application decides by date and protocol: it adjusts only when it was measured before planting and before the first pass of
tillage, and was named in the protocol when that was frozen. Anything later is shown beside the verdict and decides nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.units import parse_number
from cultrix_core.writing import written_day
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.services import save_as
from apps.trials.editing import saved, writable
from apps.trials.models import Covariate, Trial
from apps.trials.queries import covariate_of, protocol_of
from apps.trials.schemas import CovariateIn

MOST = 60
TOO_LATE = (
    "It was measured on {on}, not before {began}, when treatments began: what they may have changed "
    "explains a difference and must not adjust it. It is not used."
)
NOT_NAMED = "It was not named in the protocol when that was frozen: the comparison with it stands beside and decides nothing."
NOT_FROZEN = "The protocol is not frozen; once it is, with this covariate in it, the comparison may be adjusted by it."
DECIDES = "Measured before treatments began and named in the frozen protocol: the comparison is adjusted by it."


@dataclass(frozen=True, slots=True, kw_only=True)
class CovariateStanding:
    """What a covariate may do. ``usable``: measured in time; ``decides``: named in the frozen protocol as well."""

    name: str
    values: dict[UUID, float]
    usable: bool
    decides: bool
    words: str


def began_on(trial: Trial) -> date | None:
    """When treatments began: planting, or the first pass over the ground before it."""
    sown = trial.strips.filter(planting_records__voided=False).values_list("planting_records__sown_at", flat=True)
    passes = trial.tillage_passes.filter(voided=False).values_list("done_on", flat=True)
    days = [trial.planted_on, *passes, *(timezone.localtime(at).date() for at in sown)]
    return min((day for day in days if day is not None), default=None)


def standing_of(trial: Trial) -> CovariateStanding | None:
    """What the covariate of a trial may do; None without one."""
    covariate = covariate_of(trial)
    if covariate is None or not covariate.values:
        return None
    values = {UUID(key): parse_number(text, field="values") for key, text in covariate.values.items() if text.strip()}
    began = began_on(trial)
    if began is not None and covariate.measured_on >= began:
        words, usable, named = TOO_LATE.format(on=written_day(covariate.measured_on), began=written_day(began)), False, False
    else:
        protocol = protocol_of(trial)
        named = protocol is not None and protocol.content.get("covariate", "") == str(covariate)
        words, usable = (DECIDES if named else NOT_NAMED if protocol else NOT_FROZEN), True
    return CovariateStanding(name=covariate.name, values=values, usable=usable, decides=named, words=words)


def set_covariate(user: User, trial_id: UUID, body: CovariateIn) -> Trial:
    """Set or change the covariate; an empty name takes it away, its history stays.

    Raises
    ------
    Refusal : a value that is no number, strips of another trial, a missing date.
    """
    with transaction.atomic():
        trial = writable(user, trial_id, body.version)
        covariate = Covariate.objects.filter(trial=trial).first()
        name = " ".join(body.name.split())
        if not name:
            if covariate is not None:
                covariate.delete()
            return saved(trial, user, "took the covariate away", body.amendment)
        if len(name) > MOST or len(body.unit) > 20:
            raise Refusal("too_large", field="name", label="The name", value=len(name), limit=MOST, unit=" characters")
        if body.measured_on is None:
            raise Refusal("missing", field="measured_on", label="The day of measuring", remedy="It decides whether it counts.")
        covariate = covariate or Covariate(trial=trial)
        covariate.name, covariate.unit, covariate.measured_on = name, " ".join(body.unit.split()), body.measured_on
        covariate.values = _values(trial, body)
        save_as(covariate, user, "set the covariate")
        return saved(trial, user, f"set the covariate {name}", body.amendment)


def _values(trial: Trial, body: CovariateIn) -> dict[str, str]:
    own = {strip.id: strip.order for strip in trial.strips.all()}
    values = {}
    for row in body.values:
        if row.strip_id not in own:
            raise Refusal("unknown_choice", field="values", label="Strip", value=row.strip_id, limit="this trial's own")
        if row.text.strip():
            parse_number(row.text, field="values", label=f"Strip {own[row.strip_id]}: {body.name}")
            values[str(row.strip_id)] = row.text.strip()
    return values
