from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import WorkingOut
from apps.base.quantities import TypedIn, TypedOut
from apps.farms.schemas import SeedLotOut


class PartOut(Schema):
    """A part of what goes through the drill, as it was set."""

    part: Literal["crop", "mixture", "companion"]
    lot_id: UUID
    lot_title: str
    crop_name: str
    level_id: int | None
    level_name: str
    share: TypedOut
    share_by: Literal["weight", "seeds"]
    rate: TypedOut
    place: Literal["in_row", "between", "broadcast"]


class MixedOut(Schema):
    name: str
    mass: str
    seeds: str
    share: str


class CompanionOut(Schema):
    name: str
    seeds: str
    mass: str
    place: str


class SeedTreatmentOut(Schema):
    """What one treatment is sown with. ``stand``: expected at harvest, None without an emergence.

    ``target``: the weight through the drill as it would be typed, a start for calibrating.
    """

    treatment_id: UUID
    lot: str
    seeds: str | None
    mass: str | None
    target: TypedIn
    stand: str | None
    stand_working: WorkingOut | None
    cost: str | None
    rate_working: WorkingOut | None
    mixture: list[MixedOut]
    companions: list[CompanionOut]


class FurrowOut(Schema):
    row_spacing: str
    per_row: str
    seedbed_use: str
    in_band: str
    relative: str
    warns: bool
    working: WorkingOut


class WheelsOut(Schema):
    row_spacing: str
    rows_hit: int
    rows_lost: str
    yield_lost: str
    loss: str | None
    better_centre: str
    clear: bool
    canopy: str | None
    working: WorkingOut


class MeterOut(Schema):
    """The combination of disc and sprockets nearest to one treatment's rate."""

    treatment_id: UUID
    combination: str
    rate: str
    off: str
    working: WorkingOut


class EnvelopeOut(Schema):
    """Counted seed for one plot of a treatment."""

    treatment_id: UUID
    seeds: int
    a_row: int
    weight: str
    working: WorkingOut


class KeptProblemOut(Schema):
    """Why kept inputs cannot be reckoned with."""

    field: str
    message: str


class SeedStageOut(Schema):
    """The Seed stage. ``kept``: typed inputs of its calculators."""

    lots: list[SeedLotOut]
    parts: list[PartOut]
    treatments: list[SeedTreatmentOut]
    kept: dict[str, dict[str, TypedIn]]
    fertiliser: list[FurrowOut]
    fertiliser_problem: KeptProblemOut | None
    fertiliser_caution: str
    wheels: list[WheelsOut]
    wheels_problem: KeptProblemOut | None
    wheels_into_costs: bool
    meter: list[MeterOut]
    meter_problem: KeptProblemOut | None
    envelopes: list[EnvelopeOut]
    envelope_problem: KeptProblemOut | None
