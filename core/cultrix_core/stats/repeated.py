"""The same strips over several years, or cuts of a perennial: judged by what each strip gave in all.

Years of one strip are not replicates and no site-years: a strip on good ground is good every year. The primary is the total of
the strip over all years, compared as one trial. Whether differences changed from year to year is tested in

    response = treatment + year + treatment × year;  random: block, strip, block × year

by Kenward and Roger. A strip that lacks a year has no total and is left out of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal
from cultrix_core.stats.environments import SiteYear, site_year
from cultrix_core.stats.linear_model import Column, Factor, Term
from cultrix_core.stats.mixed_model import MixedTest, fit_mixed, term_test
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.stats.nested_designs import NestedAnalysis, analyse_nested


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeated:
    """Totals compared, each year alone, the test of treatment × year, and strips without a total."""

    total: NestedAnalysis
    alone: tuple[SiteYear, ...]
    changed: MixedTest | None
    without_total: tuple[str, ...]


def repeated(
    response: Sequence[float],
    treatment: Sequence[str],
    block: Sequence[str],
    strip: Sequence[str],
    year: Sequence[str],
    *,
    alpha: float = 0.10,
    control: str | None = None,
    levels: Sequence[str] | None = None,
) -> Repeated:
    """Compare totals of strips over years.

    Parameters
    ----------
    response, treatment, block, strip, year : n rows each, one a strip and year; strips are named across blocks.
    control : level that the others are compared with (Dunnett); None takes all pairs (Tukey).

    Raises
    ------
    Refusal : ``too_few_treatments`` for one year, ``duplicate`` for a strip twice in a year, those of ``analyse_nested``.
    """
    years = list(dict.fromkeys(year))
    if len(years) < 2:
        raise Refusal("too_few_treatments", field="year", label="Years", value=len(years))
    rows = dict.fromkeys(zip(strip, year, strict=True))
    if len(rows) < len(strip):
        raise Refusal("duplicate", field="strip", label="Strip", value="in one year", remedy="One response a strip and year.")
    own: dict[str, list[int]] = {}
    for place, name in enumerate(strip):
        own.setdefault(name, []).append(place)
    whole = {name: places for name, places in own.items() if len(places) == len(years)}
    first = [places[0] for places in whole.values()]
    blocked = len({block[place] for place in first}) > 1
    adjust: Adjust = "tukey" if control is None else "dunnett"
    total = analyse_nested(
        [sum(response[place] for place in places) for places in whole.values()],
        {"treatment": [treatment[place] for place in first], "block": [block[place] for place in first]},
        design="factorial",
        factors=["treatment"],
        block="block" if blocked else None,
        alpha=alpha,
        adjust=adjust,
        control={} if control is None else {"treatment": control},
        levels=None if levels is None else {"treatment": levels},
    )
    alone = tuple(
        site_year(
            name,
            [place for place, item in enumerate(year) if item == name],
            response,
            treatment,
            block,
            alpha,
            adjust,
            control,
            levels,
        )
        for name in years
    )
    return Repeated(
        total=total,
        alone=alone,
        changed=changes_over(response, treatment, block, strip, year, levels),
        without_total=tuple(name for name in own if name not in whole),
    )


def changes_over(
    response: Sequence[float],
    treatment: Sequence[str],
    block: Sequence[str],
    strip: Sequence[str],
    year: Sequence[str],
    levels: Sequence[str] | None = None,
) -> MixedTest | None:
    """Whether differences between treatments change over years, or dates: the test of treatment × year, strips random.

    Parameters
    ----------
    response, treatment, block, strip, year : n rows each, one a strip and year.
    levels : treatments in their order; None takes that of the rows.

    Returns
    -------
    MixedTest | None : by Kenward and Roger; None where the model cannot be fitted.
    """
    result: list[Column] = [
        Factor.of("treatment", treatment, levels),
        Factor.of("year", year),
        Factor.of("block", block),
        Factor.of("strip", strip),
    ]
    random: list[Term] = [("strip",)]
    if len(set(block)) > 1:
        random = [("block",), ("strip",), ("block", "year")]
    try:
        return term_test(
            fit_mixed(response, result, [("treatment",), ("year",), ("treatment", "year")], random), ("treatment", "year")
        )
    except Refusal:
        return None
