"""The designs: one object each, which says all that any other module must know of a design.

Add a design: an entry in ``DESIGNS``, and how its blocks are drawn in ``randomise.py`` where that is none of the ways there
are. Lists, forms, the error of comparisons, the model of the verdict, the words of the record and the sham trials follow from
the entry. ``tests/core/test_designs.py`` draws, judges and analyses every entry.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Design = Literal[
    "rcbd", "pairs", "systematic", "crd", "latin", "augmented", "split_plot", "split_split", "strip_plot", "unreplicated"
]
Blocking = Literal["blocks", "none", "rows_and_columns"]
Family = Literal["rcbd", "crd", "latin"]
Part = Literal["main", "sub", "subsub"]


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignKind:
    """One design.

    Parameters
    ----------
    key : as stored and in addresses.
    name : as lists show it.
    rule : how strips are laid out, a sentence for the record of the draw.
    blocking : what is taken out before treatments are compared.
    parts : levels of strips inside strips, the largest first; empty where all strips are of one size.
    crossed : the parts cross instead of lying inside each other.
    drawn : the order comes from a draw.
    replicated : treatments stand more than once, so that there is an error to judge by.
    extra_control : the control stands twice in each block.
    treatments : how many treatments it is for, None for any number.
    error_words : which errors there are, with ``{first}`` and ``{second}`` for the factors of the parts.
    """

    key: str
    name: str
    rule: str
    blocking: Blocking = "blocks"
    parts: tuple[Part, ...] = ()
    crossed: bool = False
    drawn: bool = True
    replicated: bool = True
    extra_control: bool = False
    treatments: int | None = None
    error_words: str = ""

    @property
    def split(self) -> bool:
        """Strips inside main strips, or strips that cross: each part has an error of its own."""
        return bool(self.parts)

    @property
    def family(self) -> Family:
        """The model by which treatments of one error are compared."""
        families: dict[Blocking, Family] = {"blocks": "rcbd", "none": "crd", "rows_and_columns": "latin"}
        return families[self.blocking]

    @property
    def in_drawn_blocks(self) -> bool:
        """Every treatment in each block, strips of one size, in an order drawn for each block."""
        return self.replicated and self.drawn and not self.split and self.blocking == "blocks"

    @property
    def blocks_asked(self) -> bool:
        """Whether one says how many blocks or repeats there are; else the treatments decide."""
        return self.replicated and self.blocking != "rows_and_columns"

    @property
    def takes_conditions(self) -> bool:
        """Whether neighbours and the first strip may be bound: not where the order is bound already."""
        return self.drawn and not self.crossed and self.blocking != "rows_and_columns"

    def error_df(self, treatments: int, blocks: int) -> int:
        """Error degrees of freedom where all strips have one error.

        Examples
        --------
        >>> design_kind("rcbd").error_df(treatments=3, blocks=4), design_kind("latin").error_df(treatments=4, blocks=4)
        (6, 6)
        """
        t, r = treatments, blocks
        if self.blocking == "none":
            return t * (r - 1)
        if self.blocking == "rows_and_columns":
            return (t - 1) * (t - 2)
        return r * (t + 1) - 1 - (r - 1) - (t - 1) if self.extra_control else (r - 1) * (t - 1)


DESIGNS: tuple[DesignKind, ...] = (
    DesignKind(
        key="rcbd",
        name="Complete blocks",
        rule="Every treatment once in each block, in an order drawn for each block.",
    ),
    DesignKind(
        key="pairs",
        name="Pairs side by side",
        treatments=2,
        rule="Pairs side by side, which of the two comes first drawn for each pair.",
    ),
    DesignKind(
        key="systematic",
        name="Alternating, A-B-A-B",
        drawn=False,
        rule="The same order in every block; nothing was drawn, so a drift across the field leans on the comparison.",
    ),
    DesignKind(
        key="crd",
        name="Completely randomised",
        blocking="none",
        rule="All strips in one random order, without blocks.",
        error_words="Nothing is taken out: strips were drawn over the whole field.",
    ),
    DesignKind(
        key="latin",
        name="Latin square",
        blocking="rows_and_columns",
        rule="A Latin square: every treatment once in each row and each column; rows, columns and letters were shuffled.",
        error_words="Rows and columns are taken out before treatments are compared.",
    ),
    DesignKind(
        key="augmented",
        name="Blocks with an extra control",
        extra_control=True,
        rule="Every treatment once and the control twice in each block, in an order drawn for each block.",
    ),
    DesignKind(
        key="split_plot",
        name="Split-plot",
        parts=("main", "sub"),
        rule="Main strips in an order drawn for each block, the strips inside each main strip in an order of their own.",
        error_words=(
            "The main strips of {first} have an error of their own (block:{first}); the strips inside them have another."
        ),
    ),
    DesignKind(
        key="split_split",
        name="Split-split-plot",
        parts=("main", "sub", "subsub"),
        rule="Main strips, strips inside them and parts inside those, each in an order drawn anew.",
        error_words=(
            "Main strips of {first}, the strips of {second} inside them "
            "and the smallest strips each have an error of their own."
        ),
    ),
    DesignKind(
        key="strip_plot",
        name="Crossed strips",
        parts=("main", "sub"),
        crossed=True,
        rule="Strips one way and bands across them, each in an order drawn for each block.",
        error_words="Strips of {first} and strips of {second} cross; each has an error of its own, and so has where they meet.",
    ),
    DesignKind(
        key="unreplicated",
        name="A look: one strip each",
        replicated=False,
        rule="One strip a treatment in random order: a look without replication.",
    ),
)
KEYS: tuple[Design, ...] = get_args(Design)
# Before anything is drawn: what holds for a trial that will be laid out in blocks.
UNDRAWN = DesignKind(key="", name="", rule="")
_BY_KEY = {design.key: design for design in DESIGNS} | {"": UNDRAWN}


def design_kind(key: str) -> DesignKind:
    """The design named ``key``; ``UNDRAWN`` for the empty key of a trial without a layout.

    Raises
    ------
    KeyError : a key that no design has; keys from outside are checked where they come in.
    """
    return _BY_KEY[key]
