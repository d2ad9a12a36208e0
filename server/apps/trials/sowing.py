"""Writing what goes through the drill: lots, mixtures, companions; and what a changed lot does to trials."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.seeding.mixtures import SHARES_TOLERANCE_PCT
from cultrix_core.units import parse_number
from django.db import transaction

from apps.accounts.models import User
from apps.audit.services import note
from apps.base.quantities import fill
from apps.farms.merged import found
from apps.farms.models import SeedLot
from apps.farms.schemas import SeedLotPatchIn
from apps.farms.seed_lots import edit_lot
from apps.trials import models, protocol
from apps.trials.editing import saved, writable
from apps.trials.lots import spoken
from apps.trials.models import Level, Sowing, Trial
from apps.trials.schemas import KeptIn, SowingIn, SownIn
from apps.trials.treatments import reweigh_levels

MOST_PARTS = 24


def set_sowing(user: User, trial_id: UUID, body: SowingIn) -> Trial:
    """Set all parts at once. Rates typed by weight, plants or bags follow the lots."""
    with transaction.atomic():
        trial = writable(user, trial_id, body.version)
        if len(body.parts) > MOST_PARTS:
            raise Refusal("too_large", field="parts", label="Parts sown", value=len(body.parts), limit=MOST_PARTS)
        before = protocol.plan_lines(trial)
        trial.sowings.all().delete()
        rows = [_put_part(trial, position, row) for position, row in enumerate(body.parts)]
        _check_parts(rows)
        reweigh_levels(trial)
        note(user, "plan", "set what is sown", trial=trial, before=before, after=protocol.plan_lines(trial))
        return saved(trial, user, "set what is sown", body.amendment)


def _put_part(trial: Trial, position: int, row: SownIn) -> Sowing:
    lot = found(SeedLot, trial.workspace, row.lot_id)
    if lot is None:
        raise Refusal("unknown_choice", field="lot", label="Lot", value=row.lot_id, limit="the lots in Setup")
    if row.part == "crop" and lot.crop != trial.crop:
        raise Refusal(
            "other_crop", field="lot", value=f"{lot} is {crop(lot.crop).name.lower()}", limit=crop(trial.crop).name.lower()
        )
    part = Sowing(trial=trial, position=position, part=row.part, lot=lot, share_by=row.share_by, place=row.place)
    if row.level_id is not None:
        part.level = Level.objects.filter(id=row.level_id, factor__trial=trial).first()
        if part.level is None:
            raise Refusal(
                "unknown_choice", field="level", label="Level", value=row.level_id, limit="the levels of the treatments"
            )
    if row.part == "mixture":
        fill(part, models.SHARE, row.share)
        if part.share.value is None:
            raise Refusal("missing", field="share", label=f"The share of {lot}", remedy="Parts of a mixture need one each.")
        require_between(part.share.value, 0, 100, "share", label=f"Share of {lot}", unit=" %")
    if row.part == "companion":
        _put_rate(part, row)
    part.save()
    return part


def _put_rate(part: Sowing, row: SownIn) -> None:
    if not row.rate.text.strip():
        raise Refusal("missing", field="rate", label=f"The rate of {part.lot}", remedy="A companion has a rate of its own.")
    value = parse_number(row.rate.text, field="rate", label="Rate")
    require_positive(value, "rate", label=f"Rate of {part.lot}")
    fill(part, models.PART_RATE, row.rate, value=spoken(part.lot).per_m2(value, row.rate.unit))


def _check_parts(parts: list[Sowing]) -> None:
    """One lot of the crop for a level; a mixture that adds up, with shares of one kind."""
    for part in parts:
        same = [sowing for sowing in parts if sowing.level_id == part.level_id]
        crops = [sowing for sowing in same if sowing.part == "crop"]
        mixed = [sowing for sowing in same if sowing.part == "mixture"]
        if len(crops) > 1:
            raise Refusal(
                "duplicate",
                field="lot",
                label="The crop's lot",
                value=str(crops[1].lot),
                remedy="One lot for the same strips; several in one drill are a mixture.",
            )
        if crops and mixed:
            raise Refusal(
                "duplicate",
                field="lot",
                label="Seed",
                value=str(crops[0].lot),
                remedy="Either one lot or a mixture goes on the same strips; make this lot a part of the mixture.",
            )
        if len({sowing.share_by for sowing in mixed}) > 1:
            raise Refusal(
                "unknown_choice", field="share", label="Shares", value="by weight and by seeds", limit="one kind for a mixture"
            )
        whole = sum(sowing.share.value or 0.0 for sowing in mixed)
        if mixed and abs(whole - 100) > SHARES_TOLERANCE_PCT:
            raise Refusal(
                "not_whole", field="share", label="Shares of the mixture", value=f"{whole:g} %", remedy="Mend one of them."
            )


def change_lot(user: User, lot_id: UUID, body: SeedLotPatchIn) -> SeedLot:
    """Change a lot, and let the trials that sow it follow; a frozen one needs the reason."""
    with transaction.atomic():
        lot = edit_lot(user, lot_id, body)
        for part in Sowing.objects.filter(lot=lot, part="companion").exclude(rate_typed=""):
            value = parse_number(part.rate.text, field="rate")
            part.rate = replace(part.rate, value=spoken(lot).per_m2(value, part.rate.unit))
            part.save()
        for trial in Trial.objects.filter(sowings__lot=lot).distinct():
            reweigh_levels(trial)
            saved(trial, user, f"lot {lot} changed", body.amendment)
    return lot


def keep_inputs(user: User, trial_id: UUID, body: KeptIn) -> Trial:
    """Keep the typed inputs of a calculator with the trial; they are checked when the page reckons with them."""
    with transaction.atomic():
        trial = writable(user, trial_id, body.version)
        values = {name: {"text": typed.text.strip()[:200], "unit": typed.unit[:12]} for name, typed in body.values.items()}
        trial.kept = {**trial.kept, body.calculator: values}
        return saved(trial, user, f"kept {body.calculator}")
