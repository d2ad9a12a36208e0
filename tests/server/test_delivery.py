"""How the pages come over the wire: compressed beforehand, and once for all where the name says what is in them."""

from __future__ import annotations

import brotli
import pytest
from django.conf import settings
from django.test import Client

SCRIPTS = sorted(path.name for path in (settings.WEB_BUILD / "assets").glob("*.js"))


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
