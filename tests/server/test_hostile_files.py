"""Files made to harm: none reads another file, reaches an address, stops anybody else, or leaves something behind.

Each goes to every way in that takes shapes. A listener stands for the network, a file with a secret for the machine.
Attacks by their literature: virtual layers and remote sources (GDAL, drivers VRT, WFS, /vsicurl/), entities (CWE-611, CWE-776),
links and false sizes in archives (CWE-22, CWE-409), programs in a database (sqlite.org/security.html).
"""

from __future__ import annotations

import io
import json
import socket
import sqlite3
import stat
import struct
import subprocess
import sys
import threading
import zipfile
from collections.abc import Callable, Iterator
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import pytest
import shapefile
import shapely
from apps.accounts.models import Workspace
from apps.farms.models import Field
from apps.field.logs.models import YieldLog
from apps.intake.models import Upload
from apps.intake.reader.confine import landlock_version
from apps.intake.services import GEOMETRY, POINTS, READERS
from django.conf import settings as django_settings
from django.core.files.uploadedfile import SimpleUploadedFile
from shapely.geometry import Polygon

from tests.server.conftest import OUTLINE, STRIP, Api, geojson, record_count, send_log

Place = dict[str, Any]
ROOT = Path(__file__).resolve().parents[2]
SECRET = "the-secret-of-the-terraces"


@pytest.fixture(scope="module")
def listener() -> Iterator[tuple[int, list[bytes]]]:
    """A port, and what came in on it."""
    heard: list[bytes] = []
    server = socket.create_server(("127.0.0.1", 0))

    def listen() -> None:
        while True:
            try:
                connection, _ = server.accept()
            except OSError:
                return
            heard.append(b"connection")
            connection.close()

    threading.Thread(target=listen, daemon=True).start()
    yield server.getsockname()[1], heard
    server.close()


@pytest.fixture(scope="module")
def secret(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A file that is none of an uploader's business; readable as a table and as GeoJSON, so that a reader would succeed."""
    folder = tmp_path_factory.mktemp("secret")
    (folder / "secret.geojson").write_bytes(geojson({SECRET: OUTLINE}))
    (folder / "secret.csv").write_text(f"id,WKT\n1,{SECRET}\n")
    return folder


def vrt(source: str, *, relative: bool = False) -> bytes:
    return (
        f'<OGRVRTDataSource><OGRVRTLayer name="secret"><SrcDataSource relativeToVRT="{int(relative)}">{source}</SrcDataSource>'
        "</OGRVRTLayer></OGRVRTDataSource>"
    ).encode()


def zipped(*entries: tuple[str, bytes], link: str = "") -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in entries:
            archive.writestr(name, content)
        if link:
            entry = zipfile.ZipInfo("strips.dbf")
            entry.external_attr = (stat.S_IFLNK | 0o777) << 16
            archive.writestr(entry, link)
    return out.getvalue()


def shapes(prj: str = "", ring: list[tuple[float, float]] = OUTLINE) -> dict[str, bytes]:
    """The parts of a genuine Shapefile, written by pyshp."""
    parts = {name: io.BytesIO() for name in ("shp", "shx", "dbf")}
    with shapefile.Writer(**parts) as writer:
        writer.field("treat", "C", 8)
        writer.poly([[*ring, ring[0]]])
        writer.record("A")
    return {f"strips.{name}": part.getvalue() for name, part in parts.items()} | ({"strips.prj": prj.encode()} if prj else {})


def geopackage(program: Callable[[sqlite3.Connection], None] = lambda _: None, *, feature: str = "outline") -> bytes:
    """A GeoPackage by the standard's tables (OGC 12-128r18, annex C), with something done to it."""
    database = sqlite3.connect(":memory:")
    database.executescript(
        """
        PRAGMA application_id = 0x47504B47;
        CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT, srs_id INTEGER PRIMARY KEY, organization TEXT,
            organization_coordsys_id INTEGER, definition TEXT, description TEXT);
        INSERT INTO gpkg_spatial_ref_sys VALUES ('WGS 84', 4326, 'EPSG', 4326, 'GEOGCS', NULL);
        CREATE TABLE gpkg_contents (table_name TEXT PRIMARY KEY, data_type TEXT, identifier TEXT, description TEXT,
            last_change TEXT, min_x REAL, min_y REAL, max_x REAL, max_y REAL, srs_id INTEGER);
        CREATE TABLE gpkg_geometry_columns (table_name TEXT, column_name TEXT, geometry_type_name TEXT, srs_id INTEGER,
            z INTEGER, m INTEGER);
        CREATE TABLE outline (fid INTEGER PRIMARY KEY, geom BLOB, treat TEXT);
        """
    )
    database.execute("INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES (?, 'features', 4326)", (feature,))
    database.execute("INSERT INTO gpkg_geometry_columns VALUES (?, 'geom', 'POLYGON', 4326, 0, 0)", (feature,))
    blob = b"GP\x00\x01" + struct.pack("<i", 4326) + shapely.to_wkb(Polygon(OUTLINE))
    database.execute("INSERT INTO outline (geom, treat) VALUES (?, 'A')", (blob,))
    program(database)
    database.commit()
    return database.serialize()


def smuggled(database: sqlite3.Connection, kind: str, name: str, sql: str) -> None:
    """A line of the schema that this SQLite would not write itself."""
    database.execute("PRAGMA writable_schema = ON")
    database.execute(
        "INSERT INTO sqlite_master (type, name, tbl_name, rootpage, sql) VALUES (?, ?, ?, 0, ?)", (kind, name, name, sql)
    )
    database.execute("PRAGMA writable_schema = OFF")


def computed_view(sql: str) -> bytes:
    return geopackage(lambda database: database.execute(f"CREATE VIEW taken AS {sql}"), feature="taken")


def virtual_text(path: Path) -> bytes:
    """A view over a virtual table that reads a text file: what a spatial build of SQLite opens."""

    def program(database: sqlite3.Connection) -> None:
        smuggled(database, "table", "lines", f"CREATE VIRTUAL TABLE lines USING VirtualText('{path}', UTF8, 0)")
        smuggled(database, "view", "taken", "CREATE VIEW taken AS SELECT rowid AS fid, geom FROM outline JOIN lines")

    return geopackage(program, feature="taken")


def swelling(database: sqlite3.Connection) -> None:
    smuggled(
        database,
        "table",
        "taken",
        "CREATE TABLE taken (fid INTEGER PRIMARY KEY, geom BLOB GENERATED ALWAYS AS (zeroblob(2000000000)))",
    )


ENTITIES = "".join(f'<!ENTITY e{n} "{f"&e{n - 1};" * 10}">' for n in range(1, 10))
PLACEMARK = (
    "<Placemark><Polygon><outerBoundaryIs><LinearRing><coordinates>{}</coordinates></LinearRing></outerBoundaryIs></Polygon>"
    "</Placemark>"
)
RING = " ".join(f"{lon},{lat}" for lon, lat in [*OUTLINE, OUTLINE[0]])


def feature_at(*corners: object) -> bytes:
    """GeoJSON with corners as they are written, however odd."""
    text = ",".join(f"[{corner}]" for corner in corners)
    return f'{{"type":"Feature","properties":{{}},"geometry":{{"type":"Polygon","coordinates":[[{text}]]}}}}'.encode()


def linked(link: dict[str, Any]) -> bytes:
    return json.dumps({**json.loads(geojson({"A": OUTLINE})), "crs": link}).encode()


def text(document: dict[str, Any]) -> bytes:
    return json.dumps(document).encode()


def star(corners: int) -> bytes:
    """An outline that crosses itself everywhere: sound in form, endless to mend."""
    ring = [
        (-28.4 + 0.003 * ((n * 7919) % corners) / corners, 46.5 + 0.003 * ((n * 104729) % corners) / corners)
        for n in range(corners)
    ]
    return geojson({"A": ring})


def family(secret: Path, port: int) -> dict[str, tuple[str, bytes]]:
    """Every hostile file by what it tries: its name and its content."""
    there, away = secret / "secret.geojson", f"http://127.0.0.1:{port}/x.geojson"
    genuine = shapes()
    lying = bytearray(genuine["strips.shp"])
    lying[24:28] = struct.pack(">i", 2**30)
    many_parts = bytearray(genuine["strips.shp"])
    many_parts[144:148] = struct.pack("<i", 2**31 - 1)
    result = {
        "virtual layer, absolute": ("a.geojson", vrt(str(there))),
        "virtual layer named KML": ("a.kml", vrt(str(there))),
        "virtual layer named GeoPackage": ("a.gpkg", vrt(str(there))),
        "virtual layer, relative": ("a.json", vrt("../../secret/secret.geojson", relative=True)),
        "virtual layer of a database": ("a.kml", vrt(str(Path(django_settings.VAR) / "cultrix.sqlite3"))),
        "virtual layer of an address": ("a.geojson", vrt(away)),
        "virtual layer through a remote file": ("a.geojson", vrt(f"/vsicurl/{away}")),
        "a path and nothing else": ("a.geojson", str(there).encode()),
        "a remote path and nothing else": ("a.geojson", f"/vsicurl/{away}".encode()),
        "a layer in JSON": ("a.json", text({"type": "gdal_streamed_alg", "command_line": f"gdal vector read {there}"})),
        "a service in JSON": ("a.json", text({"type": "FeatureCollection", "features": away, "links": [{"href": away}]})),
        "a linked reference system": ("a.geojson", linked({"type": "link", "properties": {"href": away, "type": "ogcwkt"}})),
        "a linked reference system as a name": ("a.geojson", linked({"type": "name", "properties": {"name": away}})),
        "a network link": ("a.kml", f"<kml><NetworkLink><Link><href>{away}</href></Link></NetworkLink></kml>".encode()),
        "an outside entity": ("a.kml", f'<!DOCTYPE kml [<!ENTITY s SYSTEM "file://{there}">]><kml>&s;</kml>'.encode()),
        "an entity bomb": ("a.kml", f'<!DOCTYPE kml [<!ENTITY e0 "ha">{ENTITIES}]><kml>&e9;</kml>'.encode()),
        "an outside schema": ("a.kml", f'<!DOCTYPE kml SYSTEM "{away}"><kml>{PLACEMARK.format(RING)}</kml>'.encode()),
        "a view over a text file": ("a.gpkg", virtual_text(secret / "secret.csv")),
        "a view of constants": ("a.gpkg", computed_view("SELECT fid, geom FROM outline")),
        "a view without end": (
            "a.gpkg",
            computed_view(
                "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
                "SELECT i AS fid, zeroblob(1000000) AS geom FROM n"
            ),
        ),
        "a column of gigabytes": ("a.gpkg", geopackage(swelling, feature="taken")),
        "a database in a database": (
            "a.gpkg",
            geopackage(
                lambda connection: smuggled(
                    connection, "table", "taken", f"CREATE VIRTUAL TABLE taken USING dbstat('{secret}')"
                ),
                feature="taken",
            ),
        ),
        "half a GeoPackage": ("a.gpkg", geopackage()[:5_000]),
        "a GeoPackage of nothing": ("a.gpkg", b"SQLite format 3\x00" + bytes(4_000)),
        "a link in a zip": ("a.zip", zipped(("strips.shp", genuine["strips.shp"]), link=str(there))),
        "an absolute name in a zip": ("a.zip", zipped(("/etc/strips.shp", genuine["strips.shp"]))),
        "a name that climbs": ("a.zip", zipped(("../../strips.shp", genuine["strips.shp"]))),
        "a Shapefile that says it is long": ("a.zip", zipped(*(genuine | {"strips.shp": bytes(lying)}).items())),
        "a Shapefile with two milliard parts": ("a.zip", zipped(*(genuine | {"strips.shp": bytes(many_parts)}).items())),
        "a reference system with files": ("a.zip", zipped(*shapes(f"+proj=longlat +nadgrids={secret}/a.gsb").items())),
        "a reference system in a language of its own": ("a.zip", zipped(*shapes("GEOGCS[" * 5_000).items())),
        "a zip bomb": ("a.zip", zipped(("strips.shp", bytes(90_000_000)))),
        "a coordinate beyond everything": ("a.geojson", feature_at("1e308,1e308", "1e308,0", "0,1e308", "1e308,1e308")),
        "a coordinate too far to write": ("a.geojson", feature_at("1e999,46", "-28.4,46.5", "-28.39,46.5", "1e999,46")),
        "a coordinate that is none": ("a.geojson", feature_at("NaN,46", "-28.4,46.5", "-28.39,46.5", "NaN,46")),
        "one corner far away": ("a.geojson", feature_at("-28.4,46.5", "-28.39,46.5", "-28.39,1e308", "-28.4,46.5")),
        "a KML corner beyond everything": ("a.kml", f"<kml>{PLACEMARK.format('1e308,1e308 0,0 1,1')}</kml>".encode()),
        "nested without end": ("a.geojson", b'{"type":"Feature","geometry":' + b"[" * 200_000),
        "geometry in geometry": ("a.geojson", b'{"type":"GeometryCollection","geometries":[' * 900 + b"]}" * 900),
        "a million corners": ("a.geojson", star(60_000)[:4_900_000]),
        "text that is no text": ("a.geojson", b"\xff\xfe" + "{".encode("utf-16-le")),
    }
    return result


NAMES = sorted(family(Path("/nowhere"), 1))


def send(api: Api, trial: Place, way: str, name: str, content: bytes) -> Any:
    if way == "log":
        return send_log(api, trial, content, name)
    path = (
        f"/api/fields/{trial['field']['id']}/boundary-file" if way == "boundary" else f"/api/trials/{trial['id']}/layout-file"
    )
    version = 1 if way == "boundary" else trial["version"]
    return api.client.post(path, {"version": version, "file": SimpleUploadedFile(name, content)})


def left_behind() -> set[Path]:
    folders = (Path(django_settings.LOGS), Path(django_settings.PHOTOS))
    return {path for folder in folders if folder.exists() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("way", ["boundary", "layout", "log"])
@pytest.mark.parametrize("name", NAMES)
def test_a_hostile_file_is_refused(
    lead: Api, placed: Place, secret: Path, listener: tuple[int, list[bytes]], name: str, way: str
) -> None:
    port, heard = listener
    file, content = family(secret, port)[name]
    before = left_behind()
    answer = send(lead, placed, way, file, content)
    assert answer.status_code == 422, (answer.status_code, answer.content[:400])
    said = answer.content.decode()
    assert SECRET not in said
    assert "Traceback" not in said
    assert not heard, "it reached an address"
    assert left_behind() == before, "a refused file stays nowhere"
    assert not YieldLog.objects.exists()
    assert Field.objects.get(pk=placed["field"]["id"]).version == 1
    assert not Upload.objects.filter(kept_bytes__gt=0).exists()


def test_an_outline_that_takes_for_ever_stops_only_itself(lead: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    """Sound in form and endless to mend: the child is stopped by its limit, and meanwhile everybody else is answered."""
    from apps.intake import reading

    monkeypatch.setattr(reading.Bounds, "__init__", lambda self: _short(self))
    answers: list[Any] = []
    slow = threading.Thread(target=lambda: answers.append(_read(star(20_000))))
    slow.start()
    while slow.is_alive():
        assert lead.ok("get", "/session")["person"]["username"] == "mirren"
        slow.join(0.2)
    assert "more memory or time than any field needs" in answers[0]


def _short(bounds: Any) -> None:
    for name, value in (("memory_bytes", 600_000_000), ("seconds", 2), ("wall_s", 4.0), ("answer_bytes", 1_000_000)):
        object.__setattr__(bounds, name, value)


def _read(content: bytes) -> str:
    from apps.intake.reading import read
    from cultrix_core.errors import Refusal

    try:
        read("boundary", io.BytesIO(content), kind="geojson", most_bytes=1_000_000)
    except Refusal as refusal:
        return refusal.message
    return "it was read"


ESCAPES = """
import ctypes, os, socket, sqlite3, subprocess, sys
sys.path[:0] = [{server!r}, {core!r}]
from apps.intake.reader.confine import confine
libc = ctypes.CDLL(None, use_errno=True)
libc_open = libc.open
enforced = confine(memory_bytes=600_000_000, seconds=20)
def tried(work):
    try:
        work()
    except (OSError, PermissionError, MemoryError, RuntimeError, sqlite3.Error):
        return "refused"
    return "DONE"
secret, port = {secret!r}, {port}
print("open", tried(lambda: open(secret)))
print("list", tried(lambda: os.listdir(os.path.dirname(secret))))
print("write", tried(lambda: open("/tmp/written-by-reader", "w")))
print("connect", tried(lambda: socket.create_connection(("127.0.0.1", port))))
print("program", tried(lambda: subprocess.run(["true"])))
print("database", tried(lambda: sqlite3.connect(secret)))
print("memory", tried(lambda: bytearray(900_000_000)))
print("kernel", "refused" if not enforced or libc_open(secret.encode(), 0) < 0 else "DONE")
print("itself", "read" if open(os.__file__).read(10) else "")
"""


def test_the_reader_reaches_nothing_but_itself(secret: Path, listener: tuple[int, list[bytes]]) -> None:
    """What a reader could try if a file took it over; with Landlock also below Python."""
    script = ESCAPES.format(
        server=str(ROOT / "server"), core=str(ROOT / "core"), secret=str(secret / "secret.csv"), port=listener[0]
    )
    done = subprocess.run([sys.executable, "-I", "-c", script], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    result = dict(line.split() for line in done.stdout.splitlines())
    assert result.pop("itself") == "read"
    assert set(result.values()) == {"refused"}, (result, landlock_version())
    assert len(result) == 8
    assert not listener[1]


def test_genuine_files_of_every_format_still_come_in(lead: Api, placed: Place) -> None:
    """The same parts without the harm: the family above is refused for the harm and not for its form."""
    wgs84 = (
        'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],'
        'UNIT["degree",0.0174532925199433]]'
    )
    root = '<?xml version="1.0"?><!-- saved --><kml xmlns="http://www.opengis.net/kml/2.2">'
    kml = f"{root}<Document>{PLACEMARK.format(RING)}</Document></kml>"
    files = {
        "a.zip": zipped(*shapes(wgs84).items()),
        "a.gpkg": geopackage(),
        "a.kml": kml.encode(),
        "a.geojson": linked({"type": "name", "properties": {"name": "urn:ogc:def:crs:OGC:1.3:CRS84"}}),
        "named as something else.txt": geojson({"A": OUTLINE}),
    }
    version = 1
    for name, content in files.items():
        path = f"/api/fields/{placed['field']['id']}/boundary-file"
        answer = lead.client.post(path, {"version": version, "file": SimpleUploadedFile(name, content)})
        assert answer.status_code == 200, (name, answer.content)
        version = answer.json()["version"]
        assert len(answer.json()["boundary"]) == len(OUTLINE)


def test_a_geopackage_saved_while_it_was_open_comes_in(lead: Api, placed: Place) -> None:
    """Programs leave the mark of a write-ahead journal in the file (bytes 18 and 19 of the header)."""
    content = bytearray(geopackage())
    content[18:20] = b"\x02\x02"
    assert send(lead, placed, "boundary", "a.gpkg", bytes(content)).status_code == 200


def test_nothing_is_opened_for_somebody_who_may_not(
    outsider: Api, viewer: Api, nobody: Api, placed: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Permission comes before the file, and before the form around it."""

    def opened(*_: object, **__: object) -> None:
        raise AssertionError("opened")

    for name in ("apps.intake.reading.read", "apps.intake.services.read", "apps.intake.services.kind_in"):
        monkeypatch.setattr(name, opened)
    for way in ("boundary", "layout", "log"):
        for who, status in ((nobody, 401), (outsider, 404), (viewer, 403)):
            assert send(who, placed, way, "a.geojson", geojson({"A": OUTLINE})).status_code == status
    for path in (
        f"/trials/{placed['id']}/layout-file",
        f"/trials/{placed['id']}/photos/x",
        f"/fields/{placed['field']['id']}/boundary-file",
    ):
        assert outsider.call("post", path, {"nothing": "of a form"}).status_code == 404, "before the form is looked at"


def test_a_log_refused_as_a_conflict_leaves_no_file(lead: Api, placed: Place) -> None:
    first = send_log(lead, placed, b"t,x,y,v\n1,2,3,4\n").json()
    before = left_behind()
    answer = send_log(lead, placed, b"t,x,y,v\n1,2,3,5\n", log_id=first["id"])
    assert answer.status_code == 409
    assert left_behind() == before


def test_a_workspace_has_limits_and_sees_them(
    lead: Api, viewer: Api, placed: Place, workspace: Workspace, settings: Any
) -> None:
    log = b"t,x,y,v\n1,2,3,4\n"
    assert send_log(lead, placed, log).status_code == 201
    used = viewer.ok("get", f"/workspaces/{workspace.id}/usage")
    assert (used["space_bytes"], used["uploads_this_hour"]) == (len(log), 1)
    settings.WORKSPACE_SPACE_BYTES = len(log) + 4
    assert "limit" in send_log(lead, placed, b"t,x,y,v\n1,2,3,6\n").json()["message"]
    settings.WORKSPACE_UPLOADS_AN_HOUR = 1
    answer = send(lead, placed, "boundary", "a.geojson", geojson({"A": OUTLINE}))
    assert (answer.status_code, answer.json()["code"]) == (503, "busy"), "a device waits and sends it again by itself"
    assert "an hour" in answer.json()["message"]
    assert viewer.ok("get", f"/workspaces/{workspace.id}/usage")["space_bytes"] == len(log)


def test_a_layout_of_a_trial_with_records_is_not_even_read(lead: Api, trial: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    record_count(lead, trial)
    monkeypatch.setattr("apps.intake.services.read", lambda *_, **__: pytest.fail("read"))
    answer = send(lead, trial, "layout", "a.geojson", geojson({"A": STRIP}))
    assert answer.json()["code"] == "would_orphan"


def test_many_files_at_once_leave_room_for_everybody_else(monkeypatch: pytest.MonkeyPatch) -> None:
    """Twelve files that all take their time: two are read, two wait, the others are told to come again at once."""
    from apps.base.errors import Busy
    from apps.intake import reading

    gate, told, inside = threading.Event(), [], []

    def slowly(*_: object) -> tuple[dict[str, Any], bytes]:
        inside.append(1)
        gate.wait(20)
        return {"found": {}}, b""

    def one() -> None:
        try:
            reading.read("boundary", io.BytesIO(b"{}"))
            told.append("read")
        except Busy:
            told.append("busy")

    monkeypatch.setattr(reading, "_answer", slowly)
    people = [threading.Thread(target=one) for _ in range(12)]
    for each in people:
        each.start()
    for each in people:
        each.join(0.2)
    assert told == ["busy"] * (12 - reading.IN_ALL)
    assert len(inside) == reading.AT_ONCE
    gate.set()
    for each in people:
        each.join()
    assert told.count("read") == reading.IN_ALL


def test_every_format_has_a_reader_and_a_name() -> None:
    """A format that may come in without a module that reads it, or without a name to be told by, fails here."""
    for kind in {*GEOMETRY, *POINTS}:
        assert kind in READERS, f"{kind} has no name"
        assert find_spec(f"apps.intake.reader.{ {'zip': 'shapefile_zip'}.get(kind, kind) }"), f"nothing reads {kind}"
    assert set(READERS) == {*GEOMETRY, *POINTS}
