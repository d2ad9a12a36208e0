"""Reach: axe on the second half of all views; the first stands in ``test_access.py``."""

from __future__ import annotations

from playwright.sync_api import Page

from tests.e2e.reach import every_place, violations_on


def test_axe_on_the_second_half_of_all_views(lead: Page) -> None:
    places = every_place(lead)
    assert violations_on(lead, places[len(places) // 2 :]) == {}
