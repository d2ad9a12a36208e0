"""What an odd load is held against: the estimate, its treatment and block, loads of other strips, the trade's test weight.

Every question is asked and stops nothing. Thresholds: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.harvest.hectolitre_weight import kg_per_hl
from cultrix_core.harvest.loads import Question
from cultrix_core.unit_formatting import UnitFormatter

FAR_EXPECTED = 0.25
FAR_ESTIMATE = 0.2  # and outside the interval: an interval of nine in ten is left once in ten anyway
LIGHT_GRAIN = 0.12
HEAVY_GRAIN = 0.10
ODD_PIECE = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """What is known around a load. Yields in kg/ha; ``estimate``: low, middle, high of the strip's own, before harvest;
    ``expected``: by its treatment and block, from the other strips (``expected_by_place``).

    ``same_weights``: strips whose load has the very same gross and tare; ``other_piece_kg``: mean weight of a piece on
    the other strips.
    """

    estimate: tuple[float, float, float] | None = None
    expected: float | None = None
    same_weights: Sequence[int] = ()
    test_weight_kg_hl: float | None = None
    legal_lb_bu: float | None = None
    piece_kg: float | None = None
    other_piece_kg: float | None = None


def questions_beside(yield_kg_per_ha: float, beside: Beside, show: UnitFormatter) -> tuple[Question, ...]:
    """What a careful colleague asks when a load is held against what stands around it."""
    asked: list[Question] = []
    name = show.text(yield_kg_per_ha, "yield")
    if beside.estimate is not None:
        low, middle, high = beside.estimate
        if not low <= yield_kg_per_ha <= high and abs(yield_kg_per_ha / middle - 1) > FAR_ESTIMATE:
            asked.append(
                Question(
                    code="off_estimate",
                    field="net",
                    text=f"{name} lies outside what was estimated on this strip before harvest "
                    f"({show.text(middle, 'yield')}, {show.text(low, 'yield')} to {show.text(high, 'yield')}). "
                    "Right strip, right weight?",
                )
            )
    expected = beside.expected
    if expected and abs(yield_kg_per_ha / expected - 1) > FAR_EXPECTED:
        way = "above" if yield_kg_per_ha > expected else "below"
        asked.append(
            Question(
                code="off_expected",
                field="net",
                text=f"{name} is {100 * abs(yield_kg_per_ha / expected - 1):.0f} % {way} what the other strips of its "
                f"treatment and block lead one to expect ({show.text(expected, 'yield')}).",
            )
        )
    asked += _on_weights(beside, show)
    return tuple(asked)


def _piece_decimals(show: UnitFormatter) -> int:
    return 0 if show.unit_code("catch") == "g" else 1


def _on_weights(beside: Beside, show: UnitFormatter) -> list[Question]:
    asked = []
    if beside.same_weights:
        strips = ", ".join(map(str, beside.same_weights))
        asked.append(
            Question(
                code="same_weights",
                field="gross",
                text=f"The very same weights stand on strip {strips}. One load entered twice, or one over several strips? "
                "A shared load cannot be parted.",
            )
        )
    if beside.test_weight_kg_hl is not None and beside.legal_lb_bu is not None:
        legal = kg_per_hl(beside.legal_lb_bu)
        off = beside.test_weight_kg_hl / legal - 1
        if off < -LIGHT_GRAIN or off > HEAVY_GRAIN:
            asked.append(
                Question(
                    code="odd_test_weight",
                    field="test_weight",
                    text=f"A test weight of {show.text(beside.test_weight_kg_hl, 'test_weight')} is {100 * off:+.0f} % off the "
                    f"trade's usual "
                    f"{show.number(legal, 'test_weight')}. Light grain, or the wrong unit?".replace("-", "−"),
                )
            )
    if beside.piece_kg and beside.other_piece_kg:
        ratio = beside.piece_kg / beside.other_piece_kg
        if not 1 / ODD_PIECE <= ratio <= ODD_PIECE:
            asked.append(
                Question(
                    code="odd_pieces",
                    field="pieces",
                    text=f"One piece weighs {show.text(beside.piece_kg, 'catch', decimals=_piece_decimals(show))} here, "
                    f"{show.text(beside.other_piece_kg, 'catch', decimals=_piece_decimals(show))} on the "
                    "other strips. Counted right?",
                )
            )
    return asked
