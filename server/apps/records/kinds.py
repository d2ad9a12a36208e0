"""The one registry of kinds of record.

A kind is described once, where its model stands; whatever goes over all kinds reads the registry: voiding, the guard of
workspaces, tallies of what hangs on a strip, packages, and the test that runs every kind through its life.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from apps.accounts.models import User, Workspace
from apps.records.models import FieldRecord
from apps.trials.models import Trial

Home = Literal["strip", "trial", "workspace"]
Tallied = Literal["counts", "loads", "planting", "season", ""]


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """A kind of record.

    ``name``: in addresses, such as ``stand-count``; ``home``: what it belongs to; ``tallied``: among which records of a strip
    it is counted, which then cannot lose that strip; ``table``: its table in a package of the trial, empty where packages
    leave it out; ``many``: its relations to several rows; ``after_void``: what voiding one, or restoring it, changes elsewhere.
    """

    name: str
    model: type[FieldRecord]
    home: Home
    tallied: Tallied = ""
    table: str = ""
    many: tuple[str, ...] = ()
    after_void: Callable[[User, Any], None] | None = None

    @property
    def to_trial(self) -> str:
        """The way from a record to its trial."""
        return "strip__trial" if self.home == "strip" else "trial"


KINDS: dict[str, Kind] = {}
_BY_MODEL: dict[type[FieldRecord], Kind] = {}


def register(*kinds: Kind) -> None:
    """Add kinds; a second one of the same name is a mistake of the code."""
    for kind in kinds:
        if kind.name in KINDS and KINDS[kind.name] != kind:
            raise ValueError(f"two kinds of record are called {kind.name}")
        KINDS[kind.name] = _BY_MODEL[kind.model] = kind


def kind_of(record: FieldRecord) -> Kind:
    """The kind of a record."""
    return _BY_MODEL[type(record)]


def home_of(record: FieldRecord) -> Trial | Workspace:
    """What a record belongs to: a trial, or for some kinds the workspace."""
    kind, held = kind_of(record), record
    home: Trial | Workspace = held.strip.trial if kind.home == "strip" else getattr(held, kind.home)  # type: ignore[attr-defined]
    return home


def workspace_of(record: FieldRecord) -> Workspace:
    """The workspace whose members may see a record."""
    home = home_of(record)
    return home.workspace if isinstance(home, Trial) else home
