"""Seed lots: writing them, and what the core makes of their tags."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from cultrix_core.seeding.lots import LotValues, SeedLot, lot_values
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require, within_reach
from apps.accounts.services import save_as
from apps.base.errors import Conflict, NotFound
from apps.base.quantities import fill
from apps.farms import models
from apps.farms.models import SeedLot as LotRecord
from apps.farms.schemas import SeedLotIn, SeedLotPatchIn

PLAIN = ("weight_of", "purity_of", "tested_on", "treated")


def tag_of(lot: LotRecord) -> SeedLot:
    """The tag as the core reads it."""
    return SeedLot(
        thousand_seed_weight_g=lot.thousand_seed_weight.value or 0.0,
        weight_of=lot.weight_of,  # type: ignore[arg-type]
        germination_pct=lot.germination.value,
        hard_seed_pct=lot.hard_seed.value or 0.0,
        purity_pct=100.0 if lot.purity.value is None else lot.purity.value,
        purity_of=lot.purity_of,  # type: ignore[arg-type]
        coating_pct=lot.coating.value or 0.0,
        bag_price=lot.bag_price.value,
        bag_seeds=lot.bag_seeds.value,
        bag_kg=lot.bag_weight.value,
    )


def values_of(lot: LotRecord) -> LotValues:
    """Pure, live, weight through the drill, price of a stored lot."""
    return lot_values(tag_of(lot))


def lot_for(user: User, lot_id: UUID) -> LotRecord:
    """A lot of one of the person's workspaces, else ``NotFound``."""
    lot = LotRecord.objects.filter(within_reach(user), id=lot_id).select_related("workspace").first()
    if lot is None:
        raise NotFound
    return lot


def add_lot(user: User, workspace_id: UUID, body: SeedLotIn) -> LotRecord:
    """A new lot from its tag. Refuses tags that cannot be, and a twin of the same crop, variety and number."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    lot = LotRecord(workspace=workspace, crop=crop(body.crop).key)
    with transaction.atomic():
        _put(lot, body, set(SeedLotIn.model_fields))
        save_as(lot, user, "added")
    return lot


def edit_lot(user: User, lot_id: UUID, body: SeedLotPatchIn) -> LotRecord:
    """Change what the body carries; the crop stays. Rates of trials follow through ``trials.sowing.lot_changed``."""
    lot = lot_for(user, lot_id)
    require(user, lot.workspace, "design")
    if body.version != lot.version:
        raise Conflict(
            "stale", "This lot was changed elsewhere meanwhile; look at what is there now.", {"version": lot.version}
        )
    sent = body.model_fields_set - {"version", "amendment"}
    _put(lot, body, sent)
    lot.version += 1
    save_as(lot, user, f"changed {', '.join(sorted(sent))}")
    return lot


def _put(lot: LotRecord, body: Any, sent: set[str]) -> None:
    if "name" in sent:
        lot.name = (body.name or "").strip()[:80]
    if not lot.name:
        raise Refusal("missing", field="name", label="The variety", remedy="Give the name on the tag.")
    if "tag" in sent:
        lot.tag = (body.tag or "").strip()[:40]
    if "treatment" in sent:
        lot.treatment = (body.treatment or "").strip()[:120]
    for name in PLAIN:
        if name in sent:
            setattr(lot, name, getattr(body, name))
    for quantity in models.TAG:
        if quantity.name in sent:
            fill(lot, quantity, getattr(body, quantity.name))
    if lot.thousand_seed_weight.value is None:
        raise Refusal(
            "missing",
            field="thousand_seed_weight",
            label="Thousand-seed weight",
            remedy="Read it off the tag, or count and weigh 4 × 100 seeds.",
        )
    values_of(lot)
    twins = LotRecord.objects.filter(workspace=lot.workspace, crop=lot.crop, name=lot.name, tag=lot.tag).exclude(id=lot.id)
    if twins.exists():
        raise Refusal("duplicate", field="tag", label="Lot", value=str(lot), remedy="Give its number, or use the one there is.")
