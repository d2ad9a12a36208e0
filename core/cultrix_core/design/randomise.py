"""Layouts in random order from a stored seed: blocks, squares, split and crossed strips.

Every order is a Fisher–Yates shuffle [1] driven by the raw 64-bit stream of PCG64, whose stream NumPy
promises not to change, with rejection instead of modulo so that every order is equally likely. The same
seed gives the same layout for ever.

Constraints keep the draw fair by rejection: an order that breaks one is thrown away whole and drawn again,
so that all orders that keep it are equally likely. Where the blocks hold every treatment once, a block may
be redrawn on its own: whatever its neighbour ends with, the same number of orders is allowed. Neighbours
are balanced by drawing ``BALANCE_DRAWS`` such layouts and keeping the most even; renaming the treatments
changes nothing in that choice, so no treatment is favoured.

Latin squares: the cyclic square with rows, columns and letters shuffled [2].

Notation: a unit lies at ``column`` (across the driving direction) and ``row`` (along it), both from 1.

References: [1] Durstenfeld (1964) Algorithm 235, CACM 7:420; [2] Fisher & Yates (1934) The 6 × 6 Latin
squares, Proc. Camb. Phil. Soc. 30:492–507 (both from memory).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import combinations
from typing import TypeVar

from numpy.random import PCG64

from cultrix_core.design.designs import Design, DesignKind, design_kind
from cultrix_core.errors import Refusal, require_between

_T = TypeVar("_T")
MOST_BLOCKS = 40
MOST_TREATMENTS = 40
MOST_UNITS = 400
BALANCE_DRAWS = 200
MOST_TRIES = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedStrip:
    """A strip in field order: order, block, main strip, column and row, all counted from 1 (main 0: none)."""

    order: int
    block: int
    treatment: str
    main: int = 0
    column: int = 0
    row: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """A treatment with the levels a split design sorts it by; empty where the design has no such part."""

    name: str
    main: str = ""
    sub: str = ""
    subsub: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Constraints:
    """What a drawn order must keep. ``first`` names the treatment of strip 1."""

    no_equal_neighbours: bool = False
    balance_neighbours: bool = False
    first: str = ""

    @property
    def any(self) -> bool:
        return self.no_equal_neighbours or self.balance_neighbours or bool(self.first)


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """A drawn layout and, in sentences, how it was drawn."""

    design: Design
    strips: tuple[PlannedStrip, ...]
    record: tuple[str, ...]


class _RawDraw:
    """Whole numbers below a bound from the raw stream of PCG64."""

    def __init__(self, seed: int) -> None:
        self._bits = PCG64(seed)

    def below(self, bound: int) -> int:
        limit = (1 << 64) - (1 << 64) % bound
        while True:
            raw = int(self._bits.random_raw())
            if raw < limit:
                return raw % bound

    def shuffled(self, items: Sequence[_T]) -> list[_T]:
        shuffled = list(items)
        for last in range(len(shuffled) - 1, 0, -1):
            other = self.below(last + 1)
            shuffled[last], shuffled[other] = shuffled[other], shuffled[last]
        return shuffled


_Unit = tuple[int, int, str, int]  # column and row in the block, treatment, main strip
_Block = Callable[[_RawDraw], list[_Unit]]


def lay_out(
    design: Design,
    treatments: Sequence[Cell],
    *,
    blocks: int,
    seed: int,
    control: str = "",
    constraints: Constraints | None = None,
) -> Layout:
    """Draw a layout.

    Parameters
    ----------
    treatments : distinct names, at least 2. For split and crossed designs a full factorial over ``main``,
        ``sub`` (and ``subsub``).
    blocks : replicates; ignored by ``latin`` (as many as treatments) and ``unreplicated`` (1).
    seed : 0 ≤ seed < 2⁶³, stored with the trial.
    control : name of the control, needed by ``augmented``.
    constraints : what the order must keep; only for designs whose strips lie in one line.

    Raises
    ------
    Refusal : ``too_few_blocks``, ``too_few_treatments``, ``too_large``, ``duplicate``, ``not_for_design``,
        ``cannot_satisfy``, ``missing``.
    """
    names = [cell.name for cell in treatments]
    _check_treatments(names)
    kind = design_kind(design)
    if not kind.blocks_asked:
        blocks = len(names) if kind.replicated else 1
    if kind.replicated and blocks < 2:
        raise Refusal("too_few_blocks", field="blocks", value=blocks)
    require_between(blocks, 1, MOST_BLOCKS, "blocks")
    wanted = constraints or Constraints()
    _check_constraints(kind, names, wanted)
    maker = _block_maker(kind, treatments, control)
    _check_size(kind, len(names), blocks)
    draw = _RawDraw(_checked_seed(seed))
    if kind.blocking == "none":
        strips = _constrained(draw, [_whole(names, blocks)], wanted, freely=False)
    elif kind.blocking == "rows_and_columns":
        strips = _latin(draw, names)
    else:
        strips = _constrained(draw, [maker] * blocks, wanted, freely=not kind.extra_control)
    return Layout(design=design, strips=strips, record=_record(kind, seed, wanted, control))


def complete_blocks(treatments: Sequence[str], *, blocks: int, seed: int) -> tuple[PlannedStrip, ...]:
    """Randomised complete blocks, side by side along the field; see ``lay_out``."""
    return lay_out("rcbd", [Cell(name=name) for name in treatments], blocks=blocks, seed=seed).strips


def unreplicated(treatments: Sequence[str], *, seed: int) -> tuple[PlannedStrip, ...]:
    """One strip a treatment, in random order: a look, never a comparison with a probability."""
    return lay_out("unreplicated", [Cell(name=name) for name in treatments], blocks=1, seed=seed).strips


def in_tiers(strips: Sequence[PlannedStrip], tiers: int) -> tuple[PlannedStrip, ...]:
    """Place whole blocks one behind the other along the driving direction, ``tiers`` rows of blocks deep."""
    blocks = list(dict.fromkeys(strip.block for strip in strips))
    require_between(tiers, 1, len(blocks), "tiers", label="Tiers of blocks")
    if tiers == 1:
        return tuple(strips)
    per_tier = -(-len(blocks) // tiers)
    depth = max(strip.row for strip in strips)
    placed, columns = [], Counter[int]()
    for place, block in enumerate(blocks):
        tier = place // per_tier
        members = [strip for strip in strips if strip.block == block]
        first = min(strip.column for strip in members)
        for strip in members:
            column = columns[tier] + strip.column - first + 1
            placed.append(replace(strip, column=column, row=tier * depth + strip.row))
        columns[tier] += max(strip.column for strip in members) - first + 1
    return tuple(placed)


def neighbour_counts(strips: Sequence[PlannedStrip]) -> Counter[tuple[str, str]]:
    """How often each pair of treatments lies side by side, whatever the side."""
    ordered = sorted(strips, key=lambda strip: (strip.row, strip.column))
    pairs: Counter[tuple[str, str]] = Counter()
    for left, right in zip(ordered, ordered[1:], strict=False):
        if left.row == right.row:
            low, high = sorted((left.treatment, right.treatment))
            pairs[(low, high)] += 1
    return pairs


def _block_maker(design: DesignKind, treatments: Sequence[Cell], control: str) -> _Block:
    names = [cell.name for cell in treatments]
    if design.treatments is not None and len(names) != design.treatments:
        raise Refusal(
            "not_for_design",
            field="design",
            label="Pairs",
            value=f"{len(names)} treatments",
            limit="a pair is a block of two",
            remedy="Use complete blocks.",
        )
    if design.extra_control:
        if control not in names:
            raise Refusal(
                "missing", field="control", label="A control", remedy="The extra strip in each block is the control's."
            )
        return lambda draw: _line(draw.shuffled([*names, control]))
    if not design.drawn:
        return lambda _draw: _line(names)
    if design.split:
        return _split_maker(design, treatments)
    return lambda draw: _line(draw.shuffled(names))


def _line(names: Sequence[str]) -> list[_Unit]:
    return [(place, 1, name, 0) for place, name in enumerate(names, start=1)]


def _whole(names: Sequence[str], replicates: int) -> _Block:
    return lambda draw: _line(draw.shuffled([name for name in names for _ in range(replicates)]))


def _split_maker(design: DesignKind, treatments: Sequence[Cell]) -> _Block:
    mains = list(dict.fromkeys(cell.main for cell in treatments))
    subs = list(dict.fromkeys(cell.sub for cell in treatments))
    nested = "subsub" in design.parts
    subsubs = list(dict.fromkeys(cell.subsub for cell in treatments)) if nested else [""]
    by_levels = {(cell.main, cell.sub, cell.subsub if nested else ""): cell.name for cell in treatments}
    parts = [mains, subs, subsubs] if nested else [mains, subs]
    if any(len(part) < 2 for part in parts) or len(by_levels) != len(mains) * len(subs) * len(subsubs):
        raise Refusal(
            "not_for_design",
            field="design",
            label="A split or crossed layout",
            value="this list of treatments",
            limit="it needs every combination of at least two levels of each part",
            remedy="Make every combination under Treatments, or use complete blocks.",
        )
    if len(by_levels) != len(treatments):
        raise Refusal(
            "not_for_design",
            field="design",
            label="A split or crossed layout",
            value="this list of treatments",
            limit="two treatments share their levels",
            remedy="Choose which factor lies in which strips.",
        )
    if design.crossed:
        return lambda draw: _crossed(draw, mains, subs, by_levels)
    return lambda draw: _split(draw, mains, subs, subsubs, by_levels)


def _split(
    draw: _RawDraw,
    mains: Sequence[str],
    subs: Sequence[str],
    subsubs: Sequence[str],
    by_levels: dict[tuple[str, str, str], str],
) -> list[_Unit]:
    units: list[_Unit] = []
    for place, main in enumerate(draw.shuffled(mains), start=1):
        for sub in draw.shuffled(subs):
            units += [
                (len(units) + 1 + offset, 1, by_levels[main, sub, subsub], place)
                for offset, subsub in enumerate(draw.shuffled(subsubs))
            ]
    return units


def _crossed(
    draw: _RawDraw, mains: Sequence[str], subs: Sequence[str], by_levels: dict[tuple[str, str, str], str]
) -> list[_Unit]:
    columns, rows = draw.shuffled(mains), draw.shuffled(subs)
    return [
        (column, row, by_levels[main, sub, ""], column)
        for column, main in enumerate(columns, start=1)
        for row, sub in enumerate(rows, start=1)
    ]


def _latin(draw: _RawDraw, names: Sequence[str]) -> tuple[PlannedStrip, ...]:
    size = len(names)
    if not 3 <= size <= 10:
        raise Refusal(
            "not_for_design",
            field="design",
            label="A Latin square",
            value=f"{size} treatments",
            limit="it needs three to ten",
            remedy="Use complete blocks.",
        )
    letters, rows, columns = draw.shuffled(names), draw.shuffled(range(size)), draw.shuffled(range(size))
    return tuple(
        PlannedStrip(
            order=column * size + row + 1,
            block=column + 1,
            treatment=letters[(rows[row] + columns[column]) % size],
            column=column + 1,
            row=row + 1,
        )
        for column in range(size)
        for row in range(size)
    )


def _constrained(draw: _RawDraw, makers: Sequence[_Block], wanted: Constraints, *, freely: bool) -> tuple[PlannedStrip, ...]:
    """One layout that keeps what is wanted; ``freely``: blocks may be redrawn one by one."""
    if not wanted.balance_neighbours:
        return _numbered(_accepted(draw, makers, wanted, freely))
    result = [_numbered(_accepted(draw, makers, wanted, freely)) for _ in range(BALANCE_DRAWS)]
    return min(result, key=_unevenness)


def _accepted(draw: _RawDraw, makers: Sequence[_Block], wanted: Constraints, freely: bool) -> list[list[_Unit]]:
    if freely:
        blocks: list[list[_Unit]] = []
        for maker in makers:
            make, before = partial(maker, draw), blocks[-1:]
            blocks.append(_try(make, partial(_follows, before, wanted)))
        return blocks
    return _try(lambda: [maker(draw) for maker in makers], lambda blocks: _keeps(blocks, wanted, first=True))


def _follows(before: Sequence[Sequence[_Unit]], wanted: Constraints, block: list[_Unit]) -> bool:
    return _keeps([*before, block], wanted, first=not before)


def _try(make: Callable[[], _T], keeps: Callable[[_T], bool]) -> _T:
    for _ in range(MOST_TRIES):
        result = make()
        if keeps(result):
            return result
    raise Refusal(
        "cannot_satisfy",
        field="constraints",
        label="what was asked of the order",
        limit=MOST_TRIES,
        remedy="Leave one of the conditions out.",
    )


def _keeps(blocks: Sequence[Sequence[_Unit]], wanted: Constraints, *, first: bool) -> bool:
    if wanted.first and first and blocks[0][0][2] != wanted.first:
        return False
    if not wanted.no_equal_neighbours:
        return True
    line = [unit[2] for block in blocks for unit in block]
    return all(left != right for left, right in zip(line, line[1:], strict=False))


def _numbered(blocks: Sequence[Sequence[_Unit]]) -> tuple[PlannedStrip, ...]:
    strips: list[PlannedStrip] = []
    shift = mains = 0
    for number, block in enumerate(blocks, start=1):
        for column, row, treatment, main in block:
            strips.append(
                PlannedStrip(
                    order=len(strips) + 1,
                    block=number,
                    treatment=treatment,
                    main=mains + main if main else 0,
                    column=shift + column,
                    row=row,
                )
            )
        shift += max(unit[0] for unit in block)
        mains += max(unit[3] for unit in block)
    return tuple(strips)


def _unevenness(strips: Sequence[PlannedStrip]) -> float:
    names = sorted({strip.treatment for strip in strips})
    counts = neighbour_counts(strips)
    each = [counts[pair] for pair in combinations(names, 2)]
    mean = sum(each) / len(each)
    equal = sum(counts[name, name] for name in names)
    return sum((count - mean) ** 2 for count in each) + equal**2


def _record(design: DesignKind, seed: int, wanted: Constraints, control: str) -> tuple[str, ...]:
    sentences = [design.rule]
    if design.drawn:
        sentences.append(f"Fisher–Yates shuffles from the stream of PCG64, seed {seed}.")
    if wanted.no_equal_neighbours:
        sentences.append("Orders with the same treatment in neighbouring strips were thrown away and drawn again.")
    if wanted.balance_neighbours:
        sentences.append(f"Of {BALANCE_DRAWS} such orders the one with the most even neighbours was kept.")
    if wanted.first:
        sentences.append("The first strip was fixed beforehand, so its place is not random; the others are.")
    if design.extra_control and control:
        sentences.append("The second control strip of each block counts like the first.")
    return tuple(sentences)


def _check_constraints(design: DesignKind, names: Sequence[str], wanted: Constraints) -> None:
    if wanted.any and not design.takes_conditions:
        raise Refusal(
            "not_for_design",
            field="constraints",
            label="A condition on neighbours or the first strip",
            value=design.key.replace("_", " "),
            limit="its order is already bound",
            remedy="Leave the conditions out.",
        )
    if wanted.first and wanted.first not in names:
        raise Refusal("unknown_choice", field="first", label="First strip", value=wanted.first, limit="the treatments")


def _check_size(design: DesignKind, treatments: int, blocks: int) -> None:
    units = blocks * (treatments + design.extra_control)
    if units > MOST_UNITS:
        raise Refusal(
            "too_large",
            field="blocks",
            label="The number of strips",
            value=units,
            limit=MOST_UNITS,
            remedy="Take fewer blocks.",
        )


def _check_treatments(treatments: Sequence[str]) -> None:
    if len(treatments) < 2:
        raise Refusal("too_few_treatments", field="treatments", value=len(treatments))
    require_between(len(treatments), 2, MOST_TREATMENTS, "treatments")
    for name in treatments:
        if list(treatments).count(name) > 1:
            raise Refusal(
                "duplicate", field="treatments", label="Treatment", value=name, remedy="Give each treatment its own level."
            )


def _checked_seed(seed: int) -> int:
    require_between(seed, 0, 2**63 - 1, "seed", label="Seed of the draw")
    return seed
