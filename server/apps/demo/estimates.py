"""Estimates of the demo: heads, ears, discs and cuts at drawn places, a few taken by eye, grain weighed."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any, cast

import numpy as np
from cultrix_core.estimate.drawn import drawn_pieces

from apps.accounts.models import User
from apps.base.quantities import TypedIn
from apps.demo.writing import at, record_id, strips_of, typed
from apps.field.samples.schemas import GrainSampleIn, YieldSampleIn
from apps.field.samples.services import put_grain_sample, put_yield_sample
from apps.field.stand.models import SamplingPlan
from apps.field.stand.sampling import put_sampling_plan
from apps.field.stand.schemas import SamplingPlanIn
from apps.trials.models import Strip, Trial


def plan_of(user: User, trial: Trial, method: str, on: date, *, length: str, pieces: int, framed: bool = False) -> SamplingPlan:
    """Places and pieces of a look, drawn."""
    body = SamplingPlanIn(
        name="Yield samples",
        purpose="yield",
        method=method,
        pieces=pieces or None,
        framed=framed,
        reserve=2,
        sample=typed(length, "m"),
        rows="1",
        end=typed("8", "m"),
        recorded_at=at(on, 0),
    )
    return put_sampling_plan(user, trial.id, record_id(trial, "yield-plan", on.toordinal()), body)[0]


def sample(user: User, trial: Trial, strip: Strip, on: date, number: int, body: Mapping[str, Any]) -> None:
    """One place of a strip."""
    put_yield_sample(
        user,
        trial.id,
        record_id(trial, f"yield{on}", strip.order * 100 + number),
        YieldSampleIn(strip_id=strip.id, recorded_at=at(on, strip.order * 10 + number), **body),
    )


def spacing(trial: Trial, strip: Strip) -> TypedIn:
    """The row spacing a strip got, as typed."""
    level = next((item for item in strip.received.levels.select_related("factor") if item.factor.kind == "row_spacing"), None)
    if level is not None:
        return typed(level.amount.text, level.amount.unit)
    return typed(trial.row_spacing.text, trial.row_spacing.unit)


def grain(user: User, trial: Trial, on: date, weights: tuple[float, ...], moisture: float) -> None:
    """Weighed samples of 500 seeds."""
    for number, weight in enumerate(weights):
        body = GrainSampleIn(
            seeds="500", mass=typed(f"{weight / 2:.2f}", "g"), moisture=typed(f"{moisture:g}", "%"), recorded_at=at(on, number)
        )
        put_grain_sample(user, trial.id, record_id(trial, "grain", on.toordinal() * 10 + number), body)


def wheat_heads(user: User, trial: Trial, year: int, effects: tuple[int, int, int], *, over: float) -> None:
    """Heads three weeks before harvest; ``over``: how far the sampler's counts run over the combine."""
    on = date(year, 7, 3)
    plan = plan_of(user, trial, "heads", on, length="1", pieces=5)
    draw = np.random.default_rng(year)
    mean = 6900 + 140 * (year - 2024)
    for strip in strips_of(trial):
        row = spacing(trial, strip)
        area = float(row.text) / 100
        place_in_field = (strip.order - 8) / 14
        wanted = (mean * (1 + 0.1 * place_in_field) + effects[strip.received.position]) * over
        for place in range(1, plan.planned + 1):
            heads = round(430 * area * draw.normal(1, 0.1))
            groups = draw.normal(16, 1.6, plan.pieces)
            each = wanted / (430 * 16 * 0.42) * (1 + 0.035 * (groups - 16)) * draw.normal(1, 0.09, plan.pieces)
            sample(
                user,
                trial,
                strip,
                on,
                place,
                {
                    "method": "heads",
                    "plan_id": plan.id,
                    "place": place,
                    "length": typed("1", "m"),
                    "rows": "1",
                    "row_spacing": row,
                    "number": str(max(heads, 12)),
                    "pieces": [
                        {"groups": str(round(item)), "seeds_each": f"{many:.1f}"}
                        for item, many in zip(groups, each, strict=True)
                    ],
                },
            )
    grain(user, trial, date(year, 7, 24), tuple(draw.normal(42, 1.2, 3)), 13.9)


def maize_ears(user: User, trial: Trial) -> None:
    """Ears of the maize rate trial before the combine, drawn; on three strips a helper took the best looking as well."""
    on = date(2026, 9, 22)
    plan = plan_of(user, trial, "ears", on, length="5", pieces=5)
    draw = np.random.default_rng(906)
    for strip in strips_of(trial):
        level = strip.received.levels.get()
        per_m2 = 0.92 * (level.amount.value or 8.0)
        place_in_field = (strip.order - 6.5) / 11
        kernels = (10400 * (1 - 0.09 * place_in_field) + (-520, 0, 160)[strip.received.position]) / per_m2 / 2.8
        for place in range(1, plan.planned + 1):
            standing = round(per_m2 * 3.75 * draw.normal(1, 0.07))
            rows = np.clip(np.round(draw.normal(8, 0.8, standing)) * 2, 12, 20)
            lengths = kernels / 16 * (1 + 0.05 * (rows - 16)) * draw.normal(1, 0.13, standing)
            taken = [
                drawn_piece - 1 for drawn_piece in drawn_pieces(counted=standing, wanted=5, start=float(draw.random()) * 0.999)
            ]
            ears(user, trial, strip, on, plan, place, standing, rows[taken], lengths[taken])
            if place == 1 and strip.order in (2, 5, 9):
                best = np.argsort(rows * lengths)[-5:]
                ears(user, trial, strip, on, plan, 0, standing, rows[best], lengths[best])


def ears(
    user: User,
    trial: Trial,
    strip: Strip,
    on: date,
    plan: SamplingPlan,
    place: int,
    number: int,
    rows: np.ndarray,
    lengths: np.ndarray,
) -> None:
    """Ears of one place; place 0 was chosen by eye."""
    sample(
        user,
        trial,
        strip,
        on,
        place or 9,
        {
            "method": "ears",
            "plan_id": plan.id if place else None,
            "place": place or None,
            "by_eye": not place,
            "length": typed("5", "m"),
            "rows": "1",
            "row_spacing": typed(trial.row_spacing.text, trial.row_spacing.unit),
            "number": str(number),
            "pieces": [
                {"kernel_rows": str(int(item)), "kernels_per_row": str(round(many))}
                for item, many in zip(rows, lengths, strict=True)
            ],
        },
    )


def sunflower_discs(user: User, trial: Trial) -> None:
    """Discs of the unreplicated look."""
    on = date(2026, 8, 28)
    plan = plan_of(user, trial, "discs", on, length="5", pieces=4)
    draw = np.random.default_rng(78)
    for strip in strips_of(trial):
        row = spacing(trial, strip)
        area = 5 * float(row.text) / 100
        for place in range(1, plan.planned + 1):
            discs = []
            for _ in range(plan.pieces or 4):
                across = draw.normal(16.5, 2.2)
                discs.append(
                    {
                        "diameter": f"{across:.0f}",
                        "empty_centre": f"{max(across * 0.2 + draw.normal(0, 0.6), 1):.0f}",
                        "filled_per_cm2": f"{draw.normal(5.4, 0.5):.1f}",
                    }
                )
            body = {
                "method": "discs",
                "plan_id": plan.id,
                "place": place,
                "length": typed("5", "m"),
                "rows": "1",
                "row_spacing": row,
                "number": str(max(int(draw.poisson(5.15 * area)), 5)),
                "pieces": discs,
                "units": {"diameter": "cm", "empty_centre": "cm"},
            }
            sample(user, trial, strip, on, place, body)


def stubble(user: User, trial: Trial) -> None:
    """Straw before and after sheep on the wheat stubble."""
    draw = np.random.default_rng(33)
    cuts = ((date(2026, 8, 3), "before", 640.0), (date(2026, 9, 9), "after", 410.0))
    for on, phase, dry_g_m2 in cuts:
        for strip in strips_of(trial):
            for number in (1, 2):
                weight = draw.normal(dry_g_m2, 60) * 0.25 / 0.86 + 18
                sample(
                    user,
                    trial,
                    strip,
                    on,
                    number,
                    {
                        "method": "residue",
                        "area": typed("0.25", "m2"),
                        "values": {"phase": phase, "gross": f"{weight:.0f}", "tare": "18", "dm_pct": "86"},
                        "units": cast(Any, {"gross": "g", "tare": "g", "dm_pct": "%"}),
                    },
                )
