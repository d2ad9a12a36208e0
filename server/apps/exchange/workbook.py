"""A trial as a workbook and as one table: strips, means, differences, budgets, protocol, in the reader's units."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from openpyxl import Workbook
from openpyxl.cell.cell import Cell
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet.worksheet import Worksheet

from apps.accounts.models import User
from apps.analysis.verdict.schemas import AnalysisOut
from apps.base.formatting import ShownOut
from apps.base.untrusted_text import without_bad_signs
from apps.exchange.csv_files import RISKY, csv_text
from apps.pages.money.output import money_out
from apps.pages.trial.output import protocol_out, treatment_out
from apps.pages.verdict.output import verdict_out
from apps.trial_state.rows import strip_out
from apps.trial_state.view import TrialView
from apps.trials.naming import level_name

Row = Sequence[str | float | int | None]
WIDEST = 60


def workbook_of(user: User, view: TrialView) -> bytes:
    """The workbook. Text stays text, whatever it begins with."""
    verdict, money = verdict_out(view), money_out(user, view)
    book = Workbook()
    about = book.active
    assert isinstance(about, Worksheet)
    about.title = "About"
    _fill(
        about,
        ["", ""],
        [
            ["Trial", view.trial.title],
            ["Crop", view.profile.title],
            ["Harvest", view.trial.season],
            ["Field", str(view.trial.field) if view.trial.field else ""],
            ["Design", view.trial.get_design_display()],
            ["Question", view.trial.question],
            ["Guess", view.trial.guess],
            ["Answer", verdict.headline],
            ["Money", verdict.money],
            ["Data", verdict.fingerprint],
            *(["Remark", item] for item in (*verdict.remarks, *money.remarks)),
        ],
    )
    _fill(book.create_sheet("Strips"), *strip_table(view))
    for analysis in (verdict.yield_, verdict.net_return):
        if analysis is not None:
            name = "yield" if analysis.response == "yield" else "net return"
            _fill(book.create_sheet(f"Means {name}"), *_means(analysis))
            _fill(book.create_sheet(f"Differences {name}"), *_differences(analysis))
    if money.treatments:
        _fill(
            book.create_sheet("Budgets"),
            ["Treatment", "Name", *(f"{item}, {money.unit}" for item in ("Income", "With the yield", "By area", "Net return"))],
            [
                [
                    treatment.letter,
                    treatment.name,
                    *_values(treatment.income, treatment.by_yield, treatment.by_area, treatment.net),
                ]
                for treatment in money.treatments
            ],
        )
    protocol = protocol_out(view.trial)
    if protocol is not None:
        rows: list[Row] = [["frozen", f"{protocol.frozen_at:%Y-%m-%d %H:%M} UTC"], ["fingerprint", protocol.fingerprint]]
        _fill(book.create_sheet("Protocol"), ["Name", "Text"], [*rows, *protocol.content])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def csv_of(view: TrialView) -> bytes:
    """One row a strip, as CSV that no spreadsheet runs as formulas."""
    head, rows = strip_table(view)
    return b"\xef\xbb\xbf" + csv_text(head, rows).encode()


def strip_table(view: TrialView) -> tuple[list[str], list[Row]]:
    """Every strip with its place, its treatment level by level, and what was measured and earned on it."""
    show = view.show
    names = {treatment.id: treatment_out(view, treatment).name for treatment in view.treatments}
    head = [
        "Strip",
        "Block",
        "Planned",
        "Received",
        "Treatment",
        *(factor.title for factor in view.factors),
        "Lost",
        "Said of it",
        f"Width, {show.unit('strip_width')}",
        f"Length, {show.unit('strip_length')}",
        f"Stand, {show.unit('density')}",
        f"Estimate, {show.unit('yield')}",
        f"Yield, {show.unit('yield')}",
        f"Net return, {show.unit('net_return')}",
    ]
    rows: list[Row] = []
    for strip in view.strips:
        out, got = strip_out(view, strip), strip.received
        levels = {level.factor_id: level_name(level, show) for level in got.levels.all()}
        rows.append(
            [
                strip.order,
                strip.block.number,
                strip.treatment.letter,
                got.letter,
                names[got.id],
                *(levels.get(factor.pk, "") for factor in view.factors),
                "lost" if strip.lost else "",
                strip.reason,
                *_values(out.width, out.length, out.stand, out.estimate, out.yield_, out.net_return),
            ]
        )
    return head, rows


def _values(*shown: ShownOut | None) -> list[float | None]:
    return [None if item is None else item.value for item in shown]


def _means(result: AnalysisOut) -> tuple[list[str], list[Row]]:
    head = ["Treatment", "Name", "Strips", *(f"{name}, {result.unit}" for name in ("Mean", "SE", "Lower", "Upper")), "Letters"]
    return head, [
        [mean.letter, mean.name, mean.n, *_values(mean.mean, mean.se, mean.lower, mean.upper), mean.letters]
        for mean in result.means
    ]


def _differences(result: AnalysisOut) -> tuple[list[str], list[Row]]:
    numbers = ("Difference", "SE", "Lower", "Upper", "Matters from")
    head = [
        "Factor",
        "Left",
        "Right",
        "At",
        *(f"{number}, {result.unit}" for number in numbers),
        "p",
        "p of the family",
        "Call",
    ]
    return head, [
        [
            difference.factor,
            difference.letter,
            difference.against,
            difference.within,
            *_values(difference.estimate, difference.se, difference.lower, difference.upper, difference.margin),
            difference.p,
            difference.p_adjusted,
            difference.call_words,
        ]
        for difference in result.differences
    ]


def _fill(sheet: Worksheet, head: Sequence[str], rows: Sequence[Sequence[Any]]) -> None:
    for place, row in enumerate(([head] if any(head) else []) + list(rows), start=1):
        for column, value in enumerate(row, start=1):
            cell = sheet.cell(row=place, column=column)
            assert isinstance(cell, Cell)
            _put(cell, value)
            if place == 1 and any(head):
                cell.font = Font(bold=True)
            cell.alignment = Alignment(vertical="top", wrap_text=isinstance(value, str) and len(value) > WIDEST)
    for column, cells in enumerate(sheet.iter_cols(), start=1):
        longest = max((len(str(item.value)) for item in cells if item.value is not None), default=8)
        sheet.column_dimensions[get_column_letter(column)].width = min(max(longest + 2, 8), WIDEST)
    if any(head):
        sheet.freeze_panes = "A2"


def _put(cell: Cell, value: Any) -> None:
    """A value; text that looks like a formula is kept as the text it is."""
    cell.value = without_bad_signs(value) if isinstance(value, str) else value
    if isinstance(value, str):
        cell.data_type = "s"
        if value.startswith(RISKY):
            cell.quotePrefix = True
