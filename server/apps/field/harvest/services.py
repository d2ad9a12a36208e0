"""Writing loads, and computing their yields at standard moisture."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from cultrix_core.harvest.loads import MOST_PASSES, net_mass, strip_yield
from cultrix_core.units import parse_count
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.services import save_as
from apps.base.quantities import TypedIn, fill, required
from apps.field.harvest import models
from apps.field.harvest.models import HarvestLoad
from apps.field.harvest.schemas import HarvestLoadIn, HarvestSheetIn, SheetRowIn
from apps.records.keeping import all_or_none, keep, strip_of, strips_named, when
from apps.trials.models import Strip, Trial
from apps.trials.profiles import profile_of


def put_harvest_load(user: User, trial_id: UUID, load_id: UUID, body: HarvestLoadIn) -> tuple[HarvestLoad, bool]:
    """Store a load under the client's id and reckon its yield at the crop's standard moisture."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        return keep(user, trial, build_load(trial, strip, load_id, body), body.version)


def put_harvest_sheet(user: User, trial_id: UUID, body: HarvestSheetIn) -> list[HarvestLoad]:
    """Store many loads, all or none; problems and conflicts are listed by row."""

    def put(row: SheetRowIn) -> HarvestLoad:
        trial, strip = strip_of(user, trial_id, row.strip_id)
        return keep(user, trial, build_load(trial, strip, row.id, row), row.version)[0]

    return all_or_none(body.rows, put)


def build_load(trial: Trial, strip: Strip, load_id: UUID, body: HarvestLoadIn) -> HarvestLoad:
    """A load with its yield, not yet stored."""
    profile = profile_of(trial)
    load = HarvestLoad(
        id=load_id,
        strip=strip,
        method=body.method,
        recorded_at=when(body.recorded_at),
    )
    if body.method == "stated":
        fill(load, models.STATED_YIELD, body.stated_yield, bushel_kg=profile.bushel_kg)
        load.standard_moisture_pct = profile.standard_moisture_pct
        load.yield_kg_per_ha = require_between(required(load, models.STATED_YIELD), 0, 1e6, "stated_yield", label="Yield")
        return load
    _alone(trial, strip, body)
    for quantity, typed in (
        (models.GROSS, body.gross),
        (models.TARE, body.tare),
        (models.NET, body.net),
        (models.MOISTURE, body.moisture),
        (models.SWATH_WIDTH, body.swath_width),
        (models.CUT_LENGTH, body.length),
        (models.TEST_WEIGHT, body.test_weight),
        (models.SHRINK, body.shrink),
    ):
        fill(load, quantity, typed)
    load.passes = _counted(body.passes, "passes", "Passes", low=1, high=MOST_PASSES)
    load.pieces = _counted(body.pieces, "pieces", "Pieces", low=1, high=10_000_000)
    if load.test_weight.value is not None:
        require_between(load.test_weight.value, 10, 110, "test_weight", label="Test weight", unit=" kg/hL")
    _reckon(load, profile.standard_moisture_pct)
    return load


def recompute_loads(user: User, trial: Trial) -> None:
    """Bring every weighed load to the standard moisture the trial has now; each keeps its history."""
    standard = profile_of(trial).standard_moisture_pct
    for load in HarvestLoad.objects.filter(strip__trial=trial, method="weighed").exclude(standard_moisture_pct=standard):
        _reckon(load, standard)
        load.version += 1
        save_as(load, user, "standard moisture changed")


def _reckon(load: HarvestLoad, standard: float | None) -> None:
    waits = standard is not None and load.moisture.value is None
    result = strip_yield(
        net_kg=_net(load),
        swath_width_m=required(load, models.SWATH_WIDTH),
        length_m=required(load, models.CUT_LENGTH),
        moisture_pct=load.moisture.value,
        standard_moisture_pct=None if waits else standard,
        passes=load.passes or 1,
        shrink_pct=load.shrink.value or 0.0,
    )
    load.standard_moisture_pct = standard
    load.yield_kg_per_ha = None if waits else result.yield_kg_per_ha  # weighed now, the moisture comes later


def _alone(trial: Trial, strip: Strip, body: HarvestLoadIn) -> None:
    """Refuse a load that holds the grain of more than one strip."""
    others = strips_named(trial, [strip_id for strip_id in body.more_strip_ids if strip_id != strip.id])
    if others:
        orders = sorted({strip.order, *(other.order for other in others)})
        raise Refusal("shared_load", field="more_strip_ids", value=f"strips {', '.join(map(str, orders))}")


def _counted(typed: TypedIn, field: str, label: str, *, low: int, high: int) -> int | None:
    if not typed.text.strip():
        return None
    return int(require_between(parse_count(typed.text, field=field, label=label), low, high, field, label=label))


def _net(load: HarvestLoad) -> float:
    """Net weight: as typed, or gross less tare. Both given must agree."""
    if load.gross.value is None:
        return required(load, models.NET)
    net = net_mass(gross_kg=load.gross.value, tare_kg=load.tare.value or 0.0)
    if load.net.value is not None and abs(load.net.value - net) > max(0.5, 0.001 * net):
        raise Refusal(
            "unknown_choice",
            field="net",
            label="Net weight",
            value=f"{load.net.value:g} kg",
            limit=f"gross less tare, which is {net:g} kg; leave one of them empty",
        )
    return net
