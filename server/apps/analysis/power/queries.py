"""What a plan is judged with: the farm's own variation and yield, the design in numbers, the margins."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from cultrix_core.design.designs import design_kind
from cultrix_core.design.detectable_difference import MOST_BLOCKS, DesignSize, Variation
from cultrix_core.design.randomise import Cell, Constraints
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.factor_comparison import FactorComparison
from cultrix_core.stats.means import pooled_cv
from cultrix_core.units import parse_number, parse_quantity
from django.core.cache import cache
from django.db.models import Max

from apps.accounts.models import User
from apps.accounts.rights import reach_in
from apps.analysis.power.schemas import MarginIn
from apps.analysis.verdict.queries import computed
from apps.base.quantities import TypedIn
from apps.farms.remainders import remainders
from apps.field.harvest.models import HarvestLoad
from apps.trial_state.view import TrialView, trials_of
from apps.trials.layout import cells_of, parts_of
from apps.trials.queries import readable
from apps.trials.schemas import LayoutIn

USUAL = "usual for the crop (common practice, no source); your own harvested trials are too few to tell yet"
DEFAULT_LENGTH_M = 300.0
MOST_PAST = 12
LEAST_FREEDOM = 8  # below it a CV of one's own is itself too uncertain to plan with (common practice, no source)


@dataclass(frozen=True, slots=True, kw_only=True)
class FarmExperience:
    """What earlier trials of a crop say: pooled CV in %, mean yield, mean strip length, and which trials they were."""

    cv_pct: float | None
    yield_kg_per_ha: float | None
    length_m: float | None
    trials: tuple[str, ...]


def farm_experience(user: User, view: TrialView) -> FarmExperience:
    """From the workspace's replicated trials of this crop, this one left out; remembered until a load changes."""
    trial = view.trial
    loads = HarvestLoad.history.filter(strip__trial__workspace=trial.workspace)
    stamp = loads.aggregate(last=Max("history_id"))["last"]
    # of the trials that this person sees: another person's answer may name other farms' trials, or one that is in the bin
    seen = readable(user).filter(workspace=trial.workspace).order_by("id")
    ids = "".join(f"{key}{version}" for key, version in seen.values_list("id", "version"))
    ids += f"{trial.workspace.remainders.count()}"
    key = f"experience/{trial.id}/{trial.crop}/{stamp}/{hashlib.sha256(ids.encode()).hexdigest()}"
    experience: FarmExperience | None = cache.get(key)
    if experience is None:
        views = [item for item in trials_of(user, trial.workspace) if item.trial.id != trial.id]
        whole = reach_in(user, trial.workspace).farms is None
        erased = [numbers for _, numbers in remainders(trial.workspace, "yield", trial.crop)] if whole else []
        experience = experience_of(views, trial.crop, erased)
        cache.set(key, experience, 3600)
    return experience


def yield_sums(view: TrialView) -> dict[str, Any]:
    """What a trial says of a crop: variation of its strips with degrees of freedom, mean yield, mean length; empty: nothing."""
    result = computed(view).yield_
    if result is None or result.cv_percent is None:
        return {}
    means = result.cells if isinstance(result, FactorComparison) else result.means
    lengths = [strip.length.value for strip in view.strips if strip.length.value]
    return {
        "cv": result.cv_percent,
        "df": result.error_df if isinstance(result, FactorComparison) else result.residual_df,
        "mean": sum(mean.mean for mean in means) / len(means),
        "lengths": lengths,
    }


def experience_of(views: Sequence[TrialView], crop: str, erased: Sequence[dict[str, Any]] = ()) -> FarmExperience:
    """What these trials say of a crop: those harvested, the newest twelve; then what is left of erased ones."""
    past = [view for view in views if view.trial.crop == crop and any(record.loads for record in view.records.values())][
        :MOST_PAST
    ]
    said = [(view.trial.title, yield_sums(view)) for view in past]
    names = [title for title, numbers in said if numbers]
    known = [numbers for _, numbers in said if numbers] + list(erased)[: MOST_PAST - len(names)]
    if erased and len(known) > len(names):
        names.append(f"{len(known) - len(names)} of farms that have left")
    parts = [(numbers["cv"], numbers["df"]) for numbers in known]
    yields = [numbers["mean"] for numbers in known]
    lengths = [length for numbers in known for length in numbers["lengths"]]
    pooled = pooled_cv(parts)
    if pooled is None or pooled[1] < LEAST_FREEDOM:
        return FarmExperience(cv_pct=None, yield_kg_per_ha=None, length_m=None, trials=())
    return FarmExperience(
        cv_pct=pooled[0],
        yield_kg_per_ha=sum(yields) / len(yields),
        length_m=sum(lengths) / len(lengths) if lengths else None,
        trials=tuple(names),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignPower:
    """A plan ready to be judged; margins in % of the expected yield by treatment id."""

    size: DesignSize
    variation: Variation
    expected_kg_per_ha: float | None
    alpha: float
    margins_kg: dict[str, float]
    cv_source: str
    yield_source: str
    width_m: float | None
    longest_m: float | None
    most_blocks: int
    parts: dict[str, str]
    layout: LayoutIn

    def margin_pct(self, treatment: str) -> float | None:
        kg = self.margins_kg.get(treatment)
        return None if kg is None or not self.expected_kg_per_ha else 100 * kg / self.expected_kg_per_ha


def design_power(user: User, view: TrialView, asked: MarginIn) -> DesignPower:
    """The plan as it stands, or as what-if values would have it."""
    trial = view.trial
    experience = farm_experience(user, view)
    layout = _layout(view, asked)
    size = _size(view, asked, layout)
    length = _length(asked.length, "strip_length", "Strip length")
    if length is None:
        lengths = [strip.length.value for strip in view.strips if strip.length.value]
        length = sum(lengths) / len(lengths) if lengths else None
    cv = _percent(asked.cv, "cv", "Strip-to-strip variation")
    if cv is not None:
        source = "as you typed it"
    elif experience.cv_pct is not None:
        cv, source = experience.cv_pct, f"this farm's own: {', '.join(experience.trials[:4])}"
    else:
        cv, source = (
            view.profile.planning_cv_pct,
            USUAL,
        )
    expected, yield_source = _expected(view, asked, experience)
    smith = parse_number(asked.smith_b, field="smith_b", label="Smith's b") if asked.smith_b.strip() else None
    variation = Variation(
        cv_pct=cv,
        cv_main_pct=_percent(asked.cv_main, "cv_main", "Variation of main strips"),
        length_m=length,
        reference_length_m=experience.length_m or DEFAULT_LENGTH_M,
    )
    if smith is not None:
        variation = replace(variation, smith_b=require_between(smith, 0, 1, "smith_b", label="Smith's b"))
    widths = [strip.width.value for strip in view.strips if strip.width.value]
    return DesignPower(
        size=size,
        variation=variation,
        expected_kg_per_ha=expected,
        alpha=asked.alpha if asked.alpha is not None else trial.alpha,
        margins_kg=_margins(view, asked),
        cv_source=source,
        yield_source=yield_source,
        width_m=_length(asked.width, "strip_width", "Strip width") or (widths[0] if widths else None),
        longest_m=trial.plan.get("longest_m"),
        most_blocks=_most_blocks(view, layout),
        parts=_parts(view, layout),
        layout=layout,
    )


def _most_blocks(view: TrialView, layout: LayoutIn) -> int:
    """Blocks that the field has bands for; no bound where it is not known."""
    bands = view.trial.plan.get("bands")
    columns = max((strip.column for strip in view.strips), default=0)
    blocks = len({strip.block_id for strip in view.strips})
    if not bands or not columns or blocks < 2:
        return MOST_BLOCKS
    return int((bands - 2 * layout.guards) * blocks / columns)


def _length(typed: TypedIn | None, field: str, label: str) -> float | None:
    if typed is None or not typed.text.strip():
        return None
    return require_positive(
        parse_quantity(typed.text, "length", typed.unit, field=field, label=label), field, label=label, unit=" m"
    )


def _percent(text: str, field: str, label: str) -> float | None:
    if not text.strip():
        return None
    return require_between(parse_number(text, field=field, label=label), 0.1, 80, field, label=label, unit=" %")


def _expected(view: TrialView, asked: MarginIn, own: FarmExperience) -> tuple[float | None, str]:
    typed = asked.expected_yield
    if typed is not None and typed.text.strip():
        value = parse_quantity(
            typed.text,
            "mass_per_area",
            typed.unit,
            field="expected_yield",
            label="Expected yield",
            bushel_kg=view.profile.bushel_kg,
        )
        return require_positive(value, "expected_yield", label="Expected yield"), "as you typed it"
    if view.trial.expected_yield.value:
        return view.trial.expected_yield.value, "as you typed it"
    if own.yield_kg_per_ha:
        return own.yield_kg_per_ha, "mean of this farm's earlier trials of the crop"
    return None, ""


def _layout(view: TrialView, asked: MarginIn) -> LayoutIn:
    """The layout asked about: what was asked for last, with the what-if values over it."""
    kept: dict[str, Any] = dict(view.trial.plan.get("asked") or {"design": view.trial.design or "rcbd", "blocks": 4})
    kept |= {name: value for name, value in (("design", asked.design), ("blocks", asked.blocks)) if value is not None}
    kept |= {name: value for name, value in (("main", asked.main), ("sub", asked.sub)) if value is not None}
    if not view.trial.drawn and view.strips and asked.blocks is None:
        kept["blocks"] = len({strip.block_id for strip in view.strips})
    return LayoutIn(version=view.trial.version, **kept)


def _size(view: TrialView, asked: MarginIn, layout: LayoutIn) -> DesignSize:
    treatments = len(view.treatments)
    if treatments < 2:
        raise Refusal("too_few_treatments", field="treatments", value=treatments)
    if asked.treatments is not None:
        require_between(asked.treatments, 2, 40, "treatments", label="Treatments")
    design = layout.design
    require_between(layout.blocks, 1, 40, "blocks", label="Blocks")
    counts = tuple(
        len({level.id for treatment in view.treatments for level in treatment.levels.all() if level.factor_id == factor.id})
        for factor in view.factors
    )
    base = DesignSize(
        design=design,
        treatments=treatments,
        blocks=layout.blocks,
        factors=counts if _complete(view) else (),
        control=view.control is not None,
    )
    if design_kind(design).split:
        cells = cells_of(view.treatments, view.factors, layout)
        base = replace(
            base,
            main=len({cell.main for cell in cells}),
            sub=len({cell.sub for cell in cells}),
            subsub=len({cell.subsub for cell in cells}) if "subsub" in design_kind(design).parts else 0,
        )
    elif asked.treatments is not None and asked.treatments != treatments:
        base = replace(base, treatments=asked.treatments, factors=())
    return replace(base, blocks=base.treatments) if base.kind.blocking == "rows_and_columns" else base


def _complete(view: TrialView) -> bool:
    rows = [tuple(level.id for level in treatment.levels.all()) for treatment in view.treatments]
    size = 1
    for place in range(len(view.factors)):
        size *= len({row[place] for row in rows})
    return len(view.factors) > 1 and size == len(set(rows))


def _margins(view: TrialView, asked: MarginIn) -> dict[str, float]:
    """Margin of every treatment in kg/ha: what was asked about, else as the verdict takes it."""
    typed = asked.margin
    if typed is not None and typed.text.strip():
        value = parse_quantity(
            typed.text,
            "mass_per_area",
            typed.unit,
            field="margin",
            label="Difference that matters",
            bushel_kg=view.profile.bushel_kg,
        )
        stated = require_positive(value, "margin", label="Difference that matters")
        return {str(treatment.id): stated for treatment in view.treatments if not treatment.is_control}
    others = [treatment for treatment in view.treatments if not treatment.is_control and view.control is not None]
    margins = {str(treatment.id): view.margin_kg_per_ha(treatment) for treatment in others}
    return {key: value for key, value in margins.items() if value}


def _parts(view: TrialView, layout: LayoutIn) -> dict[str, str]:
    """Names of the factors behind the strata of a split or crossed design."""
    if not design_kind(layout.design).split or len(view.factors) < 2:
        return {}
    main, sub = parts_of(view.factors, layout.design, layout.main, layout.sub)
    rest = [factor.title for place, factor in enumerate(view.factors) if place not in (main, sub)]
    others = [factor.title for place, factor in enumerate(view.factors) if place != main]
    if "subsub" in design_kind(layout.design).parts:
        return {"main": view.factors[main].title, "sub": view.factors[sub or 0].title, "subsub": " and ".join(rest)}
    return {"main": view.factors[main].title, "sub": " and ".join(others)}


def rehearsal_cells(view: TrialView, layout: LayoutIn) -> tuple[tuple[Cell, ...], str, Constraints]:
    """Cells, control and constraints of a plan as the core rehearses it."""
    cells = tuple(cells_of(view.treatments, view.factors, layout))
    control = next((str(treatment.id) for treatment in view.treatments if treatment.is_control), cells[0].name)
    wanted = Constraints(no_equal_neighbours=layout.no_equal_neighbours, first=str(layout.first) if layout.first else "")
    return cells, control, wanted
