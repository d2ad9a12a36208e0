"""The verdict in sentences a grower can use."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from cultrix_core.season.responses import is_judged_response, response_of
from cultrix_core.stats.decision_rule import MOST_BLOCKS, Call, Settling
from cultrix_core.stats.factor_answers import Speech, best_answer, best_combination, factor_answers
from cultrix_core.stats.factor_comparison import APART, FactorComparison
from cultrix_core.stats.factor_rule import Family
from cultrix_core.unit_formatting import UnitFormatter, format_number

from apps.analysis.verdict.chances import event_words
from apps.analysis.verdict.comparisons import crossed_factors, factor_keys, level_names
from apps.analysis.verdict.decisions import AGAINST_CONTROL, Decision, Differs
from apps.analysis.verdict.responses import kind_of, noun_of
from apps.trial_state.view import TrialView
from apps.trials.models import Factor

OPEN = "cannot_tell_yet"


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
    break_even: float | None = None,
    withheld: str = "",
) -> str:
    """One comparison in a sentence. ``break_even``: the signed gain in yield that its extra cost asks for.

    ``withheld``: why no call is made.
    """
    size = show.text(abs(difference.estimate), kind)
    way = "more" if difference.estimate >= 0 else "less"
    if withheld:
        return f"{left} showed {size} {way} {noun_of(response)} than {right}. {withheld}"
    if call is None or difference.lower is None or difference.upper is None:
        return f"{left} showed {size} {way} {noun_of(response)} than {right}, from one strip each: a look, not a result."
    places = 0 if round(level_pct, 6).is_integer() else 1
    interval = (
        f"{format_number(level_pct, places)} % interval {show.text(difference.lower, kind, signed=True)} to "
        f"{show.text(difference.upper, kind, signed=True)}"
    )
    if is_judged_response(response) and call.name in ("gain", "loss"):
        beyond = ""
        if call.margin:
            told = "all of it beyond" if call.beyond_margin else "inside" if call.small else "not yet sure to exceed"
            beyond = f", {told} the {show.text(call.margin, kind)} that matters"
        better = _better(response, difference.estimate)
        return f"{left} has {size} {way} {noun_of(response)} than {right} ({interval}){beyond}{better}."
    if call.name == "no_difference_that_matters":
        margin = show.text(call.margin or 0, kind)
        return f"{left} and {right} do not differ by as much as the {margin} that matters ({interval})."
    if call.name == "cannot_tell_yet":
        return f"Not clear yet whether {left} differs from {right} in {noun_of(response)} ({interval})."
    beyond = ""
    if call.margin:
        margin = show.text(call.margin, kind)
        beyond = (
            f" All of it lies beyond the {margin} that matters."
            if call.beyond_margin
            else f" It is small: all of it lies inside the {margin} that matters."
            if call.small
            else f" Whether it exceeds the {margin} that matters is not yet sure."
        )
    if call.name == "gain" and break_even is not None and break_even > 0:
        pays = "more than its cost" if difference.lower > break_even else "but is not shown to pay"
        beyond += f" It gains {pays}: break-even {show.text(break_even, kind)}."
    verb = "gains" if call.name == "gain" else "loses"
    return f"{left} {verb} {size} {noun_of(response)} against {right} ({interval}).{beyond}"


def unlike_inside(row: Decision, show: UnitFormatter, kind: str) -> str:
    """Why an interval inside the margin is no equality: an average may hide effects that differ from level to level."""
    lower, upper, margin = row.difference.lower, row.difference.upper, row.margin
    if not margin or lower is None or upper is None or row.within or row.call is None or row.call.name != "cannot_tell_yet":
        return ""
    if lower < -margin or upper > margin:
        return ""
    within = show.text(margin, kind)
    return f" On average it lies inside the {within} that matters; at single levels of the other factor that is not shown."


def headline(rows: Sequence[Decision], show: UnitFormatter, kind: str, response: str, replicated: bool) -> str:
    """The answer at the top of one factor: one comparison in full, several by their calls."""
    noun = noun_of(response)
    if not replicated:
        return "A look, not a result: one strip a treatment cannot tell treatment from ground."
    told = withheld_words(rows)
    rows = [row for row in rows if not row.withheld]
    if told:
        return f"{headline(rows, show, kind, response, replicated)} {told}" if rows else f"No call. {told}"
    if len(rows) == 1:
        return _single(rows[0], show, kind, noun)
    return _pairs(rows, noun) if len({row.right for row in rows}) > 1 else _against(rows, noun)


def withheld_words(rows: Sequence[Decision]) -> str:
    """Why calls are withheld, each reason once."""
    return " ".join(dict.fromkeys(row.withheld for row in rows if row.withheld))


def factor_headline(
    view: TrialView,
    result: FactorComparison,
    rows: Sequence[Decision],
    response: str,
    amount: tuple[Factor, str] | None = None,
) -> str:
    """The answer of several factors: one sentence each, what is suspected beside it, then the best combination.

    ``amount``: the factor that a curve answers for, with its best amount as the curve has it.
    """
    calls = {id(row.difference): row.call for row in rows}
    factors = crossed_factors(view)
    titles = {key: factor.title for key, factor in zip(factor_keys(factors), factors, strict=True)} | {APART: AGAINST_CONTROL}
    names, kind = level_names(view), kind_of(response)
    speech = Speech(
        size=lambda value: view.show.text(value, kind),
        signed=lambda value: view.show.text(value, kind, signed=True),
        level=lambda level: names.get(level, level),
        factor=lambda name: titles[name],
        noun=noun_of(response),
        per_cent=f"{format_number(100 * (1 - result.alpha), 0)} %",
    )

    def is_open(family: Family) -> bool:
        return not any((call := calls.get(id(row))) and call.name != OPEN for row in family.differences)

    told_here, kept = {row.factor for row in rows}, {id(row.difference) for row in rows if not row.withheld}
    called = [
        replace(item, differences=tuple(row for row in item.differences if id(row) in kept))
        for item in result.families
        if titles[item.factor] in told_here
    ]
    families = sorted((item for item in called if item.differences), key=is_open)  # what is settled comes first
    withheld = withheld_words(rows)
    answers = factor_answers(families, result.sizes, result.interactions, speech, lambda row: calls.get(id(row)))
    best = best_combination(result.cells, result.factors, {item.factors: item.f for item in result.interactions})
    told = [answer.sentence for answer in answers]
    if withheld:
        return " ".join([*told, withheld]) if told else f"No call. {withheld}"
    if amount is not None and best is not None:
        keys = dict(zip(factor_keys(factors), factors, strict=True))
        levels = [amount[1] if keys[key].pk == amount[0].pk else speech.level(level) for key, level in best.levels.items()]
        return " ".join([*told, f"Best combination: {' with '.join(levels)}."])
    combination = best_answer(best, speech)
    return " ".join([*told, *([combination.sentence] if combination else [])])


def _against(rows: Sequence[Decision], noun: str) -> str:
    """Several against one control, by their calls."""
    groups = []
    for name, item, several in (
        ("gain", f"gains {noun}", f"gain {noun}"),
        ("loss", f"loses {noun}", f"lose {noun}"),
        ("no_difference_that_matters", "makes no difference that matters", "make no difference that matters"),
        ("cannot_tell_yet", "is not clear yet", "are not clear yet"),
    ):
        names = [row.left for row in rows if row.call and row.call.name == name]
        if names:
            groups.append(f"{_list(names)} {item if len(names) == 1 else several}")
    return f"Against {rows[0].right}: " + "; ".join(groups) + "."


def _pairs(rows: Sequence[Decision], noun: str) -> str:
    """All pairs, without a control: who beats whom, and how many are open."""
    beats = [f"{row.left} over {row.right}" for row in rows if row.call and row.call.name == "gain"]
    beats += [f"{row.right} over {row.left}" for row in rows if row.call and row.call.name == "loss"]
    alike = sum(1 for row in rows if row.call and row.call.name == "no_difference_that_matters")
    unsettled = sum(1 for row in rows if row.call and row.call.name == "cannot_tell_yet")
    parts = [f"more {noun} from {_list(beats)}"] if beats else []
    parts += [f"{alike} of {len(rows)} pairs make no difference that matters"] if alike else []
    parts += [f"{unsettled} of {len(rows)} pairs are not clear yet"] if unsettled else []
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
    return f"Not clear yet whether {label} and {control} differ in {noun}."


def _list(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def judged_headline(rows: Sequence[Decision], show: UnitFormatter, response: str, *, replicated: bool) -> str:
    """The answer of a response that is neither yield nor money: each comparison as more or less of it, then what is open."""
    if not replicated:
        return "A look, not a result: one strip a treatment cannot tell treatment from ground."
    told = withheld_words(rows)
    kept = [row for row in rows if not row.withheld]
    if not kept:
        return f"No call. {told}" if told else "No control was recorded, so there is nothing to compare with."
    kind, sentences, unsettled = kind_of(response), [], []
    for row in kept:
        place = f"{row.factor}: " if row.factor else ""
        if row.call is None or row.call.name == OPEN:
            unsettled.append(f"{place}{_placed(row)} against {row.right}")
        elif row.call.name == "no_difference_that_matters":
            sentences.append(f"{place}{_placed(row)} and {row.right} do not differ by what matters")
        else:
            way = "more" if row.difference.estimate > 0 else "less"
            better = _better(response, row.difference.estimate)
            size = show.text(abs(row.difference.estimate), kind)
            sentences.append(f"{place}{_placed(row)} has {size} {way} than {row.right}{better}")
    start = noun_of(response)
    text = f"{start[:1].upper()}{start[1:]}: {'; '.join(sentences)}." if sentences else ""
    unclear = f" Not clear yet in {start}: {_list(unsettled)}." if unsettled else ""
    return f"{text}{unclear} {told}".strip()


def _better(response: str, estimate: float) -> str:
    """Whether that is for the better, where the response has a better end."""
    more = response_of(response).more_is_better
    if more is None:
        return ""
    return ", which is better" if (estimate > 0) == more else ", which is worse"


def interval_caption(rows: Sequence[Decision]) -> str:
    """What the intervals of differences hold: their level, and of which together."""
    if not rows:
        return ""
    level = format_number(100 * (1 - rows[0].level), 0)
    together = ""
    if any(row.own_level < row.level for row in rows):
        own = max(100 * (1 - row.own_level) for row in rows)
        together = f", those of a factor together over all places ({format_number(own, 1)} % at each)"
    elif any(row.size > 1 for row in rows):
        together = ", those of a factor together" if any(row.factor for row in rows) else ", all of them together"
    return f"Differences with {level} % intervals{together}"


def money_sentence(rows: Sequence[Decision], show: UnitFormatter, raised: Collection[tuple[str, str, str]]) -> str:
    """Does it pay: the best in money, its chance, and the classic trap when it is one.

    ``raised`` are the comparisons, by left, right and place, whose whole interval of yield lies above nought.
    """
    rows = [row for row in rows if not row.withheld]
    if not rows:
        return "No call is made in money either, for the same reason."
    best = max(rows, key=lambda row: row.difference.estimate)
    label, control = _placed(best), best.right
    estimate, chance = best.difference.estimate, best.chance
    size = show.text(abs(estimate), "net_return")
    if chance is None:
        if show.number(abs(estimate), "net_return") == "0":
            return f"In money {label} showed the same as {control}, from one strip each."
        way = "more" if estimate >= 0 else "less"
        return f"In money {label} showed {size} {way} than {control}, from one strip each."
    told = event_words("net_return", label, control, chance)
    if estimate > 0:
        text = f"In money {label} returned {size} more than {control}; {told}."
    elif len(rows) == 1:
        text = f"In money {label} returned {size} less than {control}; {told}."
    else:
        text = f"In money nothing tried returned more than {control}; nearest is {label}, {size} less ({told})."
    if best.call is not None and best.call.name == "cannot_tell_yet":
        text += " At the level of this trial that is not proven."
    trapped = [_placed(row) for row in rows if row.difference.estimate < 0 and (row.left, row.right, row.within) in raised]
    if trapped:
        text += f" {_list(trapped)} raised yield and still lost money."
    return text


def _placed(row: Decision) -> str:
    return f"{row.left} at {row.within}" if row.within else row.left


def settle_sentence(settling: Settling, show: UnitFormatter, kind: str) -> str:
    """What would settle a “not clear yet”."""
    margin = show.text(settling.margin, kind)
    gain, zero = (
        f"more than {MOST_BLOCKS}" if blocks is None else str(blocks)
        for blocks in (settling.blocks_if_margin, settling.blocks_if_zero)
    )
    return (
        f"To settle it: {gain} blocks for an 80 % chance of a clear call if the true difference were "
        f"the {margin} that matters; {zero} if it were 0."
    )
