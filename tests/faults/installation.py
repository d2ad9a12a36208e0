"""An installation of its own with the demo in it, a server that can be killed, and people who send records to it."""

from __future__ import annotations

import http.client
import http.cookiejar
import io
import json
import os
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import urllib.error
import urllib.request
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import quote
from uuid import uuid4

from PIL import Image

ROOT = Path(__file__).resolve().parents[2]
PASSWORD = "terrace-demo-2026"
WHEAT = "Wheat seeding rate after peas"
pause = threading.Event().wait  # never set: a wait and nothing else


class Installation:
    """A folder, and a server on it that is started and killed."""

    def __init__(self, var: Path, **environment: str) -> None:
        self.var = var
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.environment = os.environ | {"CULTRIX_VAR": str(var), "DJANGO_SETTINGS_MODULE": "config.settings"} | environment
        self.server: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        return f"http://localhost:{self.port}"

    def manage(self, *command: str) -> str:
        done = subprocess.run(
            [sys.executable, str(ROOT / "server" / "manage.py"), *command],
            env=self.environment,
            check=True,
            capture_output=True,
            text=True,
        )
        return done.stdout

    def fill(self) -> None:
        """The demo, loaded once."""
        self.manage("migrate", "--verbosity=0")
        self.manage("load_demo")

    def start(self) -> None:
        """Start the server and wait until it answers."""
        self.server = subprocess.Popen(
            [sys.executable, str(ROOT / "server" / "serve.py"), "--port", str(self.port)],
            env=self.environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        for _ in range(1_200):
            try:
                urllib.request.urlopen(f"{self.address}/api/clock", timeout=5).read()
                return
            except (OSError, http.client.HTTPException):
                pause(0.05)
        raise RuntimeError("The server did not start.")

    def kill(self, how: int = signal.SIGKILL) -> None:
        """End the server without asking it."""
        assert self.server is not None
        self.server.send_signal(how)
        self.server.wait()

    def ask(self, sql: str, *values: object) -> list[tuple[Any, ...]]:
        """Read the database beside the server."""
        with closing(sqlite3.connect(self.var / "cultrix.sqlite3", timeout=30)) as database:
            return database.execute(sql, values).fetchall()


class Person:
    """Somebody with a device: signs in, sends, and sends again until the server has answered."""

    def __init__(self, at: Installation, name: str) -> None:
        self.at, self.name, self.workspace = at, name, ""
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def send(
        self, method: str, path: str, body: Any = None, *, form: bytes = b"", kind: str = "", **headers: str
    ) -> tuple[int, Any]:
        """One request; status 0 where nobody answered."""
        data = form or (json.dumps(body).encode() if body is not None else None)
        token = next((cookie.value for cookie in self.jar if cookie.name == "csrftoken"), "") or ""
        sent = {"Content-Type": kind or "application/json", "X-CSRFToken": token, "X-Person": quote(self.name)}
        sent |= ({"X-Workspace": self.workspace} if self.workspace else {}) | {
            key.replace("_", "-"): value for key, value in headers.items()
        }
        request = urllib.request.Request(f"{self.at.address}/api{path}", data=data, method=method, headers=sent)
        try:
            with self.opener.open(request, timeout=30) as answer:
                return answer.status, json.loads(answer.read() or b"null")
        except urllib.error.HTTPError as error:
            try:
                return error.code, json.loads(error.read() or b"null")
            except ValueError:
                return error.code, None
        except (OSError, http.client.HTTPException, ValueError):
            return 0, None

    def until_answered(self, method: str, path: str, body: Any = None, **more: Any) -> tuple[int, Any]:
        """The same request until the server has said yes or no to it."""
        for _ in range(4_000):
            status, answer = self.send(method, path, body, **more)
            if status not in (0, 503):
                return status, answer
            pause(0.05)
        raise RuntimeError("stuck")

    def sign_in(self) -> None:
        self.until_answered("GET", "/session")
        status, answer = self.until_answered("POST", "/session", {"username": self.name, "password": PASSWORD})
        assert status == 200, answer
        self.workspace = answer["person"]["workspaces"][0]["id"]

    def trial(self, title: str = WHEAT) -> dict[str, Any]:
        _, listed = self.until_answered("GET", f"/workspaces/{self.workspace}/trials")
        number = next(item["id"] for item in listed["rows"] if item["title"] == title)
        _, result = self.until_answered("GET", f"/trials/{number}")
        return dict(result)


def now() -> str:
    return datetime.now(UTC).isoformat()


def count_of(strip: str, plants: int) -> dict[str, Any]:
    return {
        "strip_id": strip,
        "method": "rows",
        "plants": str(plants),
        "rows": "4",
        "length": {"text": "1", "unit": "m"},
        "row_spacing": {"text": "15", "unit": "cm"},
        "recorded_at": now(),
    }


def load_of(strip: str, net: int) -> dict[str, Any]:
    return {
        "strip_id": strip,
        "method": "weighed",
        "net": {"text": str(net), "unit": "kg"},
        "moisture": {"text": "14", "unit": "%"},
        "swath_width": {"text": "6", "unit": "m"},
        "length": {"text": "300", "unit": "m"},
        "recorded_at": now(),
    }


def photo_of(strip: str, shade: int) -> tuple[bytes, str]:
    """A form with a picture in it, and its content type."""
    picture = io.BytesIO()
    Image.new("RGB", (320, 240), (shade % 256, shade // 256 % 256, 60)).save(picture, "JPEG")
    edge = uuid4().hex
    fields = {"strip_id": strip, "caption": str(shade), "recorded_at": now()}
    parts = [f'--{edge}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n' for name, value in fields.items()]
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.jpg"\r\nContent-Type: image/jpeg\r\n\r\n'
    content = "".join(parts).encode() + head.encode() + picture.getvalue() + f"\r\n--{edge}--\r\n".encode()
    return content, f"multipart/form-data; boundary={edge}"
