"""The verdict in sentences a grower can use."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from cultrix_core.stats.decision_rule import MOST_BLOCKS, Call, Settling
from cultrix_core.unit_formatting import UnitFormatter, chance_text, format_number

from apps.analysis.verdict.decisions import Decision, Differs

MOST_FAMILIES = 3
OPEN = "cannot_tell_yet"
NOUN = {"yield": "yield", "net_return": "net return"}


def p_text(p: float | None) -> str | None:
    """A p value as it is printed: four decimals, small ones as such."""
    if p is None:
        return None
    return "< 0.0001" if p < 0.0001 else f"{p:.4f}"


def comparison_sentence(
    difference: Differs,
    call: Call | None,
    show: UnitFormatter,
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
    places = 0 if round(level_pct, 6).is_integer() else 1
    interval = (
        f"{format_number(level_pct, places)} % interval {show.text(difference.lower, kind, signed=True)} to "
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


def headline(rows: Sequence[Decision], show: UnitFormatter, kind: str, response: str, replicated: bool) -> str:
    """The answer at the top: one comparison in full, several by their calls, family by family, what is settled first."""
    noun = NOUN[response]
    if not replicated:
        return "A look, not a result: one strip a treatment cannot tell treatment from ground."
    if len(rows) == 1:
        return _single(rows[0], show, kind, noun)
    families: dict[tuple[str, str], list[Decision]] = {}
    for row in rows:
        families.setdefault((row.factor, row.within), []).append(row)
    ordered = sorted(families.items(), key=lambda family: all(row.call is None or row.call.name == OPEN for row in family[1]))
    told = [_family(factor, within, own, show, kind, noun) for (factor, within), own in ordered]
    more = f" And {len(told) - MOST_FAMILIES} more families of comparisons below." if len(told) > MOST_FAMILIES else ""
    return " ".join(told[:MOST_FAMILIES]) + more


def _family(factor: str, within: str, rows: Sequence[Decision], show: UnitFormatter, kind: str, noun: str) -> str:
    place = f"{factor}{f' at {within}' if within else ''}: " if factor else ""
    if len(rows) == 1:
        return place + _single(rows[0], show, kind, noun)
    if len({row.right for row in rows}) > 1:
        return place + _pairs(rows, noun)
    groups = []
    for name, one, several in (
        ("gain", f"gains {noun}", f"gain {noun}"),
        ("loss", f"loses {noun}", f"lose {noun}"),
        ("no_difference_that_matters", "makes no difference that matters", "make no difference that matters"),
        ("cannot_tell_yet", "cannot be told yet", "cannot be told yet"),
    ):
        names = [row.left for row in rows if row.call and row.call.name == name]
        if names:
            groups.append(f"{_list(names)} {one if len(names) == 1 else several}")
    against = "against" if place else "Against"
    return f"{place}{against} {rows[0].right}: " + "; ".join(groups) + "."


def _pairs(rows: Sequence[Decision], noun: str) -> str:
    """All pairs, without a control: who beats whom, and how many are open."""
    beats = [f"{row.left} over {row.right}" for row in rows if row.call and row.call.name == "gain"]
    beats += [f"{row.right} over {row.left}" for row in rows if row.call and row.call.name == "loss"]
    alike = sum(1 for row in rows if row.call and row.call.name == "no_difference_that_matters")
    unsettled = sum(1 for row in rows if row.call and row.call.name == "cannot_tell_yet")
    parts = [f"more {noun} from {_list(beats)}"] if beats else []
    parts += [f"{alike} of {len(rows)} pairs make no difference that matters"] if alike else []
    parts += [f"{unsettled} of {len(rows)} pairs cannot be told yet"] if unsettled else []
    text = "; ".join(parts) + "."
    return text[0].upper() + text[1:]


def _single(row: Decision, show: UnitFormatter, kind: str, noun: str) -> str:
    size = show.text(abs(row.difference.estimate), kind)
    label, control, call = row.left, row.right, row.call
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


def money_sentence(rows: Sequence[Decision], show: UnitFormatter, raised: Collection[tuple[str, str, str]]) -> str:
    """Does it pay: the best in money, its chance, and the classic trap when it is one.

    ``raised`` are the comparisons, by left, right and place, whose whole interval of yield lies above nought.
    """
    best = max(rows, key=lambda row: row.difference.estimate)
    label, control = _placed(best), best.right
    estimate, chance = best.difference.estimate, best.chance
    size = show.text(abs(estimate), "net_return")
    if chance is None:
        if show.number(abs(estimate), "net_return") == "0":
            return f"In money {label} showed the same as {control}, from one strip each."
        way = "more" if estimate >= 0 else "less"
        return f"In money {label} showed {size} {way} than {control}, from one strip each."
    if estimate > 0:
        text = f"In money {label} returns {size} more than {control}; the chance of being better off is {chance_text(chance)}."
    elif len(rows) == 1:
        text = f"In money {label} returns {size} less than {control}; the chance of being better off is {chance_text(chance)}."
    else:
        text = (
            f"In money nothing tried returns more than {control}; nearest is {label}, {size} less "
            f"(chance of being better off {chance_text(chance)})."
        )
    if best.call is not None and best.call.name == "cannot_tell_yet":
        text += " That is not settled."
    trapped = [_placed(row) for row in rows if row.difference.estimate < 0 and (row.left, row.right, row.within) in raised]
    if trapped:
        text += f" {_list(trapped)} raised yield and still lost money."
    return text


def _placed(row: Decision) -> str:
    return f"{row.left} at {row.within}" if row.within else row.left


def settle_sentence(settling: Settling, show: UnitFormatter, kind: str) -> str:
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
