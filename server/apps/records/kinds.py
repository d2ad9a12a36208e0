"""The one registry of kinds of record.

A kind is described once, where its model stands; whatever goes over all kinds reads the registry: voiding, the guard of
workspaces, tallies of what hangs on a strip, packages, and the test that runs every kind through its life.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from apps.accounts.models import User, Workspace
from apps.base.quantities import Quantity
from apps.records.models import FieldRecord
from apps.trials.models import Trial

Home = Literal["strip", "trial", "workspace"]
Tallied = Literal["counts", "loads", "planting", "season", ""]


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One value that a reading is made of; limits in the unit of its column.

    ``low`` and ``high`` are refused beyond, ``usual`` is asked about beyond. ``apart``: readings at different values of it are
    never averaged together, and the field book keeps it from one reading to the next.
    """

    quantity: Quantity
    low: float
    high: float
    usual: tuple[float, float] | None = None
    apart: bool = False

    @property
    def name(self) -> str:
        """Name of the entry in what is sent, and of the composite in the model."""
        return self.quantity.name


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """A kind of record.

    Parameters
    ----------
    name : in addresses, such as ``stand-count``; ``words``: as a person says it.
    plural : in addresses of several; the name with an s unless said otherwise.
    home : what it belongs to.
    tallied : among which records of a strip it is counted, which then cannot lose that strip.
    packaged : whether packages of a trial have a table of it; ``many``: its relations to several rows.
    task : the task of the field book that makes it, empty where none does.
    shown_in : key of the answer that lists it and name of the list there, where the field book puts what has arrived.
    after_void : what voiding one, or restoring it, changes elsewhere.
    entries : makes it a reading: nothing but these values, the first of them typed again and again. Schema, address, answer,
        the task of the field book and the comparison of treatments follow from them.
    button : word on the task's button in the field book; ``hint`` stands under it. Only of readings.
    """

    name: str
    words: str
    model: type[FieldRecord]
    home: Home
    plural: str = ""
    tallied: Tallied = ""
    packaged: bool = True
    many: tuple[str, ...] = ()
    task: str = ""
    shown_in: tuple[str, str] | None = None
    after_void: Callable[[User, Any], None] | None = None
    entries: tuple[Entry, ...] = ()
    button: str = ""
    hint: str = ""

    @property
    def address(self) -> str:
        """Last part of the address of records of a trial, such as ``stand-counts``."""
        return self.plural or f"{self.name}s"

    @property
    def table(self) -> str:
        """Name of the table in a package."""
        return self.address.replace("-", "_")

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


def readings() -> list[Kind]:
    """Kinds that are described by their entries alone."""
    return [kind for kind in KINDS.values() if kind.entries]


def field_book_kinds() -> list[dict[str, Any]]:
    """What the field book must know of each kind that it makes: the device's part of the registry."""
    return [
        {
            "task": kind.task,
            "kind": kind.name,
            "words": kind.words,
            "address": kind.address,
            "answer": kind.shown_in[0] if kind.shown_in else "",
            "list": kind.shown_in[1] if kind.shown_in else "",
            "button": kind.button,
            "hint": kind.hint,
            "entries": [
                {
                    "name": entry.name,
                    "label": entry.quantity.label,
                    "dimension": entry.quantity.dimension,
                    "quantity": entry.quantity.kind,
                }
                for entry in kind.entries
            ],
        }
        for kind in KINDS.values()
        if kind.task
    ]


def field_book_kinds_text() -> str:
    """The same as the text of a file."""
    return json.dumps(field_book_kinds(), indent=2, ensure_ascii=False)
