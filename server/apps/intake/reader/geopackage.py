"""GeoPackage: its one table of features, out of a database that is not trusted.

The file is opened in memory. An authorizer lets statements read the tables of the standard and the feature table, and nothing
else: no function, no pragma but the columns of a table, no attached file. A view, or a virtual table other than the standard's
spatial index, makes the file one that is refused; triggers of the standard are there in every genuine file and never run, for
nothing is written. References: OGC 12-128r18; sqlite.org/security.html.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from typing import Any

import shapely
from shapely.geometry.base import BaseGeometry

from apps.intake.reader.features import Features, plain
from apps.intake.reader.refusal import refused, too_much, unreadable

_OF_THE_STANDARD = {"sqlite_master", "gpkg_contents", "gpkg_geometry_columns", "gpkg_spatial_ref_sys"}
_ENVELOPE_BYTES = {0: 0, 1: 32, 2: 48, 3: 48, 4: 64}
MOST_CELL_BYTES = 20_000_000


def read(content: bytes, *, rows: int, **_: int) -> Features:
    """The first table of features that holds any."""
    database = _opened(content)
    allowed = set(_OF_THE_STANDARD)
    database.set_authorizer(lambda action, first, *_: _allow(action, first, allowed))
    try:
        _refuse_programs(database)
        layers = database.execute(
            "SELECT g.table_name, g.column_name, s.organization, s.organization_coordsys_id, s.definition"
            " FROM gpkg_geometry_columns g JOIN gpkg_contents c ON c.table_name = g.table_name"
            " LEFT JOIN gpkg_spatial_ref_sys s ON s.srs_id = g.srs_id WHERE c.data_type = 'features'"
        ).fetchmany(50)
        tables = {row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    except (sqlite3.Error, MemoryError, OverflowError) as error:
        raise unreadable() from error
    for table, column, organization, code, definition in layers:
        if table in tables:
            allowed.add(table)
            result = _rows(database, table, column, rows)
            first = next(result, None)
            if first is not None:
                return Features(rows=_after(first, result), crs=_system(organization, code, definition))
    raise refused("no shapes in it", "Export the outline of the field, or the readings as points.")


def _opened(content: bytes) -> sqlite3.Connection:
    if len(content) < 100:
        raise unreadable()
    # a file that was saved while a program had it open says so in two bytes; in memory there is no journal beside it
    plain_journal = content[:18] + b"\x01\x01" + content[20:]
    database = sqlite3.connect(":memory:")
    try:
        database.deserialize(plain_journal)
        database.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, MOST_CELL_BYTES)
        database.setlimit(sqlite3.SQLITE_LIMIT_ATTACHED, 0)
        database.execute("PRAGMA trusted_schema = OFF")
        database.execute("PRAGMA cell_size_check = ON")
        database.execute("PRAGMA query_only = ON")
    except (sqlite3.Error, MemoryError, OverflowError) as error:
        raise unreadable() from error
    database.text_factory = lambda raw: raw.decode("utf-8", "replace")
    return database


def _allow(action: int, first: str | None, allowed: set[str]) -> int:
    if action == sqlite3.SQLITE_SELECT:
        return sqlite3.SQLITE_OK
    if action == sqlite3.SQLITE_READ and first in allowed:
        return sqlite3.SQLITE_OK
    return sqlite3.SQLITE_DENY


def _refuse_programs(database: sqlite3.Connection) -> None:
    for kind, name, sql in database.execute("SELECT type, name, sql FROM sqlite_master"):
        words = " ".join((sql or "").lower().split())
        index = words.startswith("create virtual table") and " using rtree(" in words.replace("rtree (", "rtree(")
        if kind == "view" or (words.startswith("create virtual") and not index) or " generated always " in words:
            raise refused(
                f"it holds “{str(name)[:40]}”, which is computed and not stored", "Export the one layer into a new GeoPackage."
            )


def _rows(database: sqlite3.Connection, table: str, column: str, rows: int) -> Iterator[tuple[BaseGeometry, dict[str, Any]]]:
    name = table.replace('"', '""')
    try:
        cursor = database.execute(f'SELECT * FROM "{name}" LIMIT {int(rows)}')
        names = [item[0] for item in cursor.description]
        place = [item.lower() for item in names].index(str(column).lower())
        for row in cursor:
            geometry = _geometry(row[place])
            if geometry is not None:
                yield geometry, {names[at][:80]: plain(value) for at, value in enumerate(row) if at != place}
    except (sqlite3.DataError, MemoryError, OverflowError) as error:
        raise too_much() from error
    except (sqlite3.Error, ValueError) as error:
        raise unreadable() from error


def _geometry(blob: Any) -> BaseGeometry | None:
    """A geometry in the standard's binary: a head with an envelope, then well-known binary."""
    if blob is None:
        return None
    if not isinstance(blob, bytes) or blob[:2] != b"GP" or len(blob) < 13:
        raise unreadable()
    envelope = _ENVELOPE_BYTES.get(blob[3] >> 1 & 0b111)
    if envelope is None:
        raise unreadable()
    try:
        return shapely.from_wkb(blob[8 + envelope :])
    except shapely.errors.ShapelyError as error:
        raise unreadable() from error


def _after(
    first: tuple[BaseGeometry, dict[str, Any]], rest: Iterator[tuple[BaseGeometry, dict[str, Any]]]
) -> Iterator[tuple[BaseGeometry, dict[str, Any]]]:
    yield first
    yield from rest


def _system(organization: Any, code: Any, definition: Any) -> str | None:
    if str(organization).upper() == "EPSG" and isinstance(code, int) and code > 0:
        return f"EPSG:{code}"
    if isinstance(definition, str) and definition.strip().lower() not in ("", "undefined"):
        return definition
    return None
