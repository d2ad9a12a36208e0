"""A fingerprint of the code that runs: what earlier code has made and kept is known by it."""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]


@cache
def code_fingerprint() -> str:
    """Of every module of server and core, 16 letters."""
    digest = hashlib.sha256()
    for place in ("core", "server"):
        for file in sorted((ROOT / place).rglob("*.py")):
            digest.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    return digest.hexdigest()[:16]
