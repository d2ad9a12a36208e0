"""Trials: shelf, stages, strips, and the catalogue of choices."""

from typing import Any, Literal, cast
from uuid import UUID

from cultrix_core.crops import PROFILES
from cultrix_core.design.designs import DESIGNS, DesignKind
from cultrix_core.design.factors import HARD_TO_CHANGE
from cultrix_core.design.widths import WidthOption
from cultrix_core.seeding.rates import RATE_UNITS
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import CANONICAL, units_of
from django.http import HttpRequest, JsonResponse
from ninja import Field, Query, Router, Schema, Status

from apps.accounts.queries import actor, formatter_for, workspace_for
from apps.accounts.rights import reach_in
from apps.analysis.economics import wheel_costs as economics_wheel_costs
from apps.base.quantities import TypedIn
from apps.farms.api import seed_lot_out
from apps.farms.models import Machine
from apps.farms.schemas import SeedLotOut, SeedLotPatchIn
from apps.field.events.models import FieldEvent
from apps.pages.seed import output
from apps.pages.today import due as today_due
from apps.pages.trial import output as trial_output
from apps.pages.trial.money_apart import unpriced
from apps.trial_state import view as trial_state_view
from apps.trial_state.listing import Wanted, page_of
from apps.trials import (
    covariates,
    handover,
    layout,
    protocol,
    services,
    sowing,
)
from apps.trials import (
    queries as trials_queries,
)
from apps.trials.models import CostLine, Factor
from apps.trials.next_year import next_year
from apps.trials.queries import covariate_of
from apps.trials.schemas import (
    CatalogueOut,
    CovariateIn,
    CovariateOut,
    CovariateValueOut,
    CropOut,
    DesignOut,
    HandedOverOut,
    HandOverIn,
    KeptIn,
    LayoutIn,
    NewTrialIn,
    SowingIn,
    StripPatchIn,
    TodayOut,
    TreatmentsIn,
    TrialOut,
    TrialPageOut,
    TrialPatchIn,
    UnitOut,
    WheelCostsIn,
    WidthOut,
    WidthsIn,
    WidthsOut,
)
from apps.trials.seed_schemas import SeedStageOut
from apps.trials.treatments import set_treatments as set_treatments_of

router = Router(tags=["trials"])


def _answer(request: HttpRequest, trial_id: UUID) -> TrialOut:
    user = actor(request)
    return trial_output.trial_out(trial_state_view.view(user, trials_queries.trial_for(user, trial_id)), user)


@router.get("/catalogue", response=CatalogueOut, operation_id="catalogue")
def catalogue(request: HttpRequest):  # noqa: ARG001 - ninja passes it
    units = {
        dimension: [
            UnitOut(
                code=unit.code,
                label=unit.label,
                system=unit.system,
                factor=None if unit.bushel or unit.reciprocal or unit.zero else unit.factor,
            )
            for unit in units_of(dimension)
        ]
        for dimension in CANONICAL
    }
    spoken = [*units["areal_density"], *units["mass_per_area"], *units["plant_density"], *units["bag_density"]]
    units["seeding_rate"] = [unit for unit in spoken if unit.code in RATE_UNITS]
    return CatalogueOut(
        crops=[
            CropOut(
                key=profile.key,
                name=profile.name,
                bushel_lb=profile.bushel_lb,
                standard_moisture_pct=profile.standard_moisture_pct,
                planning_cv_pct=profile.planning_cv_pct,
            )
            for profile in PROFILES
        ],
        units=units,
        factor_kinds=list(Factor.KINDS),
        event_kinds=list(FieldEvent.KINDS),
        hard_kinds=sorted(HARD_TO_CHANGE),
        designs=[_design_out(design) for design in DESIGNS],
        machine_kinds=list(Machine.KINDS),
        cost_kinds=list(CostLine.KINDS),
        cost_bases=list(CostLine.BASES),
    )


def _design_out(design: DesignKind) -> DesignOut:
    return DesignOut(
        key=cast(Any, design.key),
        name=design.name,
        rule=design.rule,
        parts=list(design.parts),
        crossed=design.crossed,
        drawn=design.drawn,
        replicated=design.replicated,
        blocked=design.blocking == "blocks",
        blocks_asked=design.blocks_asked,
        takes_conditions=design.takes_conditions,
    )


class TrialsAsked(Schema):
    """Which trials, in which order, and what their ribbons show."""

    find: str = Field("", max_length=200)
    order: Literal["season", "title", "crop", "next"] = "season"
    layer: Literal["plan", "depth", "stand", "estimate", "yield_", "net_return"] = "plan"
    finished: bool | None = None
    drawn: bool | None = None
    archived: bool = False
    offset: int = Field(0, ge=0, le=1_000_000)
    limit: int = Field(50, ge=1, le=200)


@router.get("/workspaces/{workspace_id}/trials", response=TrialPageOut, operation_id="trials")
def trials(request: HttpRequest, workspace_id: UUID, asked: Query[TrialsAsked]):
    user = actor(request)
    wanted = Wanted(**asked.dict(exclude={"layer"}))
    rows, total = page_of(user, workspace_for(user, workspace_id), wanted)
    # as it was stored: checking it again takes longer than reading it
    hidden = asked.layer == "net_return" and not reach_in(user, workspace_for(user, workspace_id)).may("money")
    layer = "plan" if hidden else asked.layer
    return JsonResponse({"rows": [trial_output.trial_row(item, layer) for item in rows], "total": total})


@router.post("/workspaces/{workspace_id}/trials", response={201: TrialOut}, operation_id="add_trial")
def add_trial(request: HttpRequest, workspace_id: UUID, body: NewTrialIn):
    trial = services.add_trial(
        actor(request), workspace_id, title=body.title, crop_key=body.crop, season=body.season, field_id=body.field_id
    )
    return Status(201, _answer(request, trial.id))


@router.post("/trials/{trial_id}/next-year", response={201: TrialOut}, operation_id="add_next_year")
def add_next_year(request: HttpRequest, trial_id: UUID):
    return Status(201, _answer(request, next_year(actor(request), trial_id).id))


def _covariate(request: HttpRequest, trial_id: UUID) -> CovariateOut:
    trial = trials_queries.trial_for(actor(request), trial_id)
    result, standing = covariate_of(trial), covariates.standing_of(trial)
    typed = result.values if result else {}
    return CovariateOut(
        name=result.name if result else "",
        unit=result.unit if result else "",
        measured_on=result.measured_on if result else None,
        values=[
            CovariateValueOut(strip_id=strip.id, order=strip.order, text=typed.get(str(strip.id), ""))
            for strip in trial.strips.all()
        ],
        words=standing.words if standing else "",
    )


@router.get("/trials/{trial_id}/covariate", response=CovariateOut, operation_id="covariate")
def covariate(request: HttpRequest, trial_id: UUID):
    return _covariate(request, trial_id)


@router.put("/trials/{trial_id}/covariate", response=TrialOut, operation_id="set_covariate")
def set_covariate(request: HttpRequest, trial_id: UUID, body: CovariateIn):
    return _answer(request, covariates.set_covariate(actor(request), trial_id, body).id)


@router.get("/workspaces/{workspace_id}/today", response=TodayOut, operation_id="today")
def today(request: HttpRequest, workspace_id: UUID, limit: int = Query(60, ge=1, le=1_000)):
    user = actor(request)
    dues, total = today_due.dues_in(user, workspace_for(user, workspace_id), most=limit)
    return JsonResponse({"dues": dues, "total": total})


@router.get("/trials/{trial_id}", response=TrialOut, operation_id="trial")
def trial(request: HttpRequest, trial_id: UUID):
    return _answer(request, trial_id)


@router.patch("/trials/{trial_id}", response=TrialOut, operation_id="edit_trial")
def edit_trial(request: HttpRequest, trial_id: UUID, body: TrialPatchIn):
    services.edit_trial(actor(request), trial_id, body)
    return _answer(request, trial_id)


@router.put("/trials/{trial_id}/treatments", response=TrialOut, operation_id="set_treatments")
def set_treatments(request: HttpRequest, trial_id: UUID, body: TreatmentsIn):
    set_treatments_of(actor(request), trial_id, body)
    return _answer(request, trial_id)


@router.post("/trials/{trial_id}/layout", response=TrialOut, operation_id="draw_layout")
def draw_layout(request: HttpRequest, trial_id: UUID, body: LayoutIn):
    layout.draw_layout(actor(request), trial_id, body)
    return _answer(request, trial_id)


@router.post("/trials/{trial_id}/strip-widths", response=WidthsOut, operation_id="strip_widths")
def strip_widths(request: HttpRequest, trial_id: UUID, body: WidthsIn):
    user = actor(request)
    options, explanation = layout.widths_for(user, trial_id, body)
    show = trial_state_view.view(user, trials_queries.trial_for(user, trial_id)).show
    return WidthsOut(
        explanation=explanation,
        options=[
            WidthOut(width=TypedIn(text=f"{option.width_m:g}", unit="m"), words=_width(option, show)) for option in options
        ],
    )


def _width(option: WidthOption, show: UnitFormatter) -> str:
    each = ", ".join(f"{times} × {name}" for name, times in option.passes)
    swath = f"; cut {show.text(option.swath_m, 'strip_width')}" if option.swath_passes else ""
    return f"{show.text(option.width_m, 'strip_width')}: {each}{swath}"


@router.post("/trials/{trial_id}/protocol", response=TrialOut, operation_id="freeze_protocol")
def freeze_protocol(request: HttpRequest, trial_id: UUID):
    protocol.freeze(actor(request), trial_id)
    return _answer(request, trial_id)


@router.patch("/strips/{strip_id}", response=TrialOut, operation_id="mark_strip")
def mark_strip(request: HttpRequest, strip_id: UUID, body: StripPatchIn):
    strip = services.mark_strip(actor(request), strip_id, body)
    return _answer(request, strip.trial_id)


@router.get("/trials/{trial_id}/seed", response=SeedStageOut, operation_id="seed")
def seed(request: HttpRequest, trial_id: UUID):
    user = actor(request)
    trial_view = trial_state_view.view(user, trials_queries.trial_for(user, trial_id))
    return output.seed_out(trial_view if reach_in(user, trial_view.trial.workspace).may("money") else unpriced(trial_view))


@router.put("/trials/{trial_id}/sowing", response=TrialOut, operation_id="set_sowing")
def set_sowing(request: HttpRequest, trial_id: UUID, body: SowingIn):
    sowing.set_sowing(actor(request), trial_id, body)
    return _answer(request, trial_id)


@router.put("/trials/{trial_id}/kept-inputs", response=TrialOut, operation_id="keep_inputs")
def keep_inputs(request: HttpRequest, trial_id: UUID, body: KeptIn):
    sowing.keep_inputs(actor(request), trial_id, body)
    return _answer(request, trial_id)


@router.post("/trials/{trial_id}/wheel-costs", response=TrialOut, operation_id="put_wheel_costs")
def put_wheel_costs(request: HttpRequest, trial_id: UUID, body: WheelCostsIn):
    economics_wheel_costs.put_wheel_costs(actor(request), trial_id, body)
    return _answer(request, trial_id)


@router.patch("/seed-lots/{lot_id}", response=SeedLotOut, operation_id="edit_seed_lot")
def edit_seed_lot(request: HttpRequest, lot_id: UUID, body: SeedLotPatchIn):
    lot = sowing.change_lot(actor(request), lot_id, body)
    return seed_lot_out(lot, formatter_for(actor(request), lot.workspace))


@router.post("/workspaces/{workspace_id}/people/{username}/hand-over", response=HandedOverOut, operation_id="hand_over")
def hand_over(request: HttpRequest, workspace_id: UUID, username: str, body: HandOverIn):
    return HandedOverOut(trials=handover.hand_over(actor(request), workspace_id, username, body.to))
