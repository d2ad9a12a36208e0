"""How well a plan finds the best amount: closed forms where there is no error, and more error tells less."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.design.amount_precision import AmountPrecision, amount_precision
from cultrix_core.errors import Refusal

RATES = [40.0, 50.0, 60.0, 70.0, 80.0]


def planned(sed: float, within: float = 10.0) -> AmountPrecision:
    return amount_precision(
        RATES, level=3000, sed=sed, df=12, fall=300, alpha=0.1, price=0.4, cost=0.0, within=within, trials=5
    )


def test_without_error_the_range_is_that_of_the_parabola() -> None:
    """Loss of price × bend × d² reaches the sum at d = √(within ÷ (price × bend)), both ways; the middle top has bend
    300 ÷ 20² = 0.75, those at a third 300 ÷ 26.67² = 0.42: by hand 11.5, 15.4 and 15.4 wide, the last two cut by no end.
    """
    widths = sorted(2 * np.sqrt(10 / (0.4 * 300 / reach**2)) for reach in (20.0, 80 / 3, 80 / 3))
    found = planned(0.05)
    assert found.shown == 1.0
    assert found.shown_width == pytest.approx(widths[1], abs=0.5)
    assert found.interval < 0.5
    assert found.at_stake < 0.05


def test_more_error_tells_less() -> None:
    sharp, dull = planned(60), planned(240)
    assert sharp.interval < dull.interval <= RATES[-1] - RATES[0]
    assert sharp.shown > dull.shown
    assert sharp.at_stake < dull.at_stake
    assert planned(60) == sharp, "the same plan has the same answer"


def test_a_larger_sum_is_shown_more_often() -> None:
    assert planned(120, within=40).shown >= planned(120, within=10).shown


@pytest.mark.parametrize("wrong", [{"sed": 0.0}, {"fall": -1.0}, {"within": 0.0}, {"df": 0.0}])
def test_what_cannot_be_planned(wrong: dict[str, float]) -> None:
    given = {"level": 3000.0, "sed": 100.0, "df": 12.0, "fall": 300.0, "alpha": 0.1, "price": 0.4, "cost": 2.0, "within": 10.0}
    with pytest.raises(Refusal):
        amount_precision(RATES, **(given | wrong))
    with pytest.raises(Refusal):
        amount_precision([40.0, 80.0], **given)
