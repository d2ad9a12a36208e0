"""The one writer of CSV: text that a spreadsheet would run as a formula is kept as the text it is."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from apps.base.untrusted_text import without_bad_signs

RISKY = ("=", "+", "-", "@", "\t", "\r", "'")
Value = str | float | int | None


def csv_text(head: Sequence[str], rows: Sequence[Sequence[Value]]) -> str:
    """Rows as CSV: numbers as they are, text guarded."""
    return guarded_text([harmless(name) for name in head], [[_guarded(item) for item in row] for row in rows])


def guarded_text(head: Sequence[Value], rows: Sequence[Sequence[Value]]) -> str:
    """Rows whose text was guarded before, cell by cell, as CSV."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue()


def _guarded(value: Value) -> Value:
    return harmless(without_bad_signs(value)) if isinstance(value, str) else value


def harmless(text: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(RISKY) else text


def plain(text: str) -> str:
    """The text that ``harmless`` was given."""
    return text[1:] if text.startswith("'") else text
