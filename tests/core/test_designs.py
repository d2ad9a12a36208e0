"""The registry of designs: each entry is drawn, judged and analysed as it says of itself."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
import statsmodels.formula.api as smf
from cultrix_core.design.designs import DESIGNS, KEYS, UNDRAWN, DesignKind, design_kind
from cultrix_core.design.detectable_difference import DesignSize, Variation, strata
from cultrix_core.design.randomise import Cell, Constraints, Layout, lay_out
from cultrix_core.errors import Refusal

each_design = pytest.mark.parametrize("kind", DESIGNS, ids=lambda kind: kind.key)
BLOCKS = 4


def cells_of(kind: DesignKind) -> list[Cell]:
    """Four treatments, two for pairs, and a factorial over the parts where there are some."""
    if kind.split:
        parts = [("a", "b"), ("c", "d"), ("e", "f") if "subsub" in kind.parts else ("",)]
        return [
            Cell(name=f"{main}{sub}{subsub}", main=main, sub=sub, subsub=subsub)
            for main in parts[0]
            for sub in parts[1]
            for subsub in parts[2]
        ]
    return [Cell(name=name) for name in "abcd"[: kind.treatments or 4]]


def drawn(kind: DesignKind, seed: int = 7, constraints: Constraints | None = None) -> Layout:
    cells = cells_of(kind)
    return lay_out(kind.key, cells, blocks=BLOCKS, seed=seed, control=cells[0].name, constraints=constraints)  # type: ignore[arg-type]


def test_keys_and_entries_are_the_same() -> None:
    assert tuple(kind.key for kind in DESIGNS) == KEYS
    assert design_kind("") is UNDRAWN
    with pytest.raises(KeyError):
        design_kind("lattice")


@each_design
def test_the_draw_is_what_the_entry_says(kind: DesignKind) -> None:
    layout = drawn(kind)
    names = [cell.name for cell in cells_of(kind)]
    assert layout.record[0] == kind.rule
    assert any("seed 7" in text for text in layout.record) == kind.drawn
    orders = {tuple(strip.treatment for strip in drawn(kind, seed).strips) for seed in range(12)}
    assert (len(orders) > 1) == kind.drawn
    times = [sum(strip.treatment == name for strip in layout.strips) for name in names]
    blocks = BLOCKS if kind.replicated else 1
    assert times == [blocks * 2 if kind.extra_control and name == names[0] else blocks for name in names]
    if kind.blocking == "blocks":
        for block in range(1, blocks + 1):
            assert {strip.treatment for strip in layout.strips if strip.block == block} == set(names)


@each_design
def test_conditions_are_taken_where_the_entry_says(kind: DesignKind) -> None:
    wanted = Constraints(first=cells_of(kind)[0].name)
    if kind.takes_conditions:
        assert drawn(kind, constraints=wanted).strips[0].treatment == wanted.first
        return
    with pytest.raises(Refusal) as refusal:
        drawn(kind, constraints=wanted)
    assert refusal.value.code == "not_for_design"


@pytest.mark.parametrize("kind", [kind for kind in DESIGNS if kind.replicated and not kind.split], ids=lambda kind: kind.key)
def test_error_degrees_of_freedom_are_those_of_the_fitted_model(kind: DesignKind) -> None:
    """Against the residual degrees of freedom of ordinary least squares in statsmodels, on the layout as drawn."""
    layout = drawn(kind)
    rows = pd.DataFrame(
        [(s.treatment, s.block, s.row, s.column) for s in layout.strips], columns=["t", "block", "row", "column"]
    )
    rows["y"] = np.random.default_rng(1).normal(size=len(rows))
    taken_out = {"blocks": " + C(block)", "none": "", "rows_and_columns": " + C(row) + C(column)"}[kind.blocking]
    fitted = smf.ols(f"y ~ C(t){taken_out}", rows).fit()
    treatments = len(cells_of(kind))
    assert kind.error_df(treatments, BLOCKS) == fitted.df_resid
    size = DesignSize(design=kind.key, treatments=treatments, blocks=BLOCKS)  # type: ignore[arg-type]
    assert strata(size, Variation(cv_pct=8))[0].df == fitted.df_resid


@each_design
def test_what_has_no_error_is_not_judged(kind: DesignKind) -> None:
    size = DesignSize(design=kind.key, treatments=len(cells_of(kind)), blocks=BLOCKS, main=2, sub=2, subsub=2)  # type: ignore[arg-type]
    if kind.replicated:
        assert all(stratum.df >= 1 for stratum in strata(size, Variation(cv_pct=8)))
        assert bool(kind.error_words) == (kind.split or kind.blocking != "blocks")
        return
    with pytest.raises(Refusal) as refusal:
        strata(size, Variation(cv_pct=8))
    assert refusal.value.code == "not_for_design"
