"""Zip files: names are labels and never paths, sizes are checked while unpacking, and nothing is written to disk."""

from __future__ import annotations

import io
import stat
import zipfile
import zlib

from apps.intake.reader.refusal import refused, too_much

CHUNK = 1 << 16


def entries(content: bytes, *, most_files: int, most_bytes: int) -> dict[str, bytes]:
    """Every file of an archive by its name; refuses links, paths that lead elsewhere, and more than so many bytes."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            members = [item for item in archive.infolist() if not item.is_dir()]
            if len(members) > most_files or sum(member.file_size for member in members) > most_bytes:
                raise too_much()
            for member in members:
                _check_name(member)
            result: dict[str, bytes] = {}
            left = most_bytes
            for member in members:
                if member.filename in result:
                    raise refused("two of its files share a name", "Zip the files anew.")
                result[member.filename] = _unpacked(archive, member, left)
                left -= len(result[member.filename])
            return result
    except (
        zipfile.BadZipFile,
        RuntimeError,
        NotImplementedError,
        OSError,
        EOFError,
        zlib.error,
        ValueError,
        IndexError,
    ) as error:
        if isinstance(error, ValueError) and hasattr(error, "code"):
            raise
        raise refused("it cannot be unpacked, so it is no zip file that is whole", "Zip the files anew.") from error


def _check_name(member: zipfile.ZipInfo) -> None:
    mode = member.external_attr >> 16
    parts = member.filename.replace("\\", "/").split("/")
    if stat.S_ISLNK(mode) or member.filename.startswith(("/", "\\")) or ".." in parts or ":" in parts[0]:
        raise refused(
            f"“{member.filename[:40]}” in it points elsewhere", "Zip the files themselves, without links or full paths."
        )
    if member.flag_bits & 0x1:
        raise refused("it has a password", "Zip the files without one.")


def _unpacked(archive: zipfile.ZipFile, member: zipfile.ZipInfo, most: int) -> bytes:
    parts, size = [], 0
    with archive.open(member) as handle:
        while chunk := handle.read(CHUNK):
            size += len(chunk)
            if size > most:
                raise too_much()
            parts.append(chunk)
    return b"".join(parts)
