"""A backup under a passphrase: age, an open format, in an open envelope.

The envelope is a ZIP with two members. ``identity.age`` is a key of its own, sealed with the passphrase; ``archive.zip.age`` is
the backup, sealed to that key in a stream, so that its size does not matter. Anybody with the passphrase can open it without
this program: ``age -d identity.age > key``, then ``age -d -i key archive.zip.age > archive.zip``.
"""

from __future__ import annotations

import zipfile
from pathlib import Path

import pyrage

from apps.backup.errors import BackupError

IDENTITY, SEALED = "identity.age", "archive.zip.age"
SHORTEST = 12


def require_passphrase(passphrase: str) -> str:
    if len(passphrase) < SHORTEST:
        raise BackupError(f"A passphrase has at least {SHORTEST} signs; a few words are easiest to keep.")
    return passphrase


def seal(archive: Path, target: Path, passphrase: str) -> None:
    """Seal a finished archive under a passphrase."""
    require_passphrase(passphrase)
    identity = pyrage.x25519.Identity.generate()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as envelope:
        envelope.writestr(IDENTITY, pyrage.passphrase.encrypt(str(identity).encode(), passphrase))
        with archive.open("rb") as plain, envelope.open(SEALED, "w", force_zip64=True) as sealed:
            pyrage.encrypt_io(plain, sealed, [identity.to_public()])


def is_sealed(path: Path) -> bool:
    """Whether a file is a sealed backup."""
    try:
        with zipfile.ZipFile(path) as envelope:
            return {IDENTITY, SEALED} == set(envelope.namelist())
    except (OSError, zipfile.BadZipFile):
        return False


def unseal(path: Path, target: Path, passphrase: str) -> None:
    """Open a sealed backup into a file; refuses a wrong passphrase and anything that was altered."""
    try:
        with zipfile.ZipFile(path) as envelope:
            identity = pyrage.x25519.Identity.from_str(
                pyrage.passphrase.decrypt(envelope.read(IDENTITY), passphrase).decode().strip()
            )
            with envelope.open(SEALED) as sealed, target.open("wb") as plain:
                pyrage.decrypt_io(sealed, plain, [identity])
    except (pyrage.DecryptError, pyrage.IdentityError) as error:
        raise BackupError("The passphrase is not the one of this backup, or the file was altered.") from error
    except (OSError, zipfile.BadZipFile) as error:
        raise BackupError(f"{path.name} was cut off or altered, so it is not used. Take another backup.") from error
