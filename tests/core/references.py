"""Reading the reference cases of ``tests/reference``."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from cultrix_core.stats.compare import Comparison, Design, StripResponse, compare

FOLDER = Path(__file__).resolve().parents[1] / "reference"


@dataclass(frozen=True)
class Case:
    """A dataset with its expected results and the columns the analysis uses."""

    name: str
    design: Design
    treatment: str
    response: str
    block: str | None
    expected: dict[str, Any]
    rows: list[dict[str, Any]]
    levels: list[str]
    tolerance: dict[str, float]
    row: str | None = None

    def strips(self) -> list[StripResponse]:
        return [
            StripResponse(
                treatment=str(row[self.treatment]),
                response=float(row[self.response]),
                block=str(row[self.block]) if self.block else "",
                row=str(row[self.row]) if self.row else "",
            )
            for row in self.rows
        ]

    def run(self, **options: Any) -> Comparison:
        return compare(self.strips(), design=self.design, levels=self.levels, **options)


def case(file: str, design: Design, treatment: str, response: str, block: str | None, row: str | None = None) -> Case:
    raw = json.loads((FOLDER / f"{file}.json").read_text())
    levels = next(column["levels"] for column in raw["columns"] if column["name"] == treatment)
    return Case(
        name=file,
        design=design,
        treatment=treatment,
        response=response,
        block=block,
        expected=raw["expected"],
        rows=raw["data"],
        levels=[str(level) for level in levels],
        tolerance=raw["suggested_tolerance"],
        row=row,
    )


O01 = case("o01_rcbd_seedrate", "rcbd", "rate", "yield", "block")
O02 = case("o02_rcbd_seedrate_missing", "rcbd", "rate", "yield", "block")
O03 = case("o03_crd_unequal_potato_scab", "crd", "trt", "inf", None)
O26 = case("o26_rcbd_barley_sites_as_blocks", "rcbd", "variety", "yield", "block")
O28 = case("o28_crd_balanced_plantgrowth", "crd", "group", "weight", None)
O06 = case("o06_latin_square_5x5", "latin", "trt", "yield", "col", row="row")
CASES = [O01, O02, O03, O26, O28]


def reference_csv(name: str) -> str:
    """A case as the CSV a person would bring in."""
    rows = json.loads((FOLDER / f"{name}.json").read_text())["data"]
    handle = io.StringIO()
    table = csv.DictWriter(handle, fieldnames=list(rows[0]))
    table.writeheader()
    table.writerows(rows)
    return handle.getvalue()
