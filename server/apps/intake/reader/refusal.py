"""Refusals of a file, in the core's words."""

from __future__ import annotations

from cultrix_core.errors import Refusal


def refused(value: str, remedy: str, *, label: str = "The file") -> Refusal:
    """What is wrong with a file, and what to do."""
    return Refusal("bad_geometry", field="file", label=label, value=value, remedy=remedy)


def unreadable() -> Refusal:
    """A file that its format's reader cannot follow."""
    return refused("it could not be read as what it is", "Export it anew, or choose another format.")


def too_much() -> Refusal:
    """A file that swells beyond what a trial needs."""
    return refused("it unpacks to far more than a field or trial needs", "Export the one field or trial only.")
