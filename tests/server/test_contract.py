"""The committed OpenAPI document and the types made from it are those of the code."""

from __future__ import annotations

import json
import shutil
import subprocess
from pathlib import Path

import pytest
from config.api import api

ROOT = Path(__file__).resolve().parents[2]
REMEDY = "run `make types` and commit what it writes"


def test_openapi_document_is_current() -> None:
    committed = json.loads((ROOT / "docs" / "openapi.json").read_text())
    assert committed == json.loads(json.dumps(api.get_openapi_schema(), default=str)), REMEDY


def test_generated_types_are_current(tmp_path: Path) -> None:
    npx = shutil.which("npx")
    assert npx, "Node is needed"
    path = tmp_path / "schema.d.ts"
    subprocess.run(
        [npx, "--no-install", "openapi-typescript", "../docs/openapi.json", "-o", str(path)],
        cwd=ROOT / "web",
        check=True,
        capture_output=True,
    )
    assert path.read_text() == (ROOT / "web" / "src" / "api" / "schema.d.ts").read_text(), REMEDY


@pytest.mark.parametrize("operation", ["put_stand_count", "put_harvest_load", "put_field_event"])
def test_records_are_put_under_the_clients_id(operation: str) -> None:
    result = [
        (method, path)
        for path, methods in api.get_openapi_schema()["paths"].items()
        for method, item in methods.items()
        if item["operationId"] == operation
    ]
    ((method, path),) = result
    assert method == "put"
    assert path.endswith("_id}")
