"""The posterior of a difference: closed forms, the definition summed by brute force, and chances that come true."""

import numpy as np
import pytest
import scipy
from cultrix_core.crops import PROFILES, crop
from cultrix_core.errors import Refusal
from cultrix_core.stats.effect_prior import believe, usual_effect


def test_normal_with_normal_is_closed() -> None:
    """Many degrees of freedom: the textbook's posterior of a normal mean (Gelman et al. 2013, section 2.5, from memory)."""
    belief = believe(300, 200, 1e6, scale=400)
    share = 400**2 / (400**2 + 200**2)
    assert belief.mean == pytest.approx(share * 300, rel=1e-5)
    assert belief.sd == pytest.approx(200 * np.sqrt(share), rel=1e-5)
    assert belief.above() == pytest.approx(scipy.stats.norm.cdf(share * 300 / (200 * np.sqrt(share))), abs=1e-6)


def test_a_wide_prior_says_what_student_says() -> None:
    for estimate, df in ((150, 6), (-40, 3), (400, 12)):
        assert believe(estimate, 100, df, scale=1e6).above() == pytest.approx(scipy.stats.t.cdf(estimate / 100, df), abs=1e-4)


@pytest.mark.parametrize(
    ("estimate", "se", "df", "scale", "center"), [(500, 180, 6, 250, 0), (-120, 90, 2, 60, -35), (900, 100, 9, 150, 40)]
)
def test_against_prior_times_likelihood(estimate: float, se: float, df: float, scale: float, center: float) -> None:
    """The definition: normal prior × Student's t, on a fine grid."""
    true = np.linspace(-4000, 4000, 160_001)
    weight = scipy.stats.norm.pdf(true, center, scale) * scipy.stats.t.pdf((estimate - true) / se, df)
    weight /= weight.sum()
    belief = believe(estimate, se, df, scale=scale, center=center)
    assert belief.mean == pytest.approx(float(weight @ true), abs=0.05)
    for threshold in (0.0, 55.0):
        assert belief.above(threshold) == pytest.approx(float(weight[true > threshold].sum()), abs=2e-4)


def test_chances_come_true() -> None:
    """Trials of four blocks drawn from the prior: what is given 80 to 90 % comes true as often, in ten bins."""
    draw = np.random.default_rng(11)
    truth = draw.normal(0, 300, 6000)
    df, sed = 6, 250.0
    estimates = truth + draw.normal(0, sed, truth.size)
    errors = sed * np.sqrt(draw.chisquare(df, truth.size) / df)
    chances = np.array([believe(d, s, df, scale=300).above() for d, s in zip(estimates, errors, strict=True)])
    bins = np.minimum((chances * 10).astype(int), 9)
    for place in range(10):
        inside = bins == place
        said, came = chances[inside].mean(), (truth[inside] > 0).mean()
        error = np.sqrt(said * (1 - said) / inside.sum())
        assert abs(said - came) < 4 * error, (place, said, came)


def test_every_crop_says_what_is_usual() -> None:
    for profile in PROFILES:
        usual = profile.usual_effect_pct
        assert all(1 <= usual[kind] <= 10 for kind in ("row_spacing", "seeding_rate", "seeding_depth", "tillage", "free"))
    both = usual_effect(crop("maize").usual_effect_pct, ["row_spacing", "seeding_rate"])
    assert both == pytest.approx(np.hypot(0.03, 0.05))
    assert usual_effect(crop("maize").usual_effect_pct, []) == pytest.approx(0.04)


@pytest.mark.parametrize("wrong", [{"se": 0.0}, {"df": 0.0}, {"scale": -1.0}, {"estimate": float("nan")}])
def test_what_cannot_be(wrong: dict[str, float]) -> None:
    given = {"estimate": 1.0, "se": 1.0, "df": 5.0, "scale": 1.0} | wrong
    with pytest.raises(Refusal):
        believe(given["estimate"], given["se"], given["df"], scale=given["scale"])
