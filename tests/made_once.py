"""Databases that many tests start from, made once and copied: an empty installation, and one with the demo.

They lie in ``.pytest_cache/made`` under a fingerprint of everything that makes them, so that a run after a change of the
interface or of a test finds them, and one after a change of the server makes them anew.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from functools import cache
from pathlib import Path

from filelock import FileLock

ROOT = Path(__file__).resolve().parents[1]
PLACE = ROOT / ".pytest_cache" / "made"


def manage(var: Path, *command: str, **environment: str) -> str:
    """What a command of ``manage.py`` on a folder prints."""
    done = subprocess.run(
        [sys.executable, str(ROOT / "server" / "manage.py"), *command],
        check=False,
        capture_output=True,
        text=True,
        env=os.environ | {"CULTRIX_VAR": str(var), "DJANGO_SETTINGS_MODULE": "config.settings"} | environment,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def empty_installation() -> Path:
    """A folder with a database that nobody uses yet."""
    return _made("empty", lambda folder: manage(folder, "migrate", "--verbosity=0"))


def filled_demo() -> Path:
    """A folder with the demo in it."""

    def fill(folder: Path) -> None:
        copied(empty_installation(), folder)
        manage(folder, "load_demo")

    return _made("demo", fill)


def copied(source: Path, folder: Path) -> Path:
    """A copy of a folder for one test alone."""
    shutil.copytree(source, folder, dirs_exist_ok=True)
    return folder


def _made(name: str, make: Callable[[Path], object]) -> Path:
    place = PLACE / _fingerprint()
    folder = place / name
    PLACE.mkdir(parents=True, exist_ok=True)
    with FileLock(PLACE / f"{name}.lock"):
        if not folder.exists():
            for old in PLACE.iterdir():
                if old.is_dir() and old != place:
                    shutil.rmtree(old)
            half = place / f"{name}-half"
            shutil.rmtree(half, ignore_errors=True)
            half.mkdir(parents=True)
            make(half)
            half.rename(folder)
    return folder


@cache
def _fingerprint() -> str:
    """Of the code of server and core, and of what it stands on."""
    digest = hashlib.sha256(sys.version.encode())
    files = [ROOT / "requirements" / "base.lock", *sorted((ROOT / "server").rglob("*")), *sorted((ROOT / "core").rglob("*"))]
    for file in files:
        if file.is_file() and "__pycache__" not in file.parts and file.suffix != ".pyc":
            digest.update(f"{file.relative_to(ROOT)} {file.stat().st_size} ".encode() + file.read_bytes())
    return digest.hexdigest()[:16]
