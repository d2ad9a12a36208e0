"""A smoke of the page of answers: every part through few trials, promises kept within four standard errors."""

from __future__ import annotations

import numpy as np
import pytest

from tests.trust_answers import PARTS, kept, line

FEW = {"null": 20, "additive": 15, "crossings": 100, "chances": 4000, "margins": 4000, "opposite": 40}


@pytest.mark.slow
@pytest.mark.parametrize("name", FEW)
def test_promises_hold_in_few_trials(name: str) -> None:
    """Curves have a smoke of their own in ``test_amounts``."""
    rows = list(PARTS[name][0](FEW[name], 50_000))
    assert rows
    for row in rows:
        _, what, trials, found, promise = row
        room = 4 * np.sqrt(max(found * (1 - found), 0.02) / trials)
        answers = [kept(share, promise) for share in (found - room, found, found + room)]
        assert any(answers) or answers[1] is None, (what, found, promise)


def test_a_broken_promise_is_told() -> None:
    assert "**missed**" in line("null", ("a", "b", 100, 0.30, "at most 11 %"))
    assert line("null", ("a", "b", 100, 0.05, "at most 11 %")).endswith("| kept |")
    assert kept(0.5, "reported") is None
