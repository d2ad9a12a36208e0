"""One response compared, as the API carries it: by treatments, or by the factors they are made of."""

from __future__ import annotations

from collections.abc import Sequence

from cultrix_core.stats.compare import Comparison, Difference
from cultrix_core.stats.factor_comparison import FactorComparison
from cultrix_core.stats.factor_workings import factor_anova_working, factor_difference_working, factor_mean_working
from cultrix_core.stats.families import CellDifference
from cultrix_core.stats.polynomials import PolynomialTest
from cultrix_core.stats.workings import CALL_WORDS, anova_working, difference_working, mean_working
from cultrix_core.unit_formatting import UnitFormatter, chance_text, format_number
from cultrix_core.working import Working

from apps.analysis.verdict import wording
from apps.analysis.verdict.amounts import answered_by_curve
from apps.analysis.verdict.chances import event_words, prior_words
from apps.analysis.verdict.comparisons import (
    Compared,
    crossed_factors,
    factor_keys,
    level_names,
    treated_cells,
)
from apps.analysis.verdict.confounding import label_of
from apps.analysis.verdict.decisions import Decision, call_words, settling_of
from apps.analysis.verdict.factor_out import factor_table, interaction_out
from apps.analysis.verdict.logits import logit_words
from apps.analysis.verdict.responses import kind_of, strips_with, value_of
from apps.analysis.verdict.schemas import (
    AnalysisOut,
    AnovaRowOut,
    DifferenceOut,
    MeanOut,
    NamedOut,
    PolynomialOut,
    RawOut,
    ResidualOut,
    StratumOut,
)
from apps.analysis.verdict.second_looks import second_looks
from apps.base.formatting import ShownOut, WorkingOut, shown, shown_value, working_out
from apps.trial_state.view import TrialView
from apps.trials.models import Treatment
from apps.trials.naming import treatment_name

FEW_DEGREES = 3
RELIES_ON = 0.05  # p below which a degree of a polynomial is said to be there: common practice, no source


def analysis_out(view: TrialView, result: Compared, response: str, rows: Sequence[Decision]) -> AnalysisOut:
    """A comparison with its means, differences, tests and checks in the reader's units."""
    show, kind = view.show, kind_of(response)
    differences = [_difference(view, result, row, response) for row in rows]
    base = AnalysisOut(
        response=response,
        unit=show.unit(kind),
        sentence=" ".join(difference.sentence for difference in differences[:1]),
        factored=isinstance(result, FactorComparison),
        formula="",
        tables=[],
        interactions=[],
        strata=[],
        components=[],
        precision=[],
        polynomials=[],
        residuals=_residuals(view, result, response),
        second_looks=[
            *(second_looks(view, result, response) if isinstance(result, Comparison) else []),
            *logit_words(view, response),
        ],
        means=[],
        differences=differences,
        anova=[],
        anova_unit="",
        method=result.method,
        letters_note="",
        checks=list(result.checks.words) if result.checks else [],
        warnings=list(result.warnings),
        cv_pct=None if result.cv_percent is None else f"{format_number(result.cv_percent, 1)} %",
        sed=None,
        lsd=None,
        level_pct=100 * (1 - result.alpha),
        caption=wording.interval_caption(rows),
    )
    if isinstance(result, FactorComparison):
        _fill_factors(base, view, result, response)
    else:
        _fill_treatments(base, view, result, response)
    return base


def _fill_treatments(base: AnalysisOut, view: TrialView, result: Comparison, response: str) -> None:
    show, kind = view.show, kind_of(response)
    by_id = {str(treatment.id): treatment for treatment in view.treatments}
    by_curve = response in ("yield", "net_return") and answered_by_curve(view) is not None
    base.means = [
        _mean(
            view,
            by_id[mean.level],
            response,
            mean.n,
            mean.mean,
            (mean.se, mean.lower, mean.upper),
            None if by_curve else mean.letters,
            working_out(mean_working(result, mean, show, kind, name=label_of(view, by_id[mean.level]))),
        )
        for mean in result.means
    ]
    base.anova, base.anova_unit = _anova(result, show, kind), f"sums of squares in ({show.unit(kind)})²"
    base.sed, base.lsd = shown(result.sed, kind, show), shown(result.lsd, kind, show)
    if result.replicated and not by_curve:
        level = format_number(100 * result.alpha, 0)
        base.letters_note = f"Means that share a letter are not shown to differ (Tukey, all pairs, {level} % level)."
    if result.polynomials:
        base.polynomials = [_polynomial(view.factors[0].title, result.polynomials, show, kind)]


def _fill_factors(base: AnalysisOut, view: TrialView, result: FactorComparison, response: str) -> None:
    show, kind = view.show, kind_of(response)
    factors = crossed_factors(view)
    base.formula = result.formula
    for treatment, cell in treated_cells(view, result):
        working = factor_mean_working(result, cell, show, kind, name=label_of(view, treatment))
        base.means.append(
            _mean(view, treatment, response, cell.n, cell.mean, (cell.se, cell.lower, cell.upper), None, working_out(working))
        )
    names, by_curve = level_names(view), answered_by_curve(view) if response in ("yield", "net_return") else None
    base.tables = [
        factor_table(result, table, names, show, kind, lettered=by_curve is None or by_curve.title not in table.factors)
        for table in result.tables
        if len(table.factors) < len(result.factors)
    ]
    base.interactions = [
        interaction_out(result, interaction, names, show, kind)
        for interaction in result.interactions
        if len(interaction.factors) == 2
    ]
    base.anova = [
        AnovaRowOut(
            source=line.term,
            df=line.num_df,
            den_df=format_number(line.den_df, 1),
            ss="",
            ms="",
            f=f"{line.f:.4f}",
            p=wording.p_text(line.p),
            working=working_out(factor_anova_working(line)),
        )
        for line in result.anova
    ]
    scale = show.show(1.0, kind).value ** 2
    base.strata = [
        StratumOut(
            stratum=row.stratum,
            source=row.source,
            df=row.df,
            ss=f"{row.ss * scale:.5g}",
            ms=f"{row.ms * scale:.5g}",
            f=None if row.f is None else f"{row.f:.4f}",
            p=wording.p_text(row.p),
        )
        for row in result.strata
    ]
    base.components = [NamedOut(name=name, text=f"{value * scale:.4g}") for name, value in result.components]
    base.precision = [
        NamedOut(
            name=precision.comparison,
            text=f"{show.text(precision.sed, kind)}; least significant {show.text(precision.lsd, kind)}",
        )
        for precision in result.precision
    ]
    titles = dict(zip(factor_keys(factors), (factor.title for factor in factors), strict=True))
    base.polynomials = [_polynomial(titles[name], tests, show, kind) for name, tests in result.polynomials]


def _mean(
    view: TrialView,
    treatment: Treatment,
    response: str,
    n: int,
    mean: float,
    ends: tuple[float | None, float | None, float | None],
    letters: str | None,
    working: WorkingOut,
) -> MeanOut:
    show, kind = view.show, kind_of(response)
    se, lower, upper = (shown(end, kind, show) for end in ends)
    return MeanOut(
        treatment_id=treatment.id,
        letter=treatment.letter,
        name=treatment_name(treatment, show),
        is_control=treatment.is_control,
        n=n,
        mean=shown_value(mean, kind, show),
        se=se,
        lower=lower,
        upper=upper,
        letters=letters,
        raw=_raw(view, treatment, response),
        working=working,
    )


def _raw(view: TrialView, treatment: Treatment, response: str) -> list[RawOut]:
    rows = []
    of = value_of(view, response)
    for strip in strips_with(view, response):
        value = of(view, strip)
        if strip.received.id != treatment.id or value is None:
            continue
        rows.append(
            RawOut(
                strip_id=strip.id,
                order=strip.order,
                block=strip.block.number,
                value=shown_value(value, kind_of(response), view.show),
            )
        )
    return rows


def _polynomial(factor: str, tests: Sequence[PolynomialTest], show: UnitFormatter, kind: str) -> PolynomialOut:
    there = [test.name for test in tests[:FEW_DEGREES] if test.p < RELIES_ON]
    words = f"Over {factor}: {' and '.join(there)} shape shown." if there else f"No shape over {factor} is shown."
    return PolynomialOut(
        factor=factor,
        rows=[
            NamedOut(
                name=test.name,
                text=f"F {test.f:.3f} on 1 and {format_number(test.df, 1)} df, p {wording.p_text(test.p)}; "
                f"contrast {show.text(test.estimate, kind, signed=True)}",
            )
            for test in tests
        ],
        words=words,
    )


def _residuals(view: TrialView, result: Compared, response: str) -> list[ResidualOut]:
    strips, kind = strips_with(view, response), kind_of(response)
    if result.checks is None or len(result.checks.residuals) != len(strips):
        return []
    scale = view.show.show(1.0, kind).value
    return [
        ResidualOut(
            order=strip.order, block=strip.block.number, position=strip.order, fitted=fitted * scale, residual=left * scale
        )
        for strip, fitted, left in zip(strips, result.checks.fitted, result.checks.residuals, strict=True)
    ]


def _difference(view: TrialView, result: Compared, row: Decision, response: str) -> DifferenceOut:
    show, kind, item = view.show, kind_of(response), row.difference
    level = 100 * (1 - row.level)
    left = f"{row.left} at {row.within}" if row.within else row.left
    sentence = wording.comparison_sentence(
        item,
        row.call,
        show,
        kind,
        response,
        left=left,
        right=row.right,
        level_pct=level,
        break_even=row.worth_more_than,
        withheld=row.withheld,
    )
    if row.factor and not row.withheld:
        sentence = f"{row.factor}: {sentence}{wording.unlike_inside(row, show, kind)}"
    if row.second is not None and row.call is not None and row.call.name != row.second.name:
        sentence += f" With a drift along the field in the place of blocks the call would be “{CALL_WORDS[row.second.name]}”."
    return DifferenceOut(
        key="/".join([row.factor, row.within, item.left, item.right]),
        treatment_id=row.treatment.id if row.treatment else None,
        factor=row.factor,
        within=row.within,
        letter=row.letter,
        name=treatment_name(row.treatment, show) if row.treatment else row.left,
        against=row.against,
        estimate=_signed(item.estimate, kind, show),
        se=shown(item.se, kind, show),
        lower=shown(item.lower, kind, show, signed=True),
        upper=shown(item.upper, kind, show, signed=True),
        p=wording.p_text(item.p),
        p_adjusted=wording.p_text(item.p_adjusted),
        margin=shown(row.margin, kind, show),
        break_even=shown(row.worth_more_than, kind, show, signed=True),
        call=row.call.name if row.call else None,
        call_words=call_words(row),
        sentence=sentence,
        chance=None if row.chance is None else chance_text(row.chance),
        chances=_chances(row, response, left),
        settle=_settle(view, row, response),
        working=working_out(_working(view, result, row, kind)),
    )


def _chances(row: Decision, response: str, left: str) -> str:
    told = [event_words(response, left, row.right, row.chance), event_words("net_return", left, row.right, row.returns)]
    return "; ".join(words for words in told if words)


def _signed(value: float, kind: str, show: UnitFormatter) -> ShownOut:
    result = shown(value, kind, show, signed=True)
    assert result is not None
    return result


def _working(view: TrialView, result: Compared, row: Decision, kind: str) -> Working:
    item = row.difference
    if isinstance(result, FactorComparison):
        assert isinstance(item, CellDifference)
        return factor_difference_working(
            result,
            item,
            view.show,
            kind,
            left=row.left,
            right=row.right,
            within=row.within,
            adjust=row.adjust,
            call=row.call,
            probability=row.chance,
            level=row.level,
            prior=prior_words(view, row.prior),
        )
    assert isinstance(item, Difference)
    return difference_working(
        result,
        item,
        view.show,
        kind,
        left=row.left,
        right=row.right,
        call=row.call,
        probability=row.chance,
        adjust=row.adjust,
        prior=prior_words(view, row.prior),
    )


def _settle(view: TrialView, row: Decision, response: str) -> str:
    if row.call is None or row.call.name != "cannot_tell_yet":
        return ""
    if not row.margin:
        return "Set the margin that would matter to you, and the number of blocks that would settle it can be said."
    strips = strips_with(view, response)
    blocks = len({strip.block_id for strip in strips})
    if view.design.blocking == "none" or blocks < 2:
        blocks = max(2, round(len(strips) / len(view.treatments)))
    settling = settling_of(row, blocks)
    return "" if settling is None else wording.settle_sentence(settling, view.show, kind_of(response))


def _anova(result: Comparison, show: UnitFormatter, kind: str) -> list[AnovaRowOut]:
    if not result.replicated:
        return []
    scale = show.show(1.0, kind).value ** 2
    rows = [
        AnovaRowOut(
            source=test.term,
            df=test.num_df,
            den_df="",
            ss=f"{test.ss * scale:.5g}",
            ms=f"{test.ss / test.num_df * scale:.5g}",
            f=None if test.f is None else f"{test.f:.4f}",
            p=wording.p_text(test.p),
            working=working_out(anova_working(result, test, show, kind)),
        )
        for test in result.anova
    ]
    residual = AnovaRowOut(
        source="residual",
        df=result.residual_df,
        den_df="",
        ss=f"{result.residual_ss * scale:.5g}",
        ms=f"{(result.mse or 0) * scale:.5g}",
        f=None,
        p=None,
        working=None,
    )
    return [*rows, residual]
