"""Which trials a write concerns: whatever is saved or deleted anywhere, the summaries that rest on it are old from then on.

The way from a model to the trials it belongs to follows from its foreign keys, so that a new model is followed without being
named here; only what a trial borrows from its workspace is named, for the trial points at that.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import cache
from typing import Any
from uuid import UUID

from django.apps import apps
from django.db.models import F, ForeignKey, Model, OneToOneField, Q
from django.db.models.signals import m2m_changed, post_delete, post_save

from apps.accounts.models import User, Workspace
from apps.farms.models import Field, Machine, SeedLot
from apps.field.samples.models import EstimateSetting
from apps.field.weather.models import Station, WeatherDay
from apps.trial_state.models import TrialSummary
from apps.trials.models import Trial

# What a trial rests on and that does not hang on it: the way from a summary, and to what of it, empty for the row itself.
BORROWED: dict[type[Model], tuple[tuple[str, str], ...]] = {
    Workspace: (("trial__workspace", ""),),
    Field: (("trial__field", ""),),
    SeedLot: (("trial__sowings__lot", ""),),
    EstimateSetting: (("trial__workspace", "workspace"),),
    Station: (("trial__workspace", "workspace"),),
    WeatherDay: (),  # days come in with their station, which is written in the same transaction
    Machine: (),  # widths go into the plan when it is drawn
    User: (),  # names stand in no summary
}
# What is made from a trial, or is about who reads it.
MADE = {"summaries", "verdicts", "jobs", "reports", "accounts", "intake", "health"}
MOST_STEPS = 3


@cache
def way_to_trial(model: type[Model], steps: int = MOST_STEPS) -> tuple[str, ...] | None:
    """Names of the foreign keys that lead from a model to its trial; None where none does."""
    if model is Trial:
        return ()
    if steps == 0 or model in BORROWED:
        return None
    keys = [key for key in model._meta.concrete_fields if isinstance(key, ForeignKey | OneToOneField)]
    ways = [(key.name, *rest) for key in keys if (rest := way_to_trial(key.related_model, steps - 1)) is not None]
    return min(ways, key=len, default=None)


def is_followed(model: type[Model]) -> bool:
    """Whether writes of a model concern trials: not history, not what is made from trials."""
    if model._meta.app_label in MADE - {"accounts"} or hasattr(model, "history_id"):
        return False
    return bool(BORROWED.get(model)) or (model not in BORROWED and way_to_trial(model) is not None)


def outdate(**of: Any) -> None:
    """Summaries are old from this transaction on."""
    TrialSummary.objects.filter(**of).update(revision=F("revision") + 1)


def _trial_of(row: Any, way: tuple[str, ...]) -> UUID | None:
    for name in way[:-1]:
        row = getattr(row, name)
        if row is None:
            return None
    if not way:
        return row.pk
    return getattr(row, f"{way[-1]}_id")


def _changed(model: type[Model]) -> Callable[..., None]:
    way = way_to_trial(model)

    def changed(instance: Model, **_: Any) -> None:
        for way_back, name in BORROWED.get(model, ()):
            outdate(**{way_back: getattr(instance, name) if name else instance})
        if way is not None:
            outdate(trial_id=_trial_of(instance, way))

    return changed


_FOLLOWING: list[Callable[..., None]] = []  # signals hold their receivers weakly


def follow() -> None:
    """Hear of every write; called once every model is there."""
    for model in apps.get_models():
        if not is_followed(model):
            continue
        changed = _changed(model)
        _FOLLOWING.append(changed)
        for signal in (post_save, post_delete):
            signal.connect(changed, sender=model)
        for relation in model._meta.many_to_many:
            m2m_changed.connect(changed, sender=relation.remote_field.through)


def stands(code: str, day: date | None = None, way: str = "") -> Q:
    """Summaries made of what is there now by this code; with a day, those that tell what is due on it.

    ``way`` leads from the rows asked for to their summaries, such as ``summary__``.
    """
    now = Q(**{f"{way}made_of": F(f"{way}revision"), f"{way}code": code})
    return now if day is None else now & (Q(**{f"{way}day": day}) | Q(**{f"{way}day__isnull": True}))
