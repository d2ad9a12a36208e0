"""Several site-years of the same treatments.

Model. treatment fixed; environment, block in environment and treatment × environment random. With fewer than five
environments, too few to say how environments vary, they are fixed with their interaction, and the conclusion is for these
environments only. Without replication inside environments the interaction is the error that treatments are judged by.

Each environment is also told alone, and the combined differences once more with each environment left out.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.families import CellDifference
from cultrix_core.stats.linear_model import Column, Factor, Term, fit_fixed, term_tests
from cultrix_core.stats.mixed_model import fit_mixed
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.stats.nested_designs import NestedAnalysis, analyse_nested, told

LEAST_ENVIRONMENTS = 5  # fewer say too little of how environments vary to be taken as drawn from many
FEW = (
    "{count} environments are too few to stand for others: they are fixed, their interaction with the treatment is tested, "
    "and the conclusion is for these environments only."
)
ONCE = "Each treatment stands once in an environment: its interaction with the environment is the error it is judged by."


def analyse_environments(
    response: Sequence[float],
    columns: Mapping[str, Sequence[str]],
    *,
    treatment: str,
    environment: str,
    block: str | None,
    alpha: float = 0.10,
    adjust: Adjust = "none",
    control: Mapping[str, str] | None = None,
    levels: Sequence[str] | None = None,
) -> NestedAnalysis:
    """Combine site-years; blocks are told apart inside their environment.

    Parameters
    ----------
    response : n finite values; ``columns`` : labels by column name, each n long; ``levels`` : order of treatments.

    Raises
    ------
    Refusal : ``too_few_treatments``, ``too_few_blocks`` for one environment, and those of ``fit_mixed``.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    factors = [Factor.of(treatment, columns[treatment], levels), Factor.of(environment, columns[environment])]
    if len(factors[0].levels) < 2:
        raise Refusal("too_few_treatments", field=treatment, value=len(factors[0].levels))
    places = len(factors[1].levels)
    if places < 2:
        raise Refusal("too_few_treatments", field=environment, label="Environments", value=places)
    cells = len(set(zip(columns[treatment], columns[environment], strict=True)))
    repeated = cells < len(response)
    blocked = block is not None and len(set(zip(columns[environment], columns[block], strict=True))) > places
    if blocked and block is not None:
        factors.append(Factor.of(block, columns[block]))
    inside: list[Term] = [(environment, block)] if blocked and block is not None else []
    warnings: list[str] = []
    crossed: list[Term] = [(treatment, environment)] if repeated else []
    if places < LEAST_ENVIRONMENTS and repeated:
        _require_cells(columns[treatment], columns[environment])
    if places < LEAST_ENVIRONMENTS:
        warnings.append(FEW.format(count=places))
        fixed: list[Term] = [(environment,), (treatment,), *crossed]
        random = inside
    else:
        fixed = [(treatment,)]
        random = [(environment,), *inside, *crossed]
    if not repeated:
        warnings.append(ONCE)
    everything: list[Column] = list(factors)
    fit = fit_mixed(response, everything, fixed, random)
    return told(
        fit,
        design="multi-env",
        factors=[treatment],
        fixed=fixed,
        random=random,
        tested=[term for term in fixed if term != (environment,)],
        strata=None,
        alpha=alpha,
        adjust=adjust,
        control=control or {},
        positions=(),
        labels=(),
        warnings=warnings,
        amounts={},
    )


def _require_cells(treatments: Sequence[str], environments: Sequence[str]) -> None:
    """A few environments that are fixed need every treatment in each, or means compare unlike things."""
    there = set(zip(treatments, environments, strict=True))
    for environment in dict.fromkeys(environments):
        for treatment in dict.fromkeys(treatments):
            if (treatment, environment) not in there:
                raise Refusal(
                    "missing",
                    field="treatment",
                    label=f"{treatment} in {environment}",
                    remedy="With fewer than five environments every treatment must stand in each.",
                )


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteYear:
    """One environment alone: its differences, or why it has none."""

    name: str
    n: int
    differences: tuple[CellDifference, ...]
    problem: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftOut:
    """The combined differences without one environment."""

    name: str
    differences: tuple[CellDifference, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Series:
    """Site-years together, alone, and together without each."""

    combined: NestedAnalysis
    alone: tuple[SiteYear, ...]
    without: tuple[LeftOut, ...]
    interaction_p: float | None


def combine(
    response: Sequence[float],
    treatment: Sequence[str],
    environment: Sequence[str],
    block: Sequence[str],
    *,
    alpha: float = 0.10,
    control: str | None = None,
    levels: Sequence[str] | None = None,
) -> Series:
    """The combined analysis with every site-year alone and left out once; one without two treatments is told, not combined.

    Parameters
    ----------
    response, treatment, environment, block : n rows each; blocks may begin anew in every environment.
    control : level that the others are compared with (Dunnett); None takes all pairs (Tukey).

    Raises
    ------
    Refusal : those of ``analyse_environments``.
    """
    columns = {"treatment": list(treatment), "environment": list(environment), "block": list(block)}
    adjust: Adjust = "tukey" if control is None else "dunnett"
    against = {} if control is None else {"treatment": control}

    def together(rows: Sequence[int]) -> NestedAnalysis:
        return analyse_environments(
            [response[row] for row in rows],
            {name: [own[row] for row in rows] for name, own in columns.items()},
            treatment="treatment",
            environment="environment",
            block="block",
            alpha=alpha,
            adjust=adjust,
            control=against,
            levels=levels,
        )

    names = list(dict.fromkeys(environment))
    idle = {
        name for name in names if len({own for own, place in zip(treatment, environment, strict=True) if place == name}) < 2
    }
    every = [row for row in range(len(response)) if environment[row] not in idle]
    combined = together(every)
    alone, without = [], []
    for name in names:
        own = [row for row in every if environment[row] == name]
        alone.append(site_year(name, own, response, treatment, block, alpha, adjust, control, levels))
        if len(names) > 2 and name not in idle:
            try:
                without.append(LeftOut(name=name, differences=together([row for row in every if row not in own]).differences))
            except Refusal:
                continue
    return Series(
        combined=combined,
        alone=tuple(alone),
        without=tuple(without),
        interaction_p=_interaction_p(
            [response[row] for row in every], {name: [own[row] for row in every] for name, own in columns.items()}, levels
        ),
    )


def _interaction_p(
    response: Sequence[float], columns: Mapping[str, Sequence[str]], levels: Sequence[str] | None
) -> float | None:
    """Whether differences held everywhere: F of treatment × environment, blocks in environments fixed."""
    places = ["/".join(row) for row in zip(columns["environment"], columns["block"], strict=True)]
    result: list[Column] = [
        Factor.of("treatment", columns["treatment"], levels),
        Factor.of("environment", columns["environment"]),
        Factor.of("place", places),
    ]
    terms: list[Term] = [("place",), ("treatment",), ("treatment", "environment")]
    fit = fit_fixed(response, result, terms)
    crossed = term_tests(fit)[-1]
    return crossed.p if fit.mse and crossed.num_df else None


def site_year(
    name: str,
    rows: Sequence[int],
    response: Sequence[float],
    treatment: Sequence[str],
    block: Sequence[str],
    alpha: float,
    adjust: Adjust,
    control: str | None,
    levels: Sequence[str] | None,
) -> SiteYear:
    """One environment (or year) alone, from its ``rows``, blocks fixed; arguments as in ``combine``."""
    blocked = len({block[row] for row in rows}) > 1
    try:
        nested_analysis = analyse_nested(
            [response[row] for row in rows],
            {"treatment": [treatment[row] for row in rows], "block": [block[row] for row in rows]},
            design="factorial",
            factors=["treatment"],
            block="block" if blocked else None,
            alpha=alpha,
            adjust=adjust,
            control={} if control is None else {"treatment": control},
            levels=None if levels is None else {"treatment": levels},
        )
    except Refusal as refusal:
        return SiteYear(name=name, n=len(rows), differences=(), problem=refusal.message)
    return SiteYear(name=name, n=len(rows), differences=nested_analysis.differences, problem="")
