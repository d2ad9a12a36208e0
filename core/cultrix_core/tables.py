"""A pasted or uploaded table: read, mapped to strips, every problem named by its row.

Accepts comma, semicolon or tab separated text with a header. Nothing is guessed silently: a row with a
problem is listed and the whole table is refused until it is mended, except rows whose response is empty
or NA, which are lost strips and are listed as such.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite

from cultrix_core.errors import Refusal
from cultrix_core.units import parse_number

MOST_ROWS = 5_000
MOST_COLUMNS = 100
# what stands for no value, in lower case
EMPTY_RESPONSES = frozenset({"", "na", "n/a", "nan", ".", "-"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """Header and rows as text; ``line`` numbers start at 2, as a spreadsheet shows them."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RowProblem:
    """What is wrong in one row (line 0: the table itself)."""

    line: int
    column: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MappedRow:
    """One strip of a finished trial; response None when the strip was lost."""

    line: int
    block: str
    treatment: str
    response_text: str
    response: float | None


_WRITTEN = re.compile(r"^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?$")


def written_number(text: str, *, field: str, label: str) -> float:
    """A number as programs write it (``1e-3``, seventeen digits), else as people type it; refusals of ``parse_number``."""
    cleaned = text.strip()
    if _WRITTEN.match(cleaned) and len(cleaned) <= 40 and isfinite(float(cleaned)):
        return float(cleaned)
    return parse_number(text, field=field, label=label)


def read_table(text: str) -> Table:
    """Split delimited text into a table.

    Raises
    ------
    Refusal : ``missing`` for no header or rows, ``too_large`` for rows or columns, ``duplicate`` column.
    """
    if "\x00" in text:
        raise Refusal("not_a_number", field="file", label="The file", value="binary data", example="a table in CSV")
    text = text.lstrip("\ufeff")
    first = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=first.count)
    try:
        lines = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO(text), delimiter=delimiter)]
    except csv.Error as error:
        raise Refusal("missing", field="file", label="A readable table", remedy=f"The file is not CSV: {error}.") from error
    lines = [row for row in lines if any(row)]
    if len(lines) < 2:
        raise Refusal(
            "missing", field="file", label="A header line and at least one row", remedy="The first line must name the columns."
        )
    header = lines[0]
    if len(lines) - 1 > MOST_ROWS:
        raise Refusal("too_large", field="file", label="Rows", value=len(lines) - 1, limit=MOST_ROWS)
    if len(header) > MOST_COLUMNS:
        raise Refusal("too_large", field="file", label="Columns", value=len(header), limit=MOST_COLUMNS)
    for name in header:
        if header.count(name) > 1:
            raise Refusal("duplicate", field="file", label="Column", value=name, remedy="Rename one of them.")
    width = len(header)
    return Table(columns=tuple(header), rows=tuple(tuple((row + [""] * width)[:width]) for row in lines[1:]))


def map_strips(
    table: Table, *, block: str, treatment: str, response: str
) -> tuple[tuple[MappedRow, ...], tuple[RowProblem, ...]]:
    """Rows as strips, and the problems by row. The caller imports nothing while problems remain."""
    problems: list[RowProblem] = []
    places: dict[str, int] = {}
    for role, name in (("block", block), ("treatment", treatment), ("response", response)):
        if name not in table.columns:
            problems.append(
                RowProblem(
                    line=0,
                    column=name,
                    text=f"The column for the {role}, “{name}”, is not in the file. It has: {', '.join(table.columns)}.",
                )
            )
        else:
            places[role] = table.columns.index(name)
    if problems:
        return (), tuple(problems)
    if len(set(places.values())) < 3:
        return (), (RowProblem(line=0, column=response, text="Block, treatment and response must be three different columns."),)
    rows = []
    for line, cells in enumerate(table.rows, start=2):
        row, row_problems = _map_row(line, cells, places, (block, treatment, response))
        problems += row_problems
        if row is not None:
            rows.append(row)
    return tuple(rows), tuple(problems)


def _map_row(
    line: int, cells: Sequence[str], places: dict[str, int], names: tuple[str, str, str]
) -> tuple[MappedRow | None, list[RowProblem]]:
    problems = []
    for role, name in zip(("block", "treatment"), names, strict=False):
        if not cells[places[role]]:
            problems.append(RowProblem(line=line, column=name, text=f"Row {line} has no {role}."))
        elif len(cells[places[role]]) > 60:
            problems.append(RowProblem(line=line, column=name, text=f"Row {line}: the {role} is longer than 60 characters."))
    text = cells[places["response"]]
    value = None
    if text.lower() not in EMPTY_RESPONSES:
        try:
            value = parse_number(text, field="response", label=f"Row {line}: {names[2]}")
        except Refusal as refusal:
            problems.append(RowProblem(line=line, column=names[2], text=refusal.message))
        else:
            if value < 0:
                problems.append(RowProblem(line=line, column=names[2], text=f"Row {line}: {names[2]} is negative ({text})."))
    if problems:
        return None, problems
    return MappedRow(
        line=line, block=cells[places["block"]], treatment=cells[places["treatment"]], response_text=text, response=value
    ), []
