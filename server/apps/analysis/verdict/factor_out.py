"""Means of single factors and interactions of a verdict, as the API carries them."""

from __future__ import annotations

from cultrix_core.stats.factor_comparison import FactorComparison, Interaction, MeansTable
from cultrix_core.stats.factor_workings import factor_mean_working
from cultrix_core.stats.families import CellMean
from cultrix_core.unit_formatting import UnitFormatter

from apps.analysis.verdict import wording
from apps.analysis.verdict.schemas import (
    FactorMeanOut,
    FactorTableOut,
    InteractionLineOut,
    InteractionOut,
    InteractionPointOut,
)
from apps.base.formatting import shown_value, working_out


def factor_table(
    result: FactorComparison, table: MeansTable, names: dict[str, str], show: UnitFormatter, kind: str, *, lettered: bool
) -> FactorTableOut:
    """Means of some factors over the others, with a note where that hides something; ``lettered``: pairs get letters."""
    others = [name for name in result.factors if name not in table.factors]
    torn = [
        interaction
        for interaction in result.interactions
        if interaction.established and set(table.factors) & set(interaction.factors)
    ]
    note = ""
    if torn and set(torn[0].factors) - set(table.factors):
        note = "Its effect depends on the other factor: read the means of the combinations, not these."
    return FactorTableOut(
        title=f"{' by '.join(table.factors)}, averaged over {' and '.join(others)}",
        rows=[
            FactorMeanOut(
                label=" · ".join(names[level] for level in mean.levels.values()),
                n=mean.n,
                mean=shown_value(mean.mean, kind, show),
                se=shown_value(mean.se, kind, show),
                lower=shown_value(mean.lower, kind, show),
                upper=shown_value(mean.upper, kind, show),
                letters=mean.letters if lettered else None,
                working=working_out(
                    factor_mean_working(
                        result, mean, show, kind, name=" · ".join(names[level] for level in mean.levels.values())
                    )
                ),
            )
            for mean in table.means
        ],
        note=note,
    )


def interaction_out(
    result: FactorComparison, interaction: Interaction, names: dict[str, str], show: UnitFormatter, kind: str
) -> InteractionOut:
    """Two factors' means as lines, and whether one depends on the other in words."""
    across, by = interaction.factors
    means: dict[tuple[str, str], CellMean] = {}
    for table in result.tables:
        if set(table.factors) == {across, by}:
            means = {(mean.levels[across], mean.levels[by]): mean for mean in table.means}
    firsts, seconds = (list(dict.fromkeys(key[place] for key in means)) for place in (0, 1))
    p = wording.p_text(interaction.p_holm)
    turned = [family.factor for family in result.families if family.within and family.factor in interaction.factors]
    if interaction.established and turned:
        words = (
            f"The effect of {' and of '.join(dict.fromkeys(turned))} turns: it depends on the other factor (p {p} over all "
            "interactions), so its levels are compared inside those of the other."
        )
    elif interaction.established:
        words = (
            f"How large the effect of {across} is depends on {by} (p {p} over all interactions), its direction does not: "
            "each is called over the other, with its sizes beside."
        )
    elif interaction.matters:
        words = (
            f"That the effect of {across} depends on {by} is suspected, not shown (p {p} over all interactions): each is "
            "called over the other."
        )
    else:
        words = (
            f"No sign that the effect of {across} depends on {by} (p {p} over all interactions): each is compared over the "
            "other. That is not proof that it does not."
        )
    return InteractionOut(
        title=f"{across} by {by}",
        words=words,
        p=wording.p_text(interaction.p) or "",
        matters=interaction.matters,
        across=across,
        by=by,
        lines=[
            InteractionLineOut(
                label=names[second],
                points=[
                    InteractionPointOut(
                        label=names[first],
                        mean=shown_value(means[first, second].mean, kind, show),
                        lower=shown_value(means[first, second].lower, kind, show),
                        upper=shown_value(means[first, second].upper, kind, show),
                    )
                    for first in firsts
                    if (first, second) in means
                ],
            )
            for second in seconds
        ],
    )
