"""Which signs are no text: controls other than tab and line end, halves of pairs, and what Unicode keeps for itself."""

from __future__ import annotations

import re

_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff\ufffe\uffff]")


def first_bad_sign(text: str) -> str | None:
    """The first sign of a text that is none, else None."""
    match = _BAD.search(text)
    return None if match is None else match[0]


def without_bad_signs(text: str) -> str:
    """The same text without them: for what was stored before they were refused."""
    return _BAD.sub("", text)
