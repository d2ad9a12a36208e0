"""The registry of kinds: nothing of it is forgotten, and every kind lives the same life."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.records.kinds import KINDS, field_book_kinds, kind_of, readings, register
from apps.records.models import FieldRecord
from config.api import api as contract
from django.apps import apps as installed

from tests.server.conftest import Api, add_drill, add_lot, package_bytes, send_package, typed
from tests.server.operation_rows import ROWS, Place
from tests.server.operations import send

BOOK = Path(__file__).resolve().parents[2] / "web" / "src" / "features" / "fieldbook" / "kinds.json"
each_kind = pytest.mark.parametrize("kind", sorted(KINDS))
BY_FILE = {"photo", "yield-log"}  # sent as a file, and never edited by sending another
CHANGES: dict[str, dict[str, Any]] = {
    "calibration": {"note": "after rain"},
    "planting-record": {"setting": "43"},
    "depth-check": {"depth": typed("41", "mm")},
    "deviation": {"note": "the last 20 m"},
    "seedbed-check": {"note": "crusted"},
    "tillage-pass": {"times": 2},
    "sampling-plan": {"name": "A second look"},
    "joined-visit": {"note": "rain between"},
    "stand-count": {"plants": "44"},
    "tape-run": {"by_eye": True},
    "dug-plant": {"shoots": 8},
    "plant-measure": {"value": typed("43", "cm")},
    "rating": {"note": "evening light"},
    "field-event": {"text": "25 mm"},
    "yield-sample": {"number": "28"},
    "grain-sample": {"seeds": "510"},
    "harvest-load": {"net": typed("1210", "kg")},
} | {kind.name: {"note": "dry below"} for kind in readings()}


def operation(kind: str) -> str:
    return f"put_{kind.replace('-', '_')}"


def subclasses() -> set[type[FieldRecord]]:
    return {model for model in installed.get_models() if issubclass(model, FieldRecord)}


def test_every_model_of_a_record_is_a_kind() -> None:
    """A new record whose kind was forgotten fails here."""
    assert {kind.model for kind in KINDS.values()} == subclasses()


def test_a_second_kind_of_one_name_is_a_mistake() -> None:
    first, second = KINDS["rating"], KINDS["photo"]
    with pytest.raises(ValueError, match="two kinds"):
        register(type(second)(name=first.name, words="Another", model=second.model, home="strip"))
    assert KINDS["rating"] is first


def test_the_field_book_has_the_registry_of_now() -> None:
    """`make types` writes the file."""
    assert json.loads(BOOK.read_text()) == field_book_kinds()


def test_every_address_is_one_of_the_contract() -> None:
    paths = {re.sub(r"{\w+}", "{}", path) for path in contract.get_openapi_schema()["paths"]}
    for kind in KINDS.values():
        of = "workspaces" if kind.home == "workspace" else "trials"
        assert f"/api/{of}/{{}}/{kind.address}/{{}}" in paths, kind.name
        assert operation(kind.name) in ROWS, f"{kind.name} has no row in tests/server/operations.py"
        assert kind.name in CHANGES or kind.name in BY_FILE, f"{kind.name} is not changed by any test"


@pytest.fixture
def ready(lead: Api, placed: Place, workspace: Workspace) -> Place:
    """A trial, and what some kinds name: a lot and a drill."""
    lot, drill = add_lot(lead, workspace, name="Other", tag="O-1"), add_drill(lead, workspace, "Other drill")
    return placed | {"lot": lot, "drill": drill, "lead": lead}


@dataclass
class Sender:
    """One record of a kind, sent by whomever, with or without changes; what was typed stays the same each time."""

    kind: str
    ready: Place
    workspace: Workspace
    record_id: str = field(default_factory=lambda: str(uuid4()))

    def __post_init__(self) -> None:
        self.row = ROWS[operation(self.kind)]
        result = self.row[2]
        self.body = result(self.ready) if callable(result) else result
        self.path = self.row[1].format(new=self.record_id, trial=self.ready["id"], workspace=self.workspace.id)
        self.void = f"/records/{self.kind}/{self.record_id}/void"

    def sent(self, who: Api, **changes: Any) -> Any:
        if isinstance(self.body, str):
            return send(who, self.row, self.path, self.ready)
        return who.call(self.row[0], self.path, self.body | changes)

    @property
    def stored(self) -> FieldRecord:
        return KINDS[self.kind].model._default_manager.get(pk=self.record_id)


@each_kind
def test_the_life_of_a_record(kind: str, lead: Api, outsider: Api, ready: Place, workspace: Workspace) -> None:
    """Written, written again, changed, changed from an old look, voided, restored; of no use to another workspace."""
    sender = Sender(kind, ready, workspace)
    assert sender.sent(lead).status_code == 201
    assert sender.sent(lead).status_code == 200, "the same again is the same record"
    assert (sender.stored.version, kind_of(sender.stored).name) == (1, kind)
    if kind in CHANGES:
        changed = sender.sent(lead, version=1, **CHANGES[kind])
        assert (changed.status_code, sender.stored.version) == (200, 2), changed.content
        stale = sender.sent(lead, version=1)
        assert (stale.status_code, stale.json()["code"], stale.json()["current"]["version"]) == (409, "stale", 2)
    version = sender.stored.version
    assert sender.sent(outsider).status_code == 404
    assert outsider.call("post", sender.void, {"voided": True, "reason": "mine", "version": version}).status_code == 404
    assert lead.refused("post", sender.void, {"voided": True, "reason": " ", "version": version})["field"] == "reason"
    late = {"voided": True, "reason": "late", "version": version + 5}
    assert lead.refused("post", sender.void, late, status=409)["code"] == "stale"
    assert lead.ok("post", sender.void, {"voided": True, "reason": "not so", "version": version})["voided"] is True
    if kind in CHANGES:
        dead = sender.sent(lead, version=version + 1)
        assert (dead.status_code, dead.json()["code"]) == (409, "voided")
    assert lead.ok("post", sender.void, {"voided": False, "version": version + 1})["voided"] is False
    assert sender.stored.version == version + 2
    assert type(sender.stored).history.filter(id=sender.record_id).count() >= 3  # type: ignore[attr-defined]


@pytest.mark.parametrize("kind", sorted(name for name, kind in KINDS.items() if kind.tallied and kind.home == "strip"))
def test_what_hangs_on_a_strip_keeps_it(kind: str, lead: Api, ready: Place, workspace: Workspace) -> None:
    """Records by which a strip is counted as used keep the layout, void ones too."""
    sender = Sender(kind, ready, workspace)
    assert sender.sent(lead).status_code == 201
    lead.ok("post", sender.void, {"voided": True, "reason": "not so", "version": 1})
    assert not lead.ok("get", f"/trials/{ready['id']}")["layout_bound"]["open"]


@each_kind
def test_a_package_takes_it_there_and_back(kind: str, lead: Api, outsider: Api, ready: Place, workspace: Workspace) -> None:
    """What is packaged arrives in another workspace with the same content, under an id of its own."""
    described, sender = KINDS[kind], Sender(kind, ready, workspace)
    extra = {"trial_id": ready["id"]} if kind == "calibration" else {}
    assert sender.sent(lead, **extra).status_code == 201
    there = Workspace.objects.get(name="Elsewhere")
    Workspace.objects.filter(id=there.id).update(currency=workspace.currency)
    answer = send_package(outsider, there.id, package_bytes(lead, ready))
    assert answer.status_code in (200, 201), answer.content
    copies = described.model._default_manager.exclude(pk=sender.record_id)
    assert copies.count() == int(described.packaged)
    if described.packaged:
        told = {
            column.attname
            for column in described.model._meta.concrete_fields
            if not column.primary_key and not column.is_relation and column.attname != "received_at"
        }
        assert {name: getattr(copies.get(), name) for name in told} == {name: getattr(sender.stored, name) for name in told}
