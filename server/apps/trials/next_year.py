"""The same question once more: a new trial of the series with all that was asked, and nothing that was drawn or grown."""

from __future__ import annotations

import re
from uuid import UUID

from django.db import transaction
from django.db.models import Max

from apps.accounts.models import User
from apps.accounts.rights import reach_in, require
from apps.accounts.services import save_as
from apps.base.quantities import TypedIn
from apps.trials.costs import as_typed
from apps.trials.models import Factor, Level, Trial
from apps.trials.queries import sowings_of, treatments_of, trial_for
from apps.trials.schemas import CostIn, FactorIn, SowingIn, SownIn, TreatmentIn, TreatmentsIn, TrialPatchIn
from apps.trials.services import LIMITS, add_trial, edit_trial
from apps.trials.sowing import set_sowing
from apps.trials.treatments import set_treatments

TYPED = (
    "price",
    "unit_cost",
    "practical_margin",
    "net_margin",
    "expected_yield",
    "bag_price",
    "standard_moisture",
    "row_spacing",
    "thousand_seed_weight",
    "emergence",
    "survival",
    "sowing_depth",
    "bag_seeds",
)
OF_ONE_DRAW = ("version", "amendment", "seed")  # of what was asked for a layout: holds for that one alone
YEAR = re.compile(r"\b(19|20)\d\d\b")


def next_year(user: User, trial_id: UUID) -> Trial:
    """Add a year to the series of a trial; a trial without a series gets its title, the year left away.

    The season follows the latest of the series. Question, money, seed, factors, treatments and costs come along; field,
    layout, protocol and records do not: every year is laid out and drawn anew.
    """
    old = trial_for(user, trial_id)
    require(user, old.workspace, "design")
    with transaction.atomic():
        if not old.series.strip():
            old = edit_trial(user, old.id, TrialPatchIn(version=old.version, series=_without_year(old.title)))
        latest = Trial.objects.filter(workspace=old.workspace, crop=old.crop, series__iexact=old.series.strip()).aggregate(
            last=Max("season")
        )["last"]
        season = (latest or old.season) + 1
        title = f"{_without_year(old.title)} {season}"[: LIMITS["title"]]
        field_id = None if reach_in(user, old.workspace).farms is None else old.field_id
        return _copied(user, old, title=title, season=season, field_id=field_id, series=old.series)


def copy_trial(user: User, trial_id: UUID, *, title: str, season: int, field_id: UUID | None) -> Trial:
    """Ask the same in another field or season: question, treatments, costs, seed and design; never layout or records.

    It is a question of its own: the series stays with the trial it was copied from.
    """
    old = trial_for(user, trial_id)
    require(user, old.workspace, "design")
    with transaction.atomic():
        new = _copied(user, old, title=title, season=season, field_id=field_id, series="")
        asked = {name: value for name, value in old.plan.get("asked", {}).items() if name not in OF_ONE_DRAW}
        if asked:
            new.plan = {"asked": asked}
            save_as(new, user, f"copied from {old.title}"[:100])
        return new


def _copied(user: User, old: Trial, *, title: str, season: int, field_id: UUID | None, series: str) -> Trial:
    new = add_trial(user, old.workspace_id, title=title, crop_key=old.crop, season=season, field_id=field_id)
    new = edit_trial(user, new.id, _asked(old, new.version, series))
    new = _sown(user, old, new)
    if old.seeding_rate.text:
        rate = TypedIn(text=old.seeding_rate.text, unit=old.seeding_rate.unit)
        new = edit_trial(user, new.id, TrialPatchIn(version=new.version, seeding_rate=rate))
    return _treated(user, old, new)


def _without_year(title: str) -> str:
    return " ".join(YEAR.sub("", title).split()) or title


def _asked(old: Trial, version: int, series: str) -> TrialPatchIn:
    typed = {name: TypedIn(text=getattr(old, f"{name}_typed"), unit=getattr(old, f"{name}_unit")) for name in TYPED}
    kept = {name: item for name, item in typed.items() if item.text}
    margin = TypedIn(text=old.response_margin.text, unit=old.response_margin.unit)
    return TrialPatchIn(
        version=version,
        series=series,
        question=old.question,
        guess=old.guess,
        primary_response=old.primary_response,
        **({"response_margin": margin} if margin.text else {}),  # type: ignore[arg-type]
        amounts_by=old.amounts_by,  # type: ignore[arg-type]
        package=old.package,
        alpha=old.alpha,
        emergence_of=old.emergence_of,  # type: ignore[arg-type]
        **kept,  # type: ignore[arg-type]
    )


def _sown(user: User, old: Trial, new: Trial) -> Trial:
    """The lots that went on every strip; those of one level are chosen anew."""
    parts = [
        SownIn(
            part=sowing.part,  # type: ignore[arg-type]
            lot_id=sowing.lot_id,
            share=TypedIn(text=sowing.share.text, unit=sowing.share.unit),
            share_by=sowing.share_by,  # type: ignore[arg-type]
            rate=TypedIn(text=sowing.rate.text, unit=sowing.rate.unit),
            place=sowing.place,  # type: ignore[arg-type]
        )
        for sowing in sowings_of(old)
        if sowing.level_id is None
    ]
    return set_sowing(user, new.id, SowingIn(version=new.version, parts=parts)) if parts else new


def _level(level: Level) -> TypedIn:
    return TypedIn(text=level.amount.text or level.name, unit=level.amount.unit)


def _treated(user: User, old: Trial, new: Trial) -> Trial:
    factors = list(Factor.objects.filter(trial=old))
    if not factors:
        return new
    places = {factor.pk: place for place, factor in enumerate(factors)}
    levels = Level.objects.filter(factor__trial=old).select_related("factor").prefetch_related("cost_lines")
    return set_treatments(
        user,
        new.id,
        TreatmentsIn(
            version=new.version,
            factors=[
                FactorIn(kind=factor.kind, name=factor.name, hard_to_change=factor.hard_to_change)  # type: ignore[arg-type]
                for factor in factors
            ],
            treatments=[
                TreatmentIn(
                    levels=[
                        _level(level) for level in sorted(treatment.levels.all(), key=lambda level: places[level.factor_id])
                    ],
                    is_control=treatment.is_control,
                    extra_cost=TypedIn(text=treatment.extra_cost.text, unit=treatment.extra_cost.unit),
                )
                for treatment in treatments_of(old)
            ],
            costs=[
                CostIn(
                    factor=places[level.factor_id],
                    level=_level(level),
                    kind=line.kind,  # type: ignore[arg-type]
                    label=line.label,
                    times=line.times.text,
                    each=as_typed(line),
                    basis=line.basis,  # type: ignore[arg-type]
                    spread=TypedIn(text=line.spread.text, unit=line.spread.unit),
                    made_of={name: TypedIn(**item) for name, item in line.made_of.items()},
                )
                for level in levels
                for line in level.cost_lines.all()
            ],
        ),
    )
