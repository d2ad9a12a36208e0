"""Files beside the database: written once under their hash, flushed to the disk before anybody is told that they are kept."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO


@dataclass(slots=True)
class Half:
    """A file on its way in, not yet under its name."""

    path: Path
    digest: str
    size: int

    def keep_as(self, path: Path) -> bool:
        """Give it its name, for good; returns whether it is new. The same file may be there already."""
        new = not path.exists()
        _make_folder(path.parent)
        self.path.replace(path)
        _flush_folder(path.parent)
        return new


@contextmanager
def half_written(source: IO[bytes], folder: Path) -> Iterator[Half]:
    """A copy of a file on the disk, flushed; removed at the end unless it was given its name."""
    _make_folder(folder)
    handle, name = tempfile.mkstemp(dir=folder, suffix=".part")
    sha, size = hashlib.sha256(), 0
    try:
        with os.fdopen(handle, "wb") as out:
            source.seek(0)
            for chunk in iter(lambda: source.read(1 << 20), b""):
                sha.update(chunk)
                size += len(chunk)
                out.write(chunk)
            out.flush()
            os.fsync(out.fileno())
        yield Half(Path(name), sha.hexdigest(), size)
    finally:
        Path(name).unlink(missing_ok=True)


def keep_bytes(content: bytes, path: Path) -> bool:
    """Write a file once under its name; returns whether it is new. A half-written file never gets the name."""
    if path.exists():
        return False
    _make_folder(path.parent)
    handle, name = tempfile.mkstemp(dir=path.parent, suffix=".part")
    try:
        with os.fdopen(handle, "wb") as out:
            out.write(content)
            out.flush()
            os.fsync(out.fileno())
        Path(name).replace(path)
        _flush_folder(path.parent)
    finally:
        Path(name).unlink(missing_ok=True)
    return True


def _make_folder(folder: Path) -> None:
    if not folder.exists():
        folder.mkdir(parents=True, exist_ok=True)
        _flush_folder(folder.parent)


def _flush_folder(folder: Path) -> None:
    """A name is on the disk only once its folder is."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
