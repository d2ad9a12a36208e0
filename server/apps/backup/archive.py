"""One archive with everything: database, photographs, yield logs and the key, each with its hash; made and verified.

An archive is a ZIP. ``manifest.json`` comes last and names every other member with its size and SHA-256, the version and the
migrations; an archive that was cut off has none. It is written beside its target, verified by reading it again, and only then
given its name.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import shutil
import tempfile
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Any

from django.conf import settings

from apps.backup import sealing
from apps.backup.errors import BackupError
from apps.backup.snapshot import copy_database, database_path, migrations_of, named_files

MANIFEST, DATABASE, KEY = "manifest.json", "database.sqlite3", "secret.key"
MEMBER = re.compile(
    r"^(database\.sqlite3|secret\.key|photos/[0-9a-f]{2}/[0-9a-f]{64}\.jpg|attachments/[0-9a-f]{2}/[0-9a-f]{64}|"
    r"logs/[0-9a-f]{2}/[0-9a-f]{64}\.[a-z]{2,8}|logs/points/[0-9a-f]{8,64}\.npz)$"
)
PIECE = 1 << 20
MOST_MANIFEST = 50_000_000
ALTERED = "{name} was cut off or altered ({what}), so it is not used. Take another backup."


@dataclass(frozen=True, slots=True, kw_only=True)
class Contents:
    """What an archive holds, as its manifest says and its members bear out."""

    made_at: datetime
    version: str
    migrations: Mapping[str, list[str]]
    files: Mapping[str, tuple[int, str]]
    missing: tuple[str, ...]
    whole: bool
    """Photographs and logs are in it; a copy made before a migration has the database and the key alone."""

    @property
    def size(self) -> int:
        return sum(size for size, _ in self.files.values())


def make(target: Path, *, whole: bool = True, passphrase: str = "") -> Contents:
    """Back up this installation into a file, while it is in use; returns what went in.

    Parameters
    ----------
    target : the file; an older one of the name is replaced once the new one is verified.
    whole : with photographs and logs; without them for a copy of the database before it is changed.
    passphrase : seals the archive; empty leaves it open.

    Raises
    ------
    BackupError : no database, a damaged one, no room, or an archive that does not read back as it was written.
    """
    if passphrase:
        sealing.require_passphrase(passphrase)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".making-", dir=target.parent) as name:
            return _made(Path(name), target, whole=whole, passphrase=passphrase)
    except OSError as error:
        raise BackupError(
            f"The backup could not be written: {error.strerror or error}. Make room, or choose another place."
        ) from error


def _made(folder: Path, target: Path, *, whole: bool, passphrase: str) -> Contents:
    database, archive = folder / DATABASE, folder / "archive.zip"
    copy_database(database_path(), database)
    files: dict[str, dict[str, Any]] = {}
    missing = []
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_DEFLATED, allowZip64=True, compresslevel=3) as into:
        files[DATABASE] = _put(into, database, DATABASE)
        files[KEY] = _put(into, Path(settings.VAR) / KEY, KEY)
        for name in sorted(set(named_files(database))) if whole else ():
            path = Path(settings.VAR) / name
            if path.exists():
                files[name] = _put(into, path, name)
            else:  # a loss of before; what is there is backed up all the same, and the lack is told
                missing.append(name)
        manifest = {
            "cultrix_backup": 1,
            "made_at": datetime.now(UTC).isoformat(),
            "version": _version(),
            "migrations": migrations_of(database),
            "whole": whole,
            "missing": missing,
            "files": files,
        }
        into.writestr(MANIFEST, json.dumps(manifest, indent=1))
    contents = verify(archive)
    if passphrase:
        sealed = folder / "sealed"
        sealing.seal(archive, sealed, passphrase)
        sealing.unseal(sealed, archive, passphrase)
        contents = verify(archive)
        archive = sealed
    _settle(archive, target)
    return contents


def verify(path: Path) -> Contents:
    """Read an open archive whole and compare every byte with its manifest.

    Raises
    ------
    BackupError : it is no backup, was cut off, altered, or made by a version with another form.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            contents = _read_manifest(archive, path.name)
            there = [item.filename for item in archive.infolist() if item.filename != MANIFEST]
            if sorted(there) != sorted(contents.files):
                raise BackupError(ALTERED.format(name=path.name, what="its members are not those it names"))
            for name, (size, digest) in contents.files.items():
                with archive.open(name) as member:
                    if _measured(member, most=size) != (size, digest):
                        raise BackupError(ALTERED.format(name=path.name, what=name))
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError) as error:
        raise BackupError(ALTERED.format(name=path.name, what="it does not read as an archive")) from error
    except OSError as error:
        raise BackupError(f"{path} cannot be read: {error.strerror or error}.") from error
    return contents


def unpack(path: Path, folder: Path) -> Contents:
    """Verify an open archive and lay its members into a folder; names were checked, so nothing lies outside."""
    contents = verify(path)
    with zipfile.ZipFile(path) as archive:
        for name in contents.files:
            place = folder / name
            place.parent.mkdir(parents=True, exist_ok=True)
            with archive.open(name) as member, place.open("wb") as into:
                shutil.copyfileobj(member, into, PIECE)
                into.flush()
                os.fsync(into.fileno())
    return contents


def _read_manifest(archive: zipfile.ZipFile, name: str) -> Contents:
    if MANIFEST not in archive.namelist():
        raise BackupError(f"{name} is no backup of this program: it has no manifest.")
    if archive.getinfo(MANIFEST).file_size > MOST_MANIFEST:
        raise BackupError(ALTERED.format(name=name, what="its manifest is too long"))
    try:
        said = json.loads(archive.read(MANIFEST))
        if said["cultrix_backup"] != 1:
            raise BackupError(
                f"{name} was made by another version of this program, which writes another form. Use that version."
            )
        files = {str(key): (int(item["bytes"]), str(item["sha256"])) for key, item in said["files"].items()}
        contents = Contents(
            made_at=datetime.fromisoformat(said["made_at"]),
            version=str(said["version"]),
            migrations={str(app): [str(item) for item in names] for app, names in said["migrations"].items()},
            files=files,
            missing=tuple(said["missing"]),
            whole=bool(said["whole"]),
        )
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise BackupError(ALTERED.format(name=name, what="its manifest cannot be read")) from error
    if any(not MEMBER.fullmatch(file) for file in files) or not {DATABASE, KEY} <= set(files):
        raise BackupError(ALTERED.format(name=name, what="it names files that no backup has"))
    return contents


def _put(into: zipfile.ZipFile, path: Path, name: str) -> dict[str, Any]:
    info = zipfile.ZipInfo.from_file(path, name)
    info.compress_type = zipfile.ZIP_STORED if path.suffix in (".jpg", ".npz", ".zip") else zipfile.ZIP_DEFLATED
    info.external_attr = 0o600 << 16
    digest, size = hashlib.sha256(), 0
    with path.open("rb") as member, into.open(info, "w", force_zip64=True) as written:
        while piece := member.read(PIECE):
            digest.update(piece)
            size += len(piece)
            written.write(piece)
    return {"bytes": size, "sha256": digest.hexdigest()}


def _measured(member: Any, *, most: int) -> tuple[int, str]:
    digest, size = hashlib.sha256(), 0
    while size <= most and (piece := member.read(PIECE)):
        digest.update(piece)
        size += len(piece)
    return size, digest.hexdigest()


def _settle(archive: Path, target: Path) -> None:
    """Give a finished archive its name, for good even if the power goes."""
    with archive.open("rb") as handle:
        os.fsync(handle.fileno())
    archive.chmod(0o600)
    archive.replace(target)
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def _version() -> str:
    try:
        return version("cultrix")
    except PackageNotFoundError:  # run from its sources
        return "0"
