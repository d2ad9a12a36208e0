"""What a covariate is looked at for before it adjusts anything.

A covariate must be measured before treatments began: what treatments may have changed takes their effect away when it
adjusts. Two looks tell: whether it differs between treatments (covariate = blocks + treatments), and whether its slope is
the same under all of them (the interaction in response = blocks + treatments + covariate + treatments × covariate) [1].

Reference: [1] Cochran (1957) Analysis of covariance: its nature and uses, Biometrics 13:261–281 (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal
from cultrix_core.stats.linear_model import Column, Covariate, Factor, Term, TermTest, fit_fixed, term_tests

NOTICED = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class CovariateLooks:
    """Slope per unit of the covariate, its test by treatment, and the test of equal slopes (None: not enough strips)."""

    slope: float
    by_treatment: TermTest | None
    equal_slopes: TermTest | None


def covariate_looks(
    response: Sequence[float],
    columns: Mapping[str, Sequence[str]],
    factors: Sequence[str],
    blocking: Sequence[str],
    covariate: tuple[str, Sequence[float]],
) -> CovariateLooks:
    """Look at a covariate; treatments are the combinations of ``factors``, blocks fixed.

    Raises
    ------
    Refusal : those of ``fit_fixed``; ``not_positive`` for a covariate that is the same on every strip.
    """
    name, amounts = covariate
    if float(np.ptp(np.array(amounts, dtype=np.float64))) == 0:
        raise Refusal("not_positive", field="covariate", label=f"The spread of {name}", value=0)
    cells = list(map(" ".join, zip(*(columns[factor] for factor in factors), strict=True)))
    result: list[Column] = [Factor.of(item, columns[item]) for item in blocking]
    result += [Factor.of("treatment", cells), Covariate(name="covariate", values=tuple(amounts))]
    blocks: list[Term] = [(item,) for item in blocking]
    treated = fit_fixed(amounts, result[:-1], [*blocks, ("treatment",)])
    parallel = fit_fixed(response, result, [*blocks, ("treatment",), ("covariate",)])
    crossed = fit_fixed(response, result, [*blocks, ("treatment",), ("covariate",), ("treatment", "covariate")])
    return CovariateLooks(
        slope=float(parallel.beta[parallel.columns["covariate",].start]),
        by_treatment=term_tests(treated)[-1] if treated.mse else None,
        equal_slopes=term_tests(crossed)[-1] if crossed.mse else None,
    )


def covariate_words(looks: CovariateLooks, name: str) -> list[str]:
    """The looks as warnings and statements."""
    words = [f"Take {name} as a covariate only if it was measured before treatments began."]
    term_test = looks.by_treatment
    if term_test is not None and term_test.p is not None:
        told = (
            f"{name} by treatment: F {term_test.f:.3f} on {term_test.num_df} and {term_test.den_df:g} df, p {term_test.p:.4f}."
        )
        unlike = " Treatments differ in it, so adjusting may take away what they did." if term_test.p < NOTICED else ""
        words.append(told + unlike)
    slopes = looks.equal_slopes
    if slopes is None or slopes.p is None:
        words.append("Too few strips to test whether its slope is the same under all treatments.")
    else:
        told = f"Equal slopes: F {slopes.f:.3f} on {slopes.num_df} and {slopes.den_df:g} df, p {slopes.p:.4f}."
        unlike = " The slopes differ, so one adjustment does not suit all treatments." if slopes.p < NOTICED else ""
        words.append(told + unlike)
    return words
