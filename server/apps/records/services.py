"""Writing records: stand counts, loads, the season's log."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from cultrix_core.harvest.loads import MOST_PASSES, net_mass, strip_yield
from cultrix_core.stand.row_lengths import count_in_quadrat, count_on_rows, hoop_area
from cultrix_core.units import parse_count
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.services import require_writer, save_as
from apps.quantities import TypedIn, fill
from apps.records import models
from apps.records.keeping import all_or_none, keep, not_to_come, strip_of, strips_named, when
from apps.records.models import FieldEvent, HarvestLoad, SamplingPlan, StandCount
from apps.records.schemas import FieldEventIn, HarvestLoadIn, HarvestSheetIn, SheetRowIn, StandCountIn
from apps.trials.models import Strip, Trial
from apps.trials.profiles import profile_of
from apps.trials.selectors import trial_for


def put_stand_count(user: User, trial_id: UUID, count_id: UUID, body: StandCountIn) -> tuple[StandCount, bool]:
    """Store a count under the client's id. Refuses letters, fractions, sizes that are not positive."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        count = StandCount(id=count_id, strip=strip, method=body.method, by_eye=body.by_eye, recorded_at=when(body.recorded_at))
        count.plants = parse_count(body.plants, field="plants", label="Plants")
        _fill_seen(count, body)
        count.plan = _plan(trial, body)
        count.place = body.place if count.plan is not None and not body.by_eye else None
        if body.method == "rows":
            _fill_rows(count, body)
        else:
            quantity, typed = (models.HOOP, body.diameter) if body.method == "hoop" else (models.COUNT_AREA, body.area)
            fill(count, quantity, typed)
            size = _given(count, quantity)
            area = hoop_area(size) if body.method == "hoop" else size
            count.plants_per_m2 = count_in_quadrat(count.plants, area_m2=area).plants_per_m2
        return keep(user, trial, count, body.version)


def _fill_seen(count: StandCount, body: StandCountIn) -> None:
    """Gaps and doubles that were counted through; they change nothing in the stand, and say why it is uneven."""
    for name, value in (("gaps", body.gaps), ("doubles", body.doubles)):
        if value is not None:
            require_between(value, 0, 500, name)
            setattr(count, name, value)
    if count.doubles and 2 * count.doubles > count.plants:
        raise Refusal(
            "too_large", field="doubles", label="Doubles", value=count.doubles, limit=count.plants // 2,
            remedy="Each double is two of the plants counted.",
        )  # fmt: skip


def _plan(trial: Trial, body: StandCountIn) -> SamplingPlan | None:
    if body.plan_id is None:
        return None
    plan = trial.sampling_plans.filter(id=body.plan_id).first()
    if plan is None:
        raise Refusal("unknown_choice", field="plan_id", label="Plan", value=body.plan_id, limit="the plans of this trial")
    if body.place is not None:
        require_between(body.place, 1, plan.planned + plan.reserve, "place", label="Place")
    return plan


def _fill_rows(count: StandCount, body: StandCountIn) -> None:
    fill(count, models.COUNT_LENGTH, body.length)
    fill(count, models.COUNT_ROW_SPACING, body.row_spacing)
    count.rows = parse_count(body.rows or "1", field="rows", label="Rows counted")
    result = count_on_rows(
        count.plants,
        length_m=_given(count, models.COUNT_LENGTH),
        rows=count.rows,
        row_spacing_m=_given(count, models.COUNT_ROW_SPACING),
    )
    count.plants_per_m2 = result.plants_per_m2


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
        load.yield_kg_per_ha = require_between(_given(load, models.STATED_YIELD), 0, 1e6, "stated_yield", label="Yield")
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
    if load.test_weight_kg_hl is not None:
        require_between(load.test_weight_kg_hl, 10, 110, "test_weight", label="Test weight", unit=" kg/hL")
    _reckon(load, profile.standard_moisture_pct)
    return load


def reckon_again(user: User, trial: Trial) -> None:
    """Bring every weighed load to the standard moisture the trial has now; each keeps its history."""
    standard = profile_of(trial).standard_moisture_pct
    for load in HarvestLoad.objects.filter(strip__trial=trial, method="weighed").exclude(standard_moisture_pct=standard):
        _reckon(load, standard)
        load.version += 1
        save_as(load, user, "standard moisture changed")


def _reckon(load: HarvestLoad, standard: float | None) -> None:
    waits = standard is not None and load.moisture_pct is None
    result = strip_yield(
        net_kg=_net(load),
        swath_width_m=_given(load, models.SWATH_WIDTH),
        length_m=_given(load, models.CUT_LENGTH),
        moisture_pct=load.moisture_pct,
        standard_moisture_pct=None if waits else standard,
        passes=load.passes or 1,
        shrink_pct=load.shrink_pct or 0.0,
    )
    load.standard_moisture_pct = standard
    load.yield_kg_per_ha = None if waits else result.yield_kg_per_ha  # weighed now, the moisture comes later


def _alone(trial: Trial, strip: Strip, body: HarvestLoadIn) -> None:
    """Refuse a load that holds the grain of more than one strip."""
    others = strips_named(trial, [one for one in body.more_strip_ids if one != strip.id])
    if others:
        orders = sorted({strip.order, *(one.order for one in others)})
        raise Refusal("shared_load", field="more_strip_ids", value=f"strips {', '.join(map(str, orders))}")


def _counted(typed: TypedIn, field: str, label: str, *, low: int, high: int) -> int | None:
    if not typed.text.strip():
        return None
    return int(require_between(parse_count(typed.text, field=field, label=label), low, high, field, label=label))


def _net(load: HarvestLoad) -> float:
    """Net weight: as typed, or gross less tare. Both given must agree."""
    if load.gross_kg is None:
        return _given(load, models.NET)
    net = net_mass(gross_kg=load.gross_kg, tare_kg=load.tare_kg or 0.0)
    if load.net_kg is not None and abs(load.net_kg - net) > max(0.5, 0.001 * net):
        raise Refusal(
            "unknown_choice",
            field="net",
            label="Net weight",
            value=f"{load.net_kg:g} kg",
            limit=f"gross less tare, which is {net:g} kg; leave one of them empty",
        )
    return net


def put_field_event(user: User, trial_id: UUID, event_id: UUID, body: FieldEventIn) -> tuple[FieldEvent, bool]:
    """Store a line of the season's log, for all strips or the ones named."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require_writer(user, trial.workspace)
        if not body.text.strip():
            raise Refusal("missing", field="text", label="What happened", remedy="A few words are enough.")
        not_to_come(body.happened_on, "happened_on")
        strips = strips_named(trial, body.strip_ids)
        event = FieldEvent(
            id=event_id,
            trial=trial,
            kind=body.kind,
            happened_on=body.happened_on,
            text=body.text.strip()[:400],
            reentry_hours=_reentry(body),
            recorded_at=when(body.recorded_at),
        )
        kept, changed = keep(user, trial, event, body.version)
        if changed:
            kept.strips.set(strips)
        return kept, changed


def _reentry(body: FieldEventIn) -> int | None:
    """Hours of the label before anybody goes in again; only sprays have them."""
    if body.reentry_hours is None or body.kind != "spray":
        return None
    return int(require_between(body.reentry_hours, 0, 24 * 60, "reentry_hours", label="Re-entry interval", unit=" h"))


def _given(record: Any, quantity: models.Quantity) -> float:
    value: float | None = getattr(record, quantity.value_column)
    if value is None:
        raise Refusal(
            "missing", field=quantity.name, label=quantity.label, remedy="It is needed to reckon the area or the weight."
        )
    return value
