"""How the pages come over the wire: compressed beforehand, and once for all where the name says what is in them."""

from __future__ import annotations

import brotli
import pytest
from django.conf import settings
from django.test import Client

ASSETS = settings.WEB_BUILD / "assets"
SMALL = 2_000  # bytes below which little is saved
SCRIPTS = sorted(path.name for path in ASSETS.glob("*.js") if path.stat().st_size > SMALL)
START_BYTES = 140_000  # of scripts that any page needs; measured 112 000
BOOK_BYTES = 180_000  # of scripts that the field book needs, whatever else there is


@pytest.fixture
def client() -> Client:
    return Client(HTTP_HOST="localhost")


def body(answer: object) -> bytes:
    return b"".join(answer)  # type: ignore[call-overload]


def test_the_interface_is_built() -> None:
    assert SCRIPTS, "run `make setup`: these tests look at what is really served"


@pytest.mark.parametrize("name", SCRIPTS)
def test_scripts_come_compressed_and_are_kept(client: Client, name: str) -> None:
    plain = (settings.WEB_BUILD / "assets" / name).read_bytes()
    answer = client.get(f"/assets/{name}", headers={"accept-encoding": "gzip, br"})
    assert answer["Content-Encoding"] == "br"
    sent = body(answer)
    assert brotli.decompress(sent) == plain
    assert len(sent) < len(plain) / 2
    assert "immutable" in answer["Cache-Control"]
    assert "Accept-Encoding" in answer["Vary"]


def sent_bytes(*starts: str) -> int:
    """Bytes over the wire of the scripts whose names begin so."""
    return sum(path.stat().st_size for path in ASSETS.glob("*.js.br") if path.name.startswith(starts))


def test_a_page_brings_its_own_script_only() -> None:
    """Routes are loaded when they are opened; what every page needs stays small."""
    assert len(SCRIPTS) > 20
    assert sent_bytes("index-") < START_BYTES
    assert sent_bytes("index-", "FieldBook-", "outbox-", "Ribbon-") < BOOK_BYTES


def test_who_reads_no_compression_gets_none(client: Client) -> None:
    answer = client.get(f"/assets/{SCRIPTS[0]}")
    assert "Content-Encoding" not in answer
    assert body(answer) == (settings.WEB_BUILD / "assets" / SCRIPTS[0]).read_bytes()


def test_the_page_and_the_worker_are_asked_for_anew(client: Client) -> None:
    """A device that kept these for good would never see the next version."""
    for path in ("/", "/sw.js", "/manifest.webmanifest"):
        answer = client.get(path, headers={"accept-encoding": "br"})
        assert answer.status_code == 200
        assert "immutable" not in answer.get("Cache-Control", ""), path
