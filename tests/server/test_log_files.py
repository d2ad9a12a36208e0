"""Files of logs: every open format gives the same strips, and what is no log is refused whole."""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from pathlib import Path
from typing import Any

import geopandas
import numpy as np
import pytest
from apps.field.logs.models import YieldLog

from tests.server.conftest import OUTLINE, Api, add_yield_log, columns_of, driven, send_log
from tests.server.test_yield_logs import yields

Answer = dict[str, Any]


def as_points(content: bytes, form: str) -> tuple[str, bytes]:
    """The same readings as points of another open format, written by GeoPandas."""
    lines = [line.split(",") for line in content.decode().splitlines()]
    rows = np.array([[float(cell) for cell in line] for line in lines[1:]])
    frame = geopandas.GeoDataFrame(
        dict(zip(("time", "speed", "swath", "distance", "flow", "moisture"), rows[:, [0, 3, 4, 5, 6, 7]].T, strict=True)),
        geometry=geopandas.points_from_xy(rows[:, 1], rows[:, 2]),
        crs="EPSG:4326",
    )
    folder = Path(tempfile.mkdtemp())
    if form == "zip":
        frame.to_crs("EPSG:32626").to_file(folder / "log.shp")  # metres of a zone, told by its .prj
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            for path in folder.iterdir():
                archive.write(path, path.name)
        return "log.zip", buffer.getvalue()
    path = folder / f"log.{form}"
    frame.to_file(path, driver={"gpkg": "GPKG", "geojson": "GeoJSON"}[form])
    return path.name, path.read_bytes()


@pytest.mark.parametrize("form", ["zip", "gpkg", "geojson"])
def test_other_open_formats_give_the_same_strips(lead: Api, placed: Answer, form: str) -> None:
    content = driven(lead, placed)
    by_csv = add_yield_log(lead, placed)
    name, result = as_points(content, form)
    log = send_log(lead, placed, result, name=name).json()
    done = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    assert done["state"] == "done", done["said"]
    assert yields(done) == pytest.approx(yields(by_csv), rel=1e-4)


def bomb() -> bytes:
    """A zip of a few hundred kB that unpacks to 700 MB."""
    buffer = io.BytesIO()
    with (
        zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive,
        archive.open("log.shp", "w", force_zip64=True) as member,
    ):
        for _ in range(700):
            member.write(b"\0" * 1_000_000)
    return buffer.getvalue()


def polygons() -> bytes:
    ring = [*OUTLINE, OUTLINE[0]]
    item = {"type": "Feature", "properties": {}, "geometry": {"type": "Polygon", "coordinates": [ring]}}
    return json.dumps({"type": "FeatureCollection", "features": [item]}).encode()


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("log.csv", b"\x89PNG\r\n\x1a\n\x00\x00\x00", "none of the formats"),
        ("log.csv", b"", "not text"),
        ("log.csv", b"just one line of words\n", "no table"),
        ("log.exe", b"MZ\x00", "none of the formats"),
        ("log.zip", b"PK\x03\x04 no zip", "no zip file"),
        ("log.gpkg", b"SQLite format 3\x00 not one", "could not be read"),
        ("log.geojson", b"{", "could not be read"),
        ("log.geojson", polygons(), "not points"),
        ("log.zip", "bomb", "unpacks to far more"),
    ],
)
def test_a_file_that_is_no_log_is_refused_whole(lead: Api, placed: Answer, name: str, content: Any, words: str) -> None:
    answer = send_log(lead, placed, bomb() if content == "bomb" else content, name=name)
    assert answer.status_code == 422, answer.content
    assert words in answer.json()["message"]
    assert not YieldLog.objects.exists()


def rows_with(content: bytes, change: Any) -> bytes:
    lines = [line.split(",") for line in content.decode().splitlines()]
    return ("\n".join([",".join(lines[0]), *(",".join(change(line)) for line in lines[1:])]) + "\n").encode()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda row: [row[0], row[2], row[1], *row[3:]], "longitude and latitude look swapped. Exchange"),
        (lambda row: [row[0], "512000", "5150000", *row[3:]], "looks projected"),
        (lambda row: [row[0], "46.5", "-128.4", *row[3:]], "look swapped"),
        (lambda row: [row[0], row[1], row[2], *["nan"] * 5], "Readings with numbers in all columns"),
        (lambda row: [row[0], str(float(row[1]) + 1), *row[2:]], "not one of its readings lies on a strip"),
    ],
    ids=["swapped", "projected", "swapped and far", "nan", "another field"],
)
def test_a_hostile_log_fails_with_a_reason_and_nothing_is_taken_in(lead: Api, placed: Answer, change: Any, words: str) -> None:
    log = send_log(lead, placed, rows_with(driven(lead, placed), change)).json()
    done = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    assert done["state"] == "failed"
    assert words in done["said"]
    assert done["readings"] == 0
    assert YieldLog.objects.get().result is None
    assert (
        lead.refused("put", f"/trials/{placed['id']}/harvest-source", {"version": 0, "log_id": log["id"]})["code"] == "not_done"
    )


def test_ten_million_rows_are_refused(lead: Api, placed: Answer, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("cultrix_core.harvest.yield_log.MOST_READINGS", 500)
    log = send_log(lead, placed, driven(lead, placed)).json()
    done = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    assert done["state"] == "failed"
    assert "at most 500" in done["said"]


def test_a_file_over_the_limit_is_refused(lead: Api, placed: Answer, settings: Any) -> None:
    settings.LOG_LIMIT_BYTES = 1_000
    answer = send_log(lead, placed, driven(lead, placed))
    assert (answer.status_code, answer.json()["code"]) == (422, "too_large")
