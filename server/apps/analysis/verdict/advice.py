"""What to do next year, from the calls alone: a sentence or two for the grower."""

from __future__ import annotations

from collections.abc import Sequence

from apps.analysis.verdict.decisions import Decision

ONE_SEASON = "One season is one season: leave a few strips of the other beside it and weigh them again."
WITHHELD = (
    "Repeat it so that the two can be told apart: each treatment in every block, and whatever else differs the same "
    "within a block."
)
LOOK = "Repeat it with each treatment once in each of four blocks, in drawn order; then the question can be answered."


def advice(rows: Sequence[Decision], *, in_money: bool, settle: str) -> str:
    """What to do next, by the comparisons of net return where money is reckoned, of yield where it is not.

    ``settle``: what it would take, where something is open; empty otherwise.
    """
    called = [row for row in rows if row.call is not None]
    if not called:
        return WITHHELD if any(row.withheld for row in rows) else LOOK
    gains, losses, equal = (
        [row for row in called if row.call and row.call.name == name] for name in ("gain", "loss", "no_difference_that_matters")
    )
    told = []
    if gains:
        best = max(gains, key=lambda row: row.difference.estimate)
        told.append(f"Use {_placed(best)} rather than {best.right} where the field is alike. {ONE_SEASON}")
    if losses:
        worst = ", ".join(dict.fromkeys(_placed(row) for row in losses))
        told.append(f"Leave {worst} alone.")
    if equal and not gains:
        decision = equal[0]
        told.append(f"{_placed(decision)} or {decision.right}: take the one that is easier to do.")
    left = [row for row in called if row.call and row.call.name == "cannot_tell_yet"]
    if left:
        if not gains and not losses and not equal:
            told.append("Change nothing for good yet.")
        names = ", ".join(dict.fromkeys(_placed(row) for row in left))
        alone = len({_placed(row) for row in left}) == 1
        verb = ("pays" if alone else "pay") if in_money else ("yields more" if alone else "yield more")
        open_ = f"Whether {names} {verb} is open."
        told.append(f"{open_} {settle}" if settle else f"{open_} It wants another year, with more blocks.")
    return " ".join(told)


def _placed(row: Decision) -> str:
    return f"{row.left} at {row.within}" if row.within else row.left
