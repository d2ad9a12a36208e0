"""Boundaries and strips as files: read, refused, written, and read back the same."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import geopandas
import pytest
from apps.accounts.models import Workspace
from apps.trials.models import Strip
from django.core.files.uploadedfile import SimpleUploadedFile
from pyproj import Geod
from shapely import orient_polygons
from shapely.geometry import Polygon

from tests.server.conftest import OUTLINE, STRIP, Api, geojson, typed
from tests.server.test_designs import draw

Place = dict[str, Any]
GEOD = Geod(ellps="WGS84")
FORMATS = ["geojson", "gpkg", "zip", "kml"]


@pytest.fixture
def field(lead: Api, workspace: Workspace) -> Place:
    return lead.ok("post", f"/workspaces/{workspace.id}/fields", {"name": "Far Step", "shape_later": True})


def as_file(frame: geopandas.GeoDataFrame, form: str, folder: Any) -> bytes:
    """A frame written by GeoPandas itself, as anybody's program would."""
    if form == "zip":
        frame.to_file(folder / "odd name.shp")
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            for path in folder.iterdir():
                archive.write(path, f"inner/{path.name}")
        return buffer.getvalue()
    path = folder / f"outline.{form}"
    frame.to_file(path, **({"driver": "KML"} if form == "kml" else {}))
    return bytes(path.read_bytes())


def upload(api: Api, path: str, name: str, content: bytes, version: int = 1) -> Any:
    return api.client.post(f"/api{path}", {"version": version, "file": SimpleUploadedFile(name, content)})


@pytest.mark.parametrize("form", FORMATS)
@pytest.mark.parametrize("crs", [4326, 32626])
def test_a_boundary_from_every_format(lead: Api, field: Place, tmp_path: Any, form: str, crs: int) -> None:
    """Area against the geodesic on WGS 84 (pyproj.Geod), whatever coordinate system the file came in."""
    frame = geopandas.GeoDataFrame({"name": ["Far Step"]}, geometry=[Polygon(OUTLINE)], crs=4326)
    content = as_file(frame.to_crs(4326 if form == "kml" else crs), form, tmp_path)
    answer = upload(lead, f"/fields/{field['id']}/boundary-file", f"outline.{form}", content)
    assert answer.status_code == 200, answer.content
    result = answer.json()
    area, _ = GEOD.geometry_area_perimeter(orient_polygons(Polygon(OUTLINE)))
    assert Polygon(result["boundary"]).area == pytest.approx(area, rel=3e-4)
    assert result["size"] == f"{area / 1e4:.2f} ha"
    assert result["version"] == 2
    assert "Read from" in result["boundary_said"]


BOW = [(-28.4, 46.5), (-28.397, 46.503), (-28.397, 46.5), (-28.4, 46.5032)]


def test_a_crossed_outline_is_mended_and_said(lead: Api, field: Place) -> None:
    result = upload(lead, f"/fields/{field['id']}/boundary-file", "b.geojson", geojson({"A": BOW})).json()
    assert "mended" in result["boundary_said"]
    assert len(result["boundary"]) == 3


def _zip(names: dict[str, bytes]) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in names.items():
            archive.writestr(name, content)
    return buffer.getvalue()


FEATURE = {"type": "Feature", "properties": {}, "geometry": {"type": "Point", "coordinates": [1, 2]}}
POINT = json.dumps({"type": "FeatureCollection", "features": [FEATURE]}).encode()
REFUSED = [
    ("words", "b.geojson", b"not json at all", "none of the formats"),
    ("half a document", "b.geojson", b'{"type": "Feature", ', "could not be read"),
    ("binary", "b.gpkg", bytes(range(256)) * 40, "none of the formats"),
    ("another kind", "b.docx", b"%PDF-1.4\x00", "none of the formats"),
    ("no shapefile in it", "b.zip", _zip({"readme.txt": b"hello"}), "no .shp file"),
    ("no zip", "b.zip", b"PK\x03\x04 broken", "no zip file"),
    ("a bomb", "b.zip", _zip({"a.shp": b"\0" * 70_000_000}), "unpacks to far more"),
    ("a point", "b.geojson", POINT, "no area"),
    ("swapped", "b.geojson", geojson({"A": [(46.5, -128.4), (46.503, -128.4), (46.503, -128.397)]}), "swapped"),
    ("half a continent", "b.geojson", geojson({"A": [(-28, 46), (-20, 46), (-20, 52)]}), "more than a degree"),
    ("too small", "b.geojson", geojson({"A": [(-28.4, 46.5), (-28.400001, 46.5), (-28.4, 46.500001)]}), "area"),
]


@pytest.mark.parametrize(("what", "name", "content", "said"), REFUSED, ids=[row[0] for row in REFUSED])
def test_files_that_cannot_be(lead: Api, field: Place, what: str, name: str, content: bytes, said: str) -> None:  # noqa: ARG001
    answer = upload(lead, f"/fields/{field['id']}/boundary-file", name, content)
    assert answer.status_code == 422, answer.content
    assert answer.json()["code"] == "bad_geometry"
    assert said in answer.json()["message"]


def test_a_file_over_the_limit(lead: Api, field: Place) -> None:
    answer = upload(lead, f"/fields/{field['id']}/boundary-file", "b.geojson", b" " * 5_100_000)
    assert answer.status_code in (413, 422)


def test_corners_typed_in(lead: Api, workspace: Workspace) -> None:
    path = f"/workspaces/{workspace.id}/fields"
    metres = lead.ok("post", path, {"name": "By tape", "corners": "0 0\n120 0\n120 300\n0 310", "corners_in": "m"})
    assert metres["size"] == f"{Polygon([(0, 0), (120, 0), (120, 300), (0, 310)]).area / 1e4:.2f} ha"
    for corners, text in (
        ("46.5, -28.4\n46.6", "not two numbers"),
        ("46.5, -28.4\n46.5, -28.39", "fewer than three"),
        ("-28.4, 96.5\n-28.39, 96.5\n-28.39, 196.51", "more than a degree"),
        ("96.5, -28.4\n96.5, -28.39\n96.51, -28.39", "latitude first"),
        ("here, there\n1, 2\n3, 4", "must be a number"),
    ):
        answer = lead.refused("post", path, {"name": "Wrong", "corners": corners})
        assert text in answer["message"]
        assert answer["field"] == "corners"


def test_a_field_changes_with_its_version(lead: Api, field: Place, workspace: Workspace) -> None:
    path = f"/fields/{field['id']}"
    corners = "\n".join(f"{lat}, {lon}" for lon, lat in OUTLINE)
    fresh = lead.ok("patch", path, {"version": 1, "corners": corners, "heading": "10", "gradient": "95"})
    assert (fresh["heading"], fresh["gradient"]) == ("10", "95")
    assert lead.refused("patch", path, {"version": 1, "heading": "20"}, status=409)["code"] == "stale"
    assert lead.refused("patch", path, {"version": 2, "heading": "400"})["field"] == "heading"
    area = "\n".join(f"{lat}, {lon}" for lon, lat in [(-28.399, 46.501), (-28.3985, 46.501), (-28.3985, 46.5015)])
    kept = lead.ok("patch", path, {"version": 2, "areas": [{"kind": "no_go", "name": "pond", "corners": area}]})
    assert kept["areas"][0]["corners"] == area, "as typed"
    assert lead.refused("patch", path, {"version": 3, "areas": [{"kind": "no_go", "corners": "1, 2"}]})["field"] == "areas"
    assert workspace.fields.get(id=field["id"]).history.count() == 3  # type: ignore[attr-defined]


@pytest.mark.parametrize("form", FORMATS)
def test_strips_written_are_read_back_the_same(lead: Api, split: Place, tmp_path: Any, form: str) -> None:  # noqa: F811
    """Opened by GeoPandas: the right system, count, areas and values; taken in again: the same layout."""
    drawn = draw(lead, split)
    answer = lead.client.get(f"/api/trials/{drawn['id']}/strips-file?format={form}")
    assert answer.status_code == 200
    assert f'.{form}"' in answer.headers["Content-Disposition"]
    path = tmp_path / f"strips.{form}"
    path.write_bytes(answer.content)
    frame = geopandas.read_file(path)
    assert frame.crs.to_epsg() == 4326
    assert len(frame) == 24
    wide = frame.rename(columns={"Name": "strip"})
    letters = {item["id"]: item for item in drawn["treatments"]}
    for (_, row), strip in zip(wide.iterrows(), drawn["strips"], strict=True):
        treatment = letters[strip["treatment_id"]]
        assert int(row["strip"]) == strip["order"]
        assert (int(row["block"]), int(row["main"]), row["treat"]) == (strip["block"], strip["main"], treatment["letter"])
        assert float(row["rate_m2"]) == pytest.approx(float(treatment["levels"][1]["text"]) / 10)
        assert float(row["rate_kgha"]) == pytest.approx(float(treatment["levels"][1]["text"]) / 10 * 3)
        assert float(row["row_cm"]) == 75
        area, _ = GEOD.geometry_area_perimeter(orient_polygons(row.geometry))
        assert area / 1e4 == pytest.approx(float(row["area_ha"]), rel=1e-4)
        assert row["seed"] == "11"
    before = list(Strip.objects.filter(trial_id=drawn["id"]).values_list("order", "column", "main", "treatment_id", "ring"))
    back = upload(lead, f"/trials/{drawn['id']}/layout-file", f"strips.{form}", answer.content, drawn["version"])
    assert back.status_code == 200, back.content
    again = back.json()
    assert again["design"] == "split_plot"
    assert "Read from a file" in again["layout"]["record"][0]
    after = list(Strip.objects.filter(trial_id=drawn["id"]).values_list("order", "column", "main", "treatment_id", "ring"))
    for old, new in zip(before, after, strict=True):
        assert old[:4] == new[:4]
        assert Polygon(old[4]).hausdorff_distance(Polygon(new[4])) < 1e-4, "a tenth of a millimetre, as documented"


def test_the_strip_list_as_csv_and_the_sheet_as_pdf(lead: Api, split: Place) -> None:  # noqa: F811
    drawn = draw(lead, split)
    lines = lead.client.get(f"/api/trials/{drawn['id']}/strips-file?format=csv").content.decode().splitlines()
    assert lines[0].startswith("strip,block,main,col,row,treat,name,rate_m2")
    assert len(lines) == 25
    sheet = lead.client.get(f"/api/trials/{drawn['id']}/strips-file?format=pdf&driving=fewest_changes")
    assert sheet.content.startswith(b"%PDF-")
    assert sheet.headers["Content-Type"] == "application/pdf"
    assert len(sheet.content) > 20_000


def test_the_sheet_says_what_the_screen_says(lead: Api, split: Place, workspace: Workspace) -> None:  # noqa: F811
    from apps.accounts.models import User
    from apps.report.layout_sheet import layout_html
    from apps.trial_state.view import view
    from apps.trials.queries import trial_for

    lead.ok("patch", f"/trials/{split['id']}", {"version": split["version"], "question": "Is <b>strip</b> & till enough?"})
    drawn = draw(lead, lead.ok("get", f"/trials/{split['id']}"))
    user = User.objects.get(username="mirren")
    html = layout_html(view(user, trial_for(user, drawn["id"])), driving="as_laid", reserve_pct=10)
    assert "Is &lt;b&gt;strip&lt;/b&gt; &amp; till enough?" in html, "what people type is text, never markup"
    card = lead.ok("get", f"/trials/{drawn['id']}/pass-card")
    for item in card["seed"]:
        assert item["weight"] in html
    for text in card["cautions"]:
        assert text in html
    assert html.count("<polygon") >= 25, "every strip and the outline"
    assert workspace.name not in html
    assert "Protocol not frozen yet" in html
    lead.ok("post", f"/trials/{drawn['id']}/protocol")
    change = {"version": drawn["version"], "price": typed("210", "money/t"), "amendment": "contract signed"}
    lead.ok("patch", f"/trials/{drawn['id']}", change)
    html = layout_html(view(user, trial_for(user, drawn["id"])), driving="as_laid", reserve_pct=10)
    assert "contract signed" in html
    assert "from “200 €/t” to “210 €/t”" in html


def test_machine_files_need_a_place_on_the_globe(lead: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}/strips-file"
    assert "boundary" in lead.refused("get", f"{path}?format=gpkg")["message"]
    assert lead.client.get(f"/api{path}?format=csv").status_code == 200
    assert lead.refused("get", f"{path}?format=exe")["code"] == "malformed"


def shifted(number: int) -> list[tuple[float, float]]:
    return [(lon + 0.00012 * number, lat) for lon, lat in STRIP]


LAYOUTS = [
    ("no letters", geojson({"": shifted(0), "B": shifted(1), "C": shifted(2)}), "names no treatment"),
    ("a stranger's letter", geojson({"A": shifted(0), "Q": shifted(1), "C": shifted(2)}), "names treatment “Q”"),
    ("one over the other", geojson({"A": shifted(0), "B": shifted(0), "C": shifted(2)}), "lie over each other"),
    ("one number for all", geojson({"A": shifted(0), "B": shifted(1), "C": shifted(2)}, strip=1), "share a number"),
    ("one outline", geojson({"A": shifted(0)}), "1 strips"),
]


@pytest.mark.parametrize(("what", "content", "said"), LAYOUTS, ids=[row[0] for row in LAYOUTS])
def test_layouts_from_files_that_cannot_be(lead: Api, trial: Place, what: str, content: bytes, said: str) -> None:  # noqa: ARG001
    answer = upload(lead, f"/trials/{trial['id']}/layout-file", "l.geojson", content, trial["version"])
    assert answer.status_code == 422, answer.content
    assert said in answer.json()["message"]
    assert len(lead.ok("get", f"/trials/{trial['id']}")["strips"]) == 9, "the layout there was stays"


def test_a_layout_from_a_file_amends_a_frozen_protocol(lead: Api, trial: Place) -> None:
    frozen = lead.ok("post", f"/trials/{trial['id']}/protocol")
    content = geojson({"A": shifted(0), "B": shifted(1), "C": shifted(2)})
    path = f"/trials/{trial['id']}/layout-file"
    answer = upload(lead, path, "mine.geojson", content, frozen["version"])
    assert (answer.status_code, answer.json()["code"]) == (409, "frozen")
    assert len(lead.ok("get", f"/trials/{trial['id']}")["strips"]) == 9
    file = SimpleUploadedFile("mine.geojson", content)
    body = {"version": frozen["version"], "file": file, "amendment": "the contractor drove his own map"}
    done = lead.client.post(f"/api{path}", body).json()
    assert done["protocol"]["amendments"][0]["reason"] == "the contractor drove his own map"


def test_a_plain_layout_from_a_file(lead: Api, trial: Place) -> None:
    content = geojson({"A": shifted(0), "B": shifted(1), "C": shifted(2)})
    result = upload(lead, f"/trials/{trial['id']}/layout-file", "mine.geojson", content, trial["version"]).json()
    assert result["design"] == "unreplicated", "one strip each is a look"
    assert result["seed"] is None
    lonlat = [*shifted(0), shifted(0)[0]]
    assert result["strips"][0]["length"]["value"] == pytest.approx(GEOD.inv(*lonlat[1], *lonlat[2])[2], rel=1e-3)
    assert typed("x") == {"text": "x", "unit": ""}
