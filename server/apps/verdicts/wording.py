"""The verdict in sentences a grower can use."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from cultrix_core.showing import Shower, chance_text, format_number
from cultrix_core.stats.call import MOST_BLOCKS, Call, Settling
from cultrix_core.stats.compare import Difference

NOUN = {"yield": "yield", "net_return": "net return"}


def p_text(p: float | None) -> str | None:
    """A p value as it is printed: four decimals, small ones as such."""
    if p is None:
        return None
    return "< 0.0001" if p < 0.0001 else f"{p:.4f}"


def comparison_sentence(
    difference: Difference,
    call: Call | None,
    show: Shower,
    kind: str,
    response: str,
    *,
    left: str,
    right: str,
    level_pct: float,
) -> str:
    """One comparison in a sentence."""
    size = show.text(abs(difference.estimate), kind)
    way = "more" if difference.estimate >= 0 else "less"
    if call is None or difference.lower is None or difference.upper is None:
        return f"{left} showed {size} {way} {NOUN[response]} than {right}, from one strip each: a look, not a result."
    interval = (
        f"{format_number(level_pct, 0)} % interval {show.text(difference.lower, kind, signed=True)} to "
        f"{show.text(difference.upper, kind, signed=True)}"
    )
    if call.name == "no_difference_that_matters":
        margin = show.text(call.margin or 0, kind)
        small = f" It is {way} by {size}, and that small difference is real." if call.excludes_zero else ""
        return f"{left} and {right} do not differ by as much as the {margin} that matters ({interval}).{small}"
    if call.name == "cannot_tell_yet":
        return f"Cannot tell yet whether {left} differs from {right} in {NOUN[response]} ({interval})."
    beyond = ""
    if call.margin:
        margin = show.text(call.margin, kind)
        beyond = (
            f" All of it lies beyond the {margin} that matters."
            if call.beyond_margin
            else f" Whether it exceeds the {margin} that matters is not yet sure."
        )
    verb = "gains" if call.name == "gain" else "loses"
    return f"{left} {verb} {size} {NOUN[response]} against {right} ({interval}).{beyond}"


def headline(
    rows: Sequence[tuple[str, Difference, Call | None]], show: Shower, kind: str, response: str, control: str, replicated: bool
) -> str:
    """The answer at the top: one comparison in full, several by their calls."""
    noun = NOUN[response]
    if not replicated:
        return "A look, not a result: one strip a treatment cannot tell treatment from ground."
    if len(rows) == 1:
        return _single(*rows[0], show, kind, noun, control)
    groups = []
    for name, words in (
        ("gain", f"gain {noun}"),
        ("loss", f"lose {noun}"),
        ("no_difference_that_matters", "make no difference that matters"),
        ("cannot_tell_yet", "cannot be told yet"),
    ):
        names = [label for label, _, call in rows if call and call.name == name]
        if names:
            verb = (
                words.replace("gain ", "gains ").replace("lose ", "loses ").replace("make ", "makes ")
                if len(names) == 1
                else words
            )
            groups.append(f"{_list(names)} {verb}")
    return f"Against {control}: " + "; ".join(groups) + "."


def _single(label: str, difference: Difference, call: Call | None, show: Shower, kind: str, noun: str, control: str) -> str:
    size = show.text(abs(difference.estimate), kind)
    if call is None:
        return f"{label} cannot be judged against {control}."
    if call.name == "gain":
        return f"{label} gains {noun} over {control}: {size} more."
    if call.name == "loss":
        return f"{label} loses {noun} against {control}: {size} less."
    if call.name == "no_difference_that_matters":
        return f"{label} and {control} make no difference that matters in {noun}."
    return f"Cannot tell yet whether {label} and {control} differ in {noun}."


def _list(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def money_sentence(
    rows: Sequence[tuple[str, Difference, Call | None, float | None]],
    show: Shower,
    control: str,
    raised: Collection[str],
) -> str:
    """Does it pay: the best in money, its chance, and the classic trap when it is one.

    ``raised`` are the treatments whose whole interval of yield lies above the control.
    """
    label, best, call, chance = max(rows, key=lambda row: row[1].estimate)
    size = show.text(abs(best.estimate), "net_return")
    if chance is None:
        if show.number(abs(best.estimate), "net_return") == "0":
            return f"In money {label} showed the same as {control}, from one strip each."
        way = "more" if best.estimate >= 0 else "less"
        return f"In money {label} showed {size} {way} than {control}, from one strip each."
    if best.estimate > 0:
        text = f"In money {label} returns {size} more than {control}; the chance of being better off is {chance_text(chance)}."
    elif len(rows) == 1:
        text = f"In money {label} returns {size} less than {control}; the chance of being better off is {chance_text(chance)}."
    else:
        text = (
            f"In money nothing tried returns more than {control}; nearest is {label}, {size} less "
            f"(chance of being better off {chance_text(chance)})."
        )
    if call is not None and call.name == "cannot_tell_yet":
        text += " That is not settled."
    trapped = [name for name, difference, _, _ in rows if difference.estimate < 0 and name in raised]
    if trapped:
        text += f" {_list(trapped)} raised yield and still lost money."
    return text


def settle_sentence(settling: Settling, show: Shower, kind: str) -> str:
    """What would settle a “cannot tell yet”."""
    margin = show.text(settling.margin, kind)
    gain, zero = (
        f"more than {MOST_BLOCKS}" if blocks is None else str(blocks)
        for blocks in (settling.blocks_if_margin, settling.blocks_if_zero)
    )
    return (
        f"To settle it: {gain} blocks for an 80 % chance of a clear call if the true difference were "
        f"the {margin} that matters; {zero} if it were 0."
    )
