"""Everything that the command prints in any test keeps to the schemas in docs/cli."""

from __future__ import annotations

import argparse
import json
from functools import lru_cache
from pathlib import Path

import pytest
from cultrix_core import cli
from jsonschema import Draft202012Validator

SCHEMAS = Path(__file__).resolve().parents[2] / "docs" / "cli"


@lru_cache
def validator(command: str) -> Draft202012Validator:
    schema = json.loads((SCHEMAS / f"{command}.schema.json").read_text())
    Draft202012Validator.check_schema(schema)
    return Draft202012Validator(schema)


@pytest.fixture(autouse=True)
def answers_keep_to_their_schema(monkeypatch: pytest.MonkeyPatch) -> None:
    work = cli._work

    def checked(arguments: argparse.Namespace) -> dict[str, object]:
        answer = work(arguments)
        validator(arguments.command).validate(json.loads(json.dumps(answer)))
        return answer

    monkeypatch.setattr(cli, "_work", checked)
