"""What pages say of a trial, as a fingerprint: every text as it is printed, whatever the ids and the order."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from typing import Any

PAGES = ("verdict", "money", "harvest", "stand", "estimates")
ID = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")
MOMENT = re.compile(r"\d{4}-\d\d-\d\dT.*")


def leaves(answer: Any) -> Iterator[str]:
    """Every text of an answer; ids and moments apart. Numbers for pictures carry more digits than two machines agree on."""
    if isinstance(answer, dict):
        for name, value in answer.items():
            if name != "fingerprint":  # it is made of ids
                yield from leaves(value)
    elif isinstance(answer, list):
        for value in answer:
            yield from leaves(value)
    elif isinstance(answer, str) and not MOMENT.fullmatch(answer):
        yield ID.sub("ID", answer)


def said(answer: Any) -> dict[str, Any]:
    """How much a page says, and the hash of it."""
    every = sorted(leaves(answer))
    return {"parts": len(every), "sha256": hashlib.sha256("\n".join(every).encode()).hexdigest()}
