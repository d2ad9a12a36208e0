"""The Seed stage: lots, what each treatment is sown with, fertiliser with the seed, wheels of later passes."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.calculators.inputs import whole_number
from cultrix_core.crops import crop
from cultrix_core.economics.wheel_tracks import better_centre, tracks_working
from cultrix_core.errors import Refusal
from cultrix_core.seeding import seed_meter
from cultrix_core.seeding.calibration import envelope, envelope_working
from cultrix_core.seeding.fertiliser import DEFER, furrow_working, furrows
from cultrix_core.seeding.lot_workings import rate_steps, seed_cost_per_ha, stand_working
from cultrix_core.seeding.lots import bag_kg_per_ha
from cultrix_core.seeding.mixtures import Part, mixture
from cultrix_core.seeding.rates import canopy_share, kg_per_ha
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Working

from apps.analysis.economics.wheel_costs import (
    Kept,
    kept_inputs,
    loss_of,
    pass_driven,
    spacings_of,
    tracks_by_spacing,
    wheel_losses,
)
from apps.base.formatting import working_out
from apps.base.quantities import TypedIn, out
from apps.farms.api import seed_lot_out
from apps.farms.seed_lots import values_of
from apps.trial_state.view import TrialView
from apps.trials import lots, models
from apps.trials.models import Sowing, Treatment
from apps.trials.naming import level_name
from apps.trials.seed_schemas import (
    CompanionOut,
    EnvelopeOut,
    FurrowOut,
    KeptProblemOut,
    MeterOut,
    MixedOut,
    PartOut,
    SeedStageOut,
    SeedTreatmentOut,
    WheelsOut,
)

PLACES = dict(Sowing.PLACES)


def seed_out(view: TrialView) -> SeedStageOut:
    """The Seed stage of a trial."""
    used = {part.lot_id: part.lot for part in view.sowings}
    fertiliser, fertiliser_problem = _reckoned(view, "fertiliser", _furrows)
    wheels, wheels_problem = _reckoned(view, "wheels", _wheels)
    meter, meter_problem = _reckoned(view, "meter", _meter)
    envelopes, envelope_problem = _reckoned(view, "envelope", _envelopes)
    return SeedStageOut(
        lots=[seed_lot_out(lot, _formatter(view, lot.crop), sown_on=view.trial.planted_on) for lot in used.values()],
        parts=[_part_out(view, part) for part in view.sowings],
        treatments=[_treatment_out(view, treatment) for treatment in view.treatments],
        kept={name: {key: TypedIn(**item) for key, item in values.items()} for name, values in view.trial.kept.items()},
        fertiliser=fertiliser,
        fertiliser_problem=fertiliser_problem,
        fertiliser_caution=DEFER,
        wheels=wheels,
        wheels_problem=wheels_problem,
        wheels_into_costs=bool(wheel_losses(view)),
        meter=meter,
        meter_problem=meter_problem,
        envelopes=envelopes,
        envelope_problem=envelope_problem,
    )


def _formatter(view: TrialView, crop_key: str) -> UnitFormatter:
    return view.region.formatter(crop(crop_key), currency=view.show.currency)


def _part_out(view: TrialView, part: Sowing) -> PartOut:
    show = _formatter(view, part.lot.crop)
    return PartOut(
        part=cast(Any, part.part),
        lot_id=part.lot_id,
        lot_title=str(part.lot),
        crop_name=crop(part.lot.crop).name,
        level_id=part.level_id,
        level_name=level_name(part.level, view.show) if part.level else "",
        share=out(part, models.SHARE, show),
        share_by=cast(Any, part.share_by),
        rate=out(part, models.PART_RATE, show),
        place=cast(Any, part.place),
    )


def _treatment_out(view: TrialView, treatment: Treatment) -> SeedTreatmentOut:
    show, rate, values = view.show, view.seeds_per_m2(treatment), view.lot_values(treatment)
    chain = view.chain
    sown = lots.seed_for(view.sowings, treatment)
    expected = None
    if rate and values and chain and (chain.emergence_of == "sown" or values.live_frac is not None):
        expected = stand_working(rate, values, chain, show)
    price = view.price_per_thousand(treatment)
    weight = view.lot(treatment).thousand_seed_weight_g
    through = kg_per_ha(rate, thousand_seed_weight_g=weight) if rate and weight else None
    mass = None if through is None else show.text(through, "seed_rate_mass")
    return SeedTreatmentOut(
        treatment_id=treatment.id,
        lot=" + ".join(str(part.lot) for part, _ in sown),
        seeds=show.text(rate, "density") if rate else None,
        mass=mass,
        target=TypedIn(
            text="" if through is None else f"{show.show(through, 'seed_rate_mass').value:.1f}",
            unit=show.unit_code("seed_rate_mass"),
        ),
        stand=expected.outcome if expected else None,
        stand_working=working_out(expected) if expected else None,
        cost=show.text(seed_cost_per_ha(rate, price), "money_per_area") if rate and price is not None else None,
        rate_working=working_out(
            Working(
                title="What goes through the drill",
                outcome=mass or "",
                steps=tuple(rate_steps(rate, values, show)),
                assumption="Coating and impurities go through the drill with the seed; the tag's shares are believed.",
            )
        )
        if rate and values
        else None,
        mixture=_mixed(view, treatment, rate) if len(sown) > 1 and rate else [],
        companions=[_companion(view, part) for part in lots.parts_for(view.sowings, treatment, "companion")],
    )


def _mixed(view: TrialView, treatment: Treatment, rate: float) -> list[MixedOut]:
    parts = [part for part, _ in lots.seed_for(view.sowings, treatment)]
    rates = mixture(
        [
            Part(name=str(part.lot), share_pct=part.share.value or 0.0, weight_g=values_of(part.lot).bag_weight_g)
            for part in parts
        ],
        total=rate,
        total_by="seeds",
        shares_by=parts[0].share_by,  # type: ignore[arg-type]
    )
    return [
        MixedOut(
            name=part_rate.name,
            mass=view.show.text(part_rate.kg_per_ha, "seed_rate_mass"),
            seeds=view.show.text(part_rate.seeds_per_m2, "density"),
            share=f"{format_number(100 * part_rate.weight_share, 0)} % of the weight, "
            f"{format_number(100 * part_rate.seeds_share, 0)} % of the seeds",
        )
        for part_rate in rates
    ]


def _companion(view: TrialView, part: Sowing) -> CompanionOut:
    show, values, rate = _formatter(view, part.lot.crop), values_of(part.lot), part.rate.value or 0.0
    return CompanionOut(
        name=str(part.lot),
        seeds=show.text(rate, "density"),
        mass=show.text(bag_kg_per_ha(rate, values), "seed_rate_mass") if rate else "",
        place=PLACES[part.place].lower(),
    )


def _reckoned(view: TrialView, name: str, reckon: Any) -> tuple[list[Any], KeptProblemOut | None]:
    try:
        values = kept_inputs(view, name)
        return ([] if values is None else reckon(view, values)), None
    except Refusal as refusal:
        return [], KeptProblemOut(field=refusal.field, message=refusal.message)


def _furrows(view: TrialView, values: Kept) -> list[FurrowOut]:
    rate, spread, reference = values["rate"], values["spread"], values["reference_spacing"]
    rows = furrows(rate_kg_per_ha=rate, row_spacings_m=tuple(spacings_of(view)), spread_m=spread, reference_spacing_m=reference)
    show = view.show
    return [
        FurrowOut(
            row_spacing=show.text(row.row_spacing_m, "row_spacing"),
            per_row=show.text(row.per_row_g_per_m, "mass_per_row"),
            seedbed_use=f"{format_number(100 * row.seedbed_use_frac, 1)} %",
            in_band=show.text(row.in_band_kg_per_ha, "seed_rate_mass"),
            relative=f"{format_number(row.relative, 2)} ×",
            warns=row.warns,
            working=working_out(
                furrow_working(
                    row,
                    show,
                    rate_kg_per_ha=rate,
                    spread_m=spread,
                    reference_spacing_m=reference,
                    product=values.get("product"),
                )
            ),
        )
        for row in rows
    ]


def _wheels(view: TrialView, values: Kept) -> list[WheelsOut]:
    show, span = view.show, values["leaf_span"]
    rows = []
    for spacing, tracks in tracks_by_spacing(view, values).items():
        loss = loss_of(view, tracks)
        better = better_centre(pass_driven(values), row_spacing_m=spacing)
        rows.append(
            WheelsOut(
                row_spacing=show.text(spacing, "row_spacing"),
                rows_hit=tracks.rows_hit,
                rows_lost=f"{format_number(100 * tracks.rows_lost_frac, 1)} %",
                yield_lost=f"{format_number(100 * tracks.yield_lost_frac, 1)} %",
                loss=None if loss is None else show.text(loss, "money_per_area"),
                better_centre="on a row" if better.centre == "on_row" else "between two rows",
                clear=tracks.clear,
                canopy=None
                if span is None
                else f"{format_number(100 * canopy_share(leaf_span_m=span, row_spacing_m=spacing), 0)} %",
                working=working_out(
                    tracks_working(tracks, pass_driven(values), show, made_up_pct=values["made_up"], loss=loss)
                ),
            )
        )
    return rows


def _rated(view: TrialView) -> list[tuple[Treatment, float, float]]:
    """Treatments with their rate and row spacing, where both are known."""
    rows = []
    for treatment in view.treatments:
        rate, spacing = view.seeds_per_m2(treatment), view.row_spacing_m(treatment)
        if rate and spacing:
            rows.append((treatment, rate, spacing))
    return rows


def _meter(view: TrialView, values: Kept) -> list[MeterOut]:
    discs, driving, driven = ([whole_number(value, name) for value in values[name]] for name in ("discs", "driving", "driven"))
    rows = []
    for treatment, rate, spacing in _rated(view):
        meter = seed_meter.Meter(
            circumference_m=values["circumference"],
            row_spacing_m=spacing,
            fixed_ratio=values["fixed_ratio"],
            seeds_a_hole=values["seeds_a_hole"],
            slip_pct=values["slip"],
        )
        table = seed_meter.rate_table(meter, discs=discs, driving=driving, driven=driven, target_per_m2=rate)
        best = seed_meter.nearest(table, rate)
        rows.append(
            MeterOut(
                treatment_id=treatment.id,
                combination=f"{best.holes} holes, {best.driving} on {best.driven} teeth",
                rate=view.show.text(best.seeds_per_m2, "density"),
                off=f"{format_number(100 * (best.off_frac or 0.0), 1, signed=True)} %",
                working=working_out(seed_meter.meter_working(meter, table, (rate,), view.show)),
            )
        )
    return rows


def _envelopes(view: TrialView, values: Kept) -> list[EnvelopeOut]:
    count = whole_number(values["rows"], "rows")
    rows = []
    for treatment, rate, spacing in _rated(view):
        weight = view.lot(treatment).thousand_seed_weight_g
        if weight is None:
            raise Refusal("needs_seed_weight", field="weight", value="g")
        area = count * spacing * values["length"]
        result = envelope(seeds_per_m2=rate, area_m2=area, weight_g=weight, rows=count)
        rows.append(
            EnvelopeOut(
                treatment_id=treatment.id,
                seeds=result.seeds,
                a_row=result.row_seeds or 0,
                weight=f"{format_number(result.weight_g, 1)} g",
                working=working_out(envelope_working(result, view.show, seeds_per_m2=rate, area_m2=area)),
            )
        )
    return rows
