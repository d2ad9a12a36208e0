"""The honest margin and the rehearsal, in words and numbers."""

from __future__ import annotations

from cultrix_core.design.detectable_difference import (
    WANTED,
    Change,
    DesignSize,
    Detection,
    Stratum,
    cheapest_changes,
    detect,
    least_detectable,
    strata,
)
from cultrix_core.design.detectable_difference import critical_value as critical
from cultrix_core.design.power_simulation import TRUTHS, Rehearsed, Tally, merged, rehearse
from cultrix_core.errors import Refusal, require_between
from cultrix_core.simulate.variation import FieldVariation
from cultrix_core.unit_formatting import chance_text, format_number
from cultrix_core.working import Step, Working

from apps.accounts.models import User
from apps.analysis.power.queries import DesignPower, design_power, rehearsal_cells
from apps.analysis.power.schemas import (
    ChangeOut,
    CurveOut,
    DetectionOut,
    MarginIn,
    MarginOut,
    RehearsalIn,
    RehearsalOut,
    RehearsedOut,
    TallyIn,
)
from apps.base.formatting import shown, working_out
from apps.trial_state.view import TrialView
from apps.trials.models import Treatment
from apps.trials.naming import treatment_name

ADJUSTED = {
    "none": "one comparison, so plain t",
    "dunnett": "all comparisons with the control together (Dunnett)",
    "tukey": "all pairs together (Tukey)",
}
MOST_CURVE = 12
LEAST_EQUAL = 0.2
UNEQUAL = "“No difference that matters” is out of reach: it would be called less than one time in five where nothing differs."
OUT_OF_REACH = (
    "Nothing this field holds gets to four times in five; these come nearest. Treatments further apart, or a margin you "
    "would really act on, change more than strips do."
)


def margin_out(user: User, view: TrialView, asked: MarginIn) -> MarginOut:
    """The honest margin of a plan."""
    plan = design_power(user, view, asked)
    rows = [
        _row(view, plan, stratum, label, margin)
        for stratum in strata(plan.size, plan.variation)
        for label, margin in _judged_by(view, plan, stratum)
    ]
    asked_rows = [row for row in rows if row.key not in ("interaction", "sub_within")]
    judged_rows = [row for row in asked_rows if row.chance_value is not None]
    can = None if not judged_rows else all((row.chance_value or 0) >= WANTED for row in judged_rows)
    changes = _changes(view, plan) if can is False else ()
    return MarginOut(
        sentence=_sentence(plan, asked_rows, can),
        can_answer=can,
        blocks=plan.size.blocks,
        cv=f"{format_number(plan.variation.cv_pct, 1)} %",
        cv_source=plan.cv_source,
        expected=view.show.text(plan.expected_kg_per_ha, "yield") if plan.expected_kg_per_ha else "",
        yield_source=plan.yield_source,
        rows=rows,
        changes=[_change_out(view, plan, change) for change in changes],
        changes_note=OUT_OF_REACH if changes and all(change.power < WANTED for change in changes) else "",
        curve=_curve(plan),
        settings=_settings(view, plan),
    )


def _others(view: TrialView) -> list[Treatment]:
    return [treatment for treatment in view.treatments if not treatment.is_control]


def _margin_of(view: TrialView, plan: DesignPower, stratum: Stratum) -> float | None:
    """The smallest margin among the comparisons a stratum judges, in % of the expected yield.

    For a factor's main effect those are the treatments that differ from the control in that factor alone.
    """
    if stratum.key in ("interaction", "sub_within") or view.control is None:
        return None
    names = plan.parts.get(stratum.key)
    chosen = _others(view)
    if names and view.control:
        control = [level.id for level in view.control.levels.all()]
        alone = []
        for treatment in chosen:
            changed = [
                factor.title
                for factor, mine, its in zip(view.factors, [level.id for level in treatment.levels.all()], control, strict=True)
                if mine != its
            ]
            if changed and all(title in names for title in changed):
                alone.append(treatment)
        chosen = alone or chosen
    values = [plan.margin_pct(str(item.id)) for item in chosen]
    known = [value for value in values if value]
    return min(known) if known else None


def _label(view: TrialView, plan: DesignPower, stratum: Stratum, place: int) -> str:
    if stratum.key == "interaction":
        return "Whether one factor's effect depends on the other"
    if stratum.key == "sub_within":
        return f"{plan.parts.get('sub', 'Inner factor')} within one {plan.parts.get('main', 'main strip').lower()}"
    if stratum.key in plan.parts:
        return plan.parts[stratum.key]
    if stratum.key == "main":
        varied = [factor for factor, count in zip(view.factors, plan.size.factors, strict=False) if count > 1]
        return varied[min(place, len(varied) - 1)].title if varied else "Main effect"
    return "Single treatments"


def _judged_by(view: TrialView, plan: DesignPower, stratum: Stratum) -> list[tuple[str, float | None]]:
    """What a stratum is judged by: every treatment by its own margin, a factor by its smallest."""
    place = [item.key for item in strata(plan.size, plan.variation)][: _place(plan, stratum)].count("main")
    label = _label(view, plan, stratum, place)
    if stratum.key != "treatments":
        return [(label, _margin_of(view, plan, stratum))]
    known = [(other, plan.margin_pct(str(other.id))) for other in _others(view)]
    rows: list[tuple[str, float | None]] = [
        (f"{treatment.letter}, {treatment_name(treatment, view.show)}", margin) for treatment, margin in known if margin
    ]
    return rows or [(label, None)]


def _row(view: TrialView, plan: DesignPower, stratum: Stratum, label: str, margin: float | None) -> DetectionOut:
    show, kg = view.show, plan.expected_kg_per_ha
    detection = detect(stratum, alpha=plan.alpha, margin_pct=margin)
    return DetectionOut(
        key=stratum.key,
        label=label,
        least_pct=detection.least_detectable_pct,
        least=shown(detection.least_detectable_pct * kg / 100, "yield", show) if kg else None,
        margin_pct=margin,
        margin=shown(margin * kg / 100, "yield", show) if margin and kg else None,
        chance=None if detection.power_at_margin is None else chance_text(detection.power_at_margin),
        chance_value=detection.power_at_margin,
        chance_twice=None if detection.power_at_twice is None else chance_text(detection.power_at_twice),
        chance_equal=None if detection.chance_no_difference is None else chance_text(detection.chance_no_difference),
        equal_value=detection.chance_no_difference,
        df=stratum.df,
        working=working_out(_working(plan, detection)),
    )


def _place(plan: DesignPower, stratum: Stratum) -> int:
    return list(strata(plan.size, plan.variation)).index(stratum)


def _working(plan: DesignPower, detection: Detection) -> Working:
    stratum, variation = detection.stratum, plan.variation
    percent = lambda value: f"{format_number(value, 2)} %"  # noqa: E731
    steps = [
        Step(
            label="Variation between strips",
            formula="CV × (length ÷ reference length) ^ (−b ÷ 2)",
            numbers=f"{percent(variation.cv_pct)} × {format_number(variation.shrink, 3)}"
            + (f" (b {format_number(variation.smith_b, 2)})" if variation.length_m else " (length not known)"),
            outcome=percent(variation.strip_sd),
            source="Smith 1938, from memory; " + plan.cv_source,
        ),
        Step(
            label="Standard error of a difference",
            formula="variation of this comparison × √(2 ÷ strips behind each mean)",
            numbers=f"{stratum.df} degrees of freedom of error",
            outcome=percent(stratum.sed_pct),
            source="error of the design's own stratum",
        ),
        Step(
            label="Limit of the interval",
            formula="critical value × standard error",
            numbers=f"{format_number(detection.critical, 3)} × {percent(stratum.sed_pct)}",
            outcome=percent(detection.interval_half_pct),
            source=f"{ADJUSTED[stratum.adjust]}, level {format_number(100 * plan.alpha, 0)} %",
        ),
        Step(
            label="Least detectable difference",
            formula="the true difference found with 80 % chance",
            numbers="noncentral t, both tails",
            outcome=percent(detection.least_detectable_pct),
            source="power of the comparison the verdict makes",
        ),
    ]
    return Working(
        title="What this layout can detect",
        outcome=percent(detection.least_detectable_pct),
        steps=tuple(steps),
        assumption="The variation between strips: half as much again means a difference half as large again.",
    )


def _sentence(plan: DesignPower, rows: list[DetectionOut], can: bool | None) -> str:
    first = max(rows, key=lambda row: row.least_pct)
    size = first.least.text if first.least else f"{format_number(first.least_pct, 1)} % of the yield"
    told = f"This layout finds a true difference of {size} four times in five"
    if can is None:
        why = "the expected yield" if not plan.expected_kg_per_ha else "the smallest difference you would act on"
        return f"{told}. Give {why} and it can be said whether that is enough."
    worst = min((row for row in rows if row.chance_value is not None), key=lambda row: row.chance_value or 0)
    matters = worst.margin.text if worst.margin else ""
    equal = f" {UNEQUAL}" if any((row.equal_value or 0) < LEAST_EQUAL for row in rows if row.equal_value is not None) else ""
    if can:
        return (
            f"It can answer the question: the difference that matters is {matters}, and one that large is found "
            f"with {worst.chance} chance. {told}.{equal}"
        )
    return (
        f"It cannot answer the question yet: the difference that matters is {matters}, and one that large would be found "
        f"with only {worst.chance} chance. {told}.{equal}"
    )


def _changes(view: TrialView, plan: DesignPower) -> tuple[Change, ...]:
    """The two cheapest changes for the comparison with the least chance."""
    known = [(stratum, _margin_of(view, plan, stratum)) for stratum in strata(plan.size, plan.variation)]
    margins = [(stratum, value) for stratum, value in known if value]
    if not margins:
        return ()
    worst, margin = min(margins, key=lambda pair: detect(pair[0], alpha=plan.alpha, margin_pct=pair[1]).power_at_margin or 0)
    return cheapest_changes(
        plan.size,
        plan.variation,
        alpha=plan.alpha,
        margin_pct=margin,
        strip_area_m2=(plan.width_m or 6.0) * (plan.variation.length_m or 300.0),
        longest_m=plan.longest_m,
        most_blocks=plan.most_blocks,
        asked=worst.key,
    )


def _change_out(view: TrialView, plan: DesignPower, change: Change) -> ChangeOut:
    more = change.extra_m2
    return ChangeOut(
        words=_change_words(view, plan, change),
        chance=chance_text(change.power),
        land="no more land" if more <= 0 else f"{view.show.text(more, 'area', decimals=2)} more",
    )


def _change_words(view: TrialView, plan: DesignPower, change: Change) -> str:
    count, now = round(change.amount), plan.size.blocks
    if change.kind == "length":
        lengths = [
            view.show.text(metres or 0.0, "strip_length", decimals=0) for metres in (change.amount, plan.variation.length_m)
        ]
        return f"Strips of {lengths[0]} instead of {lengths[1]}"
    if change.kind == "fewer":
        return (
            f"One treatment fewer, its strips used for {count} blocks instead of {now}"
            if count > now
            else "One treatment fewer"
        )
    if change.kind == "years":
        return f"The same trial for {count} years, read together"
    return f"{count} blocks instead of {now}"


def _curve(plan: DesignPower) -> list[CurveOut]:
    """Least detectable difference by number of blocks, of the comparison hardest to make."""
    if plan.size.kind.blocking == "rows_and_columns":
        return []
    first = max(
        (stratum for stratum in strata(plan.size, plan.variation) if stratum.key not in ("interaction", "sub_within")),
        key=lambda stratum: detect(stratum, alpha=plan.alpha, margin_pct=None).least_detectable_pct,
    )
    place = _place(plan, first)
    points = []
    for blocks in range(2, max(MOST_CURVE, plan.size.blocks) + 1):
        changed = _with_blocks(plan.size, blocks)
        try:
            item = strata(changed, plan.variation)[place]
        except Refusal:
            continue
        points.append(CurveOut(blocks=blocks, least_pct=least_detectable(item.sed_pct, item.df, critical(item, plan.alpha))))
    return points


def _with_blocks(size: DesignSize, blocks: int) -> DesignSize:
    return DesignSize(
        design=size.design,
        treatments=size.treatments,
        blocks=blocks,
        main=size.main,
        sub=size.sub,
        subsub=size.subsub,
        factors=size.factors,
        control=size.control,
    )


def _settings(view: TrialView, plan: DesignPower) -> list[str]:
    sentences = [f"Level {format_number(100 * plan.alpha, 0)} %, {ADJUSTED[strata(plan.size, plan.variation)[0].adjust]}."]
    if plan.variation.length_m:
        sentences.append(
            f"Variation falls with the strip's length to the power −{format_number(plan.variation.smith_b, 2)} "
            "(Smith 1938, from memory); "
            f"it was found on strips of {view.show.text(plan.variation.reference_length_m or 0, 'strip_length', decimals=0)}."
        )
    if plan.size.kind.split:
        sentences.append(
            f"Main strips vary with {format_number(plan.variation.main_sd, 1)} % "
            "(one and a half times the strips' where nothing is typed: common practice, no source)."
        )
    return sentences


def rehearsal_out(user: User, view: TrialView, body: RehearsalIn) -> RehearsalOut:
    """One more batch of a rehearsal, and what it says so far."""
    plan = design_power(user, view, body.what_if)
    require_between(body.start, 0, 5_000, "start", label="Fields done")
    require_between(body.trend_pct, -60, 60, "trend", label="Trend across the field", unit=" %")
    require_between(body.patch_share, 0, 1, "patch_share", label="Share of patches")
    stratum = next(
        (item for item in strata(plan.size, plan.variation) if item.key == body.part), strata(plan.size, plan.variation)[0]
    )
    margin = _margin_of(view, plan, stratum)
    if not margin:
        raise Refusal(
            "missing",
            field="margin",
            label="A difference that matters",
            remedy="Give the expected yield and the smallest difference you would act on; then a call can be right or wrong.",
        )
    cells, control, wanted = rehearsal_cells(view, plan.layout)
    rehearsed = Rehearsed(
        size=plan.size,
        cells=cells,
        control=control,
        alpha=plan.alpha,
        margin_pct=margin,
        constraints=wanted,
        tiers=plan.layout.tiers,
        part=stratum.key,
    )
    ground = (
        None
        if body.ground == "map"
        else FieldVariation(
            cv_pct=plan.variation.strip_sd,
            trend_pct=body.trend_pct,
            patch_share=body.patch_share,
            strip_width_m=plan.width_m or 6.0,
            strip_length_m=plan.variation.length_m or 300.0,
        )
    )
    seed = (view.trial.seed or 1) % 2**40 + body.start
    tally = merged(_tally(body.tally), rehearse(rehearsed, ground, fields=body.fields, seed=seed))
    return RehearsalOut(
        fields=tally.fields,
        tally=TallyIn(
            fields=tally.fields,
            calls={order: [list(row) for row in rows] for order, rows in tally.calls.items()},
            error_sum=tally.error_sum,
            error_squares=tally.error_squares,
            claimed_squares=tally.claimed_squares,
        ),
        rows=_rehearsed_rows(tally),
        words=_rehearsed_words(tally),
    )


def _tally(given: TallyIn | None) -> Tally | None:
    if given is None:
        return None
    shapes = all(len(rows) == len(TRUTHS) and all(len(row) == 4 for row in rows) for rows in given.calls.values())
    if not shapes or not given.calls:
        raise Refusal("unknown_choice", field="tally", value="what was sent", limit="the server's own tally")
    return Tally(
        fields=given.fields,
        calls={order: tuple(tuple(row) for row in rows) for order, rows in given.calls.items()},
        error_sum=given.error_sum,
        error_squares=given.error_squares,
        claimed_squares=given.claimed_squares,
    )


def _rehearsed_rows(tally: Tally) -> list[RehearsedOut]:
    said = {0.0: "no true difference", 1.0: "a true gain that just pays", 2.0: "a true gain twice that"}
    rows = []
    for order, counts in tally.calls.items():
        for truth, (gain, loss, none, cannot) in zip(TRUTHS, counts, strict=True):
            right, wrong = (none, gain + loss) if truth == 0 else (gain, loss + none)
            rows.append(
                RehearsedOut(
                    order=order,
                    truth=said[truth],
                    right=_share(right, tally.fields),
                    wrong=_share(wrong, tally.fields),
                    cannot_tell=_share(cannot, tally.fields),
                )
            )
    return rows


def _share(count: int, fields: int) -> str:
    return f"{format_number(100 * count / fields, 1)} %"


def _rehearsed_words(tally: Tally) -> list[str]:
    words = []
    for order in tally.calls:
        lean = tally.error_sum[order] / tally.fields
        real = (tally.error_squares[order] / tally.fields) ** 0.5
        claimed = (tally.claimed_squares[order] / tally.fields) ** 0.5
        leaning = (
            f"leans by {format_number(lean, 2, signed=True)} % of the yield"
            if abs(lean) > 3 * real / tally.fields**0.5
            else "leans to neither side"
        )
        words.append(
            f"{order.capitalize()}: the estimate {leaning}; it really misses by {format_number(real, 2)} %, "
            f"and its standard error says {format_number(claimed, 2)} %."
        )
    if "systematic" in tally.calls:
        words.append(
            "With a drift across the field the alternating order carries the same error on every field of this kind, "
            "and its standard error does not know of it. A drawn order has the drift in its standard error."
        )
    return words
