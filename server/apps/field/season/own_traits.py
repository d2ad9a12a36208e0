"""What a workspace measures and rates beside the catalogue: offered, planned for a day after sowing, and withdrawn again."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import Visit
from cultrix_core.errors import Refusal, require_between
from cultrix_core.season.own_traits import OwnTrait, is_own, own_trait, own_trait_key
from cultrix_core.season.traits import MEASURED, RATED, Measured, Rated, measured, rated
from cultrix_core.units import parse_number
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.audit.services import note

MOST = 40
LATEST_DAY = 700


@dataclass(frozen=True, slots=True, kw_only=True)
class Offered:
    """A trait that a workspace offers: of one crop or, empty, of all; due so many days after sowing, or whenever one likes."""

    key: str
    crop: str
    days: int | None

    @property
    def trait(self) -> OwnTrait:
        """What its key says."""
        found = own_trait(self.key)
        assert found is not None
        return found


def offered(workspace: Workspace, crop: str = "") -> list[Offered]:
    """Traits of a workspace, those of a crop where one is named."""
    rows = [Offered(**row) for row in workspace.own_traits if own_trait(row["key"]) is not None]
    return [row for row in rows if not crop or row.crop in ("", crop)]


def measured_in(workspace: Workspace, crop: str) -> list[Measured]:
    """What can be measured on a trial: the catalogue, then the workspace's own."""
    own = (row for row in offered(workspace, crop) if row.trait.way == "number")
    return [*MEASURED, *(measured(row.key) for row in own)]


def rated_in(workspace: Workspace, crop: str) -> list[Rated]:
    """What can be judged on a trial: the catalogue, then the workspace's own."""
    own = (row for row in offered(workspace, crop) if row.trait.way != "number")
    return [*RATED, *(rated(row.key) for row in own)]


def responses_in(workspace: Workspace, crop: str) -> Iterator[str]:
    """Keys of the workspace's own traits that a trial may be judged by."""
    for row in offered(workspace, crop):
        if row.trait.way != "choice":
            yield f"{'measure' if row.trait.way == 'number' else 'rating'}:{row.key}"


def visits_planned(workspace: Workspace, crop: str) -> tuple[Visit, ...]:
    """Visits for the traits that are due on a day after sowing."""
    return tuple(
        Visit(
            key=f"own-{hashlib.sha256(row.key.encode()).hexdigest()[:10]}",
            task="measure" if row.trait.way == "number" else "rate",
            what=row.trait.name,
            heat=None,
            days=row.days,
            why="Planned in this workspace.",
            trait=row.key,
        )
        for row in offered(workspace, crop)
        if row.days is not None
    )


def offer(user: User, workspace_id: UUID, trait: OwnTrait, *, crop: str, days: str) -> Workspace:
    """Offer a trait from now on; what is offered already gets another crop or day.

    Raises
    ------
    Refusal : of ``own_trait_key``; a crop or day that cannot be; too many.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    row: dict[str, object] = {"key": own_trait_key(trait), "crop": profile_of(crop).key if crop else "", "days": _days(days)}
    _put(user, workspace, [row], f"offered the variable {trait.name}")
    return workspace


def _days(text: str) -> int | None:
    if not text.strip():
        return None
    days = parse_number(text, field="days", label="Days after sowing")
    if days != int(days):
        raise Refusal("not_a_count", field="days", label="Days after sowing", value=text.strip())
    return int(require_between(days, 0, LATEST_DAY, "days", label="Days after sowing"))


def offer_known(user: User, workspace: Workspace, keys: set[str]) -> None:
    """Offer the own traits that records of a package have."""
    there = {row.key for row in offered(workspace)}
    new = sorted(key for key in keys - there if is_own(key) and own_trait(key) is not None)
    rows: list[dict[str, object]] = [{"key": key, "crop": "", "days": None} for key in new]
    if rows:
        _put(user, workspace, rows, "offered variables that came with a package")


def _put(user: User, workspace: Workspace, rows: list[dict[str, object]], what: str) -> None:
    with transaction.atomic():
        held = Workspace.objects.select_for_update().get(pk=workspace.pk)
        keys = {row["key"] for row in rows}
        kept = [row for row in held.own_traits if row["key"] not in keys]
        if len(kept) + len(rows) > MOST:
            raise Refusal("too_large", field="name", label="Variables of a workspace", value=len(kept) + len(rows), limit=MOST)
        before = _told(held)
        held.own_traits = [*kept, *rows]
        held.save(update_fields=["own_traits"])
        note(user, "settings", what, workspace=held, before=before, after=_told(held))
        workspace.own_traits = held.own_traits


def withdraw(user: User, workspace_id: UUID, key: str) -> Workspace:
    """Offer a trait no longer; what was recorded of it stays and is compared as before."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    with transaction.atomic():
        held = Workspace.objects.select_for_update().get(pk=workspace.pk)
        before = _told(held)
        held.own_traits = [row for row in held.own_traits if row["key"] != key]
        held.save(update_fields=["own_traits"])
        note(user, "settings", "withdrew a variable", workspace=held, before=before, after=_told(held))
    return held


def _told(workspace: Workspace) -> dict[str, str]:
    return {row.trait.name: words_of(row) for row in offered(workspace)}


def words_of(row: Offered) -> str:
    """What is recorded of a trait, in words."""
    trait = row.trait
    if trait.way == "choice":
        what = f"one of {', '.join(trait.words)}"
    elif trait.way == "rating":
        what = f"rating from {trait.low:g}, {trait.words[0]}, to {trait.high:g}, {trait.words[1]}"
    else:
        what = f"{trait.low:g} to {trait.high:g} {trait.unit}".strip()
    return f"{what}, {row.days} days after sowing" if row.days is not None else what
