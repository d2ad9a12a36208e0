"""Tape runs, dug plants, measures, ratings, photographs, thresholds and what follows from them, through the API."""

from __future__ import annotations

import io
from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.field.season import photos
from apps.field.season.models import Photo, PlantMeasure, Rating, TapeRun
from apps.trials.models import Strip, Trial
from PIL import Image

from tests.server.conftest import (
    Api,
    add_photo,
    count_body,
    dug_body,
    measure_body,
    picture,
    rating_body,
    tape_body,
    typed,
)

Place = dict[str, Any]


def put(api: Api, trial: Place, kind: str, body: dict[str, Any], record_id: str = "") -> Any:
    return api.ok("put", f"/trials/{trial['id']}/{kind}/{record_id or uuid4()}", body)


def refused(api: Api, trial: Place, kind: str, body: dict[str, Any]) -> dict[str, Any]:
    return api.refused("put", f"/trials/{trial['id']}/{kind}/{uuid4()}", body)


def ago(days: int) -> str:
    return (datetime.now(UTC) - timedelta(days=days)).isoformat()


def plant(trial: Place, days: int) -> date:
    on = date.today() - timedelta(days=days)
    Trial.objects.filter(pk=trial["id"]).update(planted_on=on)
    return on


def test_a_tape_run_answers_with_its_indices(lead: Api, trial: Place) -> None:
    """The case of the core's tests, typed in centimetres: doubles 20 %, skips 30 %, precision 23.9 %."""
    run = put(lead, trial, "tape-runs", tape_body(trial["strips"][0]))
    result = run["spacings"]
    assert (result["doubles_pct"], result["skips_pct"]) == (20, 30)
    assert result["precision_pct"] == pytest.approx(23.87, abs=0.01)
    assert sum(item["number"] for item in result["histogram"]) == 10
    assert [item["code"] for item in run["questions"]] == ["long_gap"]
    seen = put(lead, trial, "tape-runs", tape_body(trial["strips"][0], looked_at=[6]))
    assert seen["questions"] == []
    analysis = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    assert analysis["spacing"][0]["runs"] == 2


def test_tapped_runs_have_shares_and_no_cv(lead: Api, trial: Place) -> None:
    run = put(lead, trial, "tape-runs", tape_body(trial["strips"][0], positions=[], marks="ppgpdppgpp"))
    assert (run["spacings"]["doubles_pct"], run["spacings"]["skips_pct"], run["spacings"]["cv_pct"]) == (10, 20, None)


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"positions": ["0", "10", "8"]}, "positions"),
        ({"positions": ["0", "ten", "20"]}, "positions"),
        ({"positions": ["0", "10"]}, "positions"),
        ({"reference": typed("", "cm")}, "reference"),
        ({"reference": typed("0", "cm")}, "reference"),
        ({"positions_unit": "furlong"}, "positions_unit"),
        ({"marks": "ppp"}, "marks"),
        ({"positions": [], "marks": "pq"}, "marks"),
    ],
)
def test_tape_runs_that_cannot_be(lead: Api, trial: Place, more: dict[str, Any], field: str) -> None:
    assert refused(lead, trial, "tape-runs", tape_body(trial["strips"][0], **more))["field"] == field
    assert not TapeRun.objects.exists()


def test_measures_keep_what_was_typed_and_ask_about_odd_ones(lead: Api, trial: Place) -> None:
    strip = trial["strips"][0]
    height = put(lead, trial, "plant-measures", measure_body(strip, value=typed("16.5", "in")))
    assert (height["value"]["text"], height["value"]["unit"]) == ("16.5", "in")
    assert height["shown"]["text"] == "42 cm"
    for text in ("41", "43"):
        put(lead, trial, "plant-measures", measure_body(strip, value=typed(text, "cm")))
    tenfold = put(lead, trial, "plant-measures", measure_body(strip, value=typed("420", "cm")))
    assert [item["code"] for item in tenfold["questions"]] == ["far_off"]
    weeds = put(
        lead,
        trial,
        "plant-measures",
        measure_body(strip, trait="weeds", subject="  field   pansy ", value=typed("6"), area=typed("0.25", "m2")),
    )
    assert weeds["subject"] == "field pansy"
    assert weeds["shown"]["text"] == "24.0 /m²"
    sick = put(
        lead,
        trial,
        "plant-measures",
        measure_body(strip, trait="diseased", subject="rust", value=typed("7"), sample_plants=20),
    )
    assert sick["shown"]["text"] == "35.0%"


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"trait": "taste"}, "trait"),
        ({"value": typed("", "cm")}, "value"),
        ({"value": typed("42", "kg")}, "unit"),
        ({"value": typed("42", "m")}, "value"),
        ({"trait": "weeds", "value": typed("3"), "area": typed("0.25", "m2")}, "subject"),
        ({"trait": "weeds", "subject": "x", "value": typed("3")}, "area"),
        ({"trait": "pests", "subject": "x", "value": typed("3")}, "plants"),
        ({"trait": "pests", "subject": "x", "value": typed("3.5"), "sample_plants": 10}, "value"),
        ({"trait": "canopy", "value": typed("120")}, "value"),
    ],
)
def test_measures_that_cannot_be(lead: Api, trial: Place, more: dict[str, Any], field: str) -> None:
    answer = refused(lead, trial, "plant-measures", measure_body(trial["strips"][0], **more))
    assert answer["field"] in (field, "value" if field == "unit" else field), answer
    assert not PlantMeasure.objects.exists()


def test_ratings_are_kept_apart_and_say_whether_they_were_blind(lead: Api, trial: Place) -> None:
    for number, strip in enumerate(trial["strips"]):
        put(lead, trial, "ratings", rating_body(strip, score=4 + number % 3, blind=True))
        put(lead, trial, "plant-measures", measure_body(strip, trait="canopy", value=typed(str(50 + number))))
    result = lead.ok("get", f"/trials/{trial['id']}/scouting")["summaries"]
    assert [(item["name"], item["judged"]) for item in result] == [("Ground covered by the crop", False), ("Vigour", True)]
    assert result[1]["blind"] == 9
    assert "Described, not called" in result[0]["words"]
    with_difference = [item for item in result[0]["treatments"] if item["difference"]]
    assert len(with_difference) == 2
    for score in (0, 10):
        assert refused(lead, trial, "ratings", rating_body(trial["strips"][0], score=score))["field"] == "score"
    assert refused(lead, trial, "ratings", rating_body(trial["strips"][0], trait="height"))["field"] == "trait"
    assert Rating.objects.count() == 9


def test_the_eye_said_worse_and_the_count_says_equal(lead: Api, trial: Place) -> None:
    """Narrow rows are rated low in every block while stands are 200/m² but for a Latin-square wobble that favours none."""
    wobble = ((0, 8, -8), (8, -8, 0), (-8, 0, 8))
    places = [item["id"] for item in trial["treatments"]]
    control = next(item for item in trial["treatments"] if item["is_control"])
    for number, strip in enumerate(trial["strips"]):
        low = strip["treatment_id"] != control["id"]
        put(lead, trial, "ratings", rating_body(strip, trait="stand", score=(3 if low else 7) + number % 2))
        spacing = {"12.5 cm": "12.5", "18 cm": "18", "25 cm": "25"}
        name = next(item["name"] for item in trial["treatments"] if item["id"] == strip["treatment_id"])
        stand = 200 + wobble[strip["block"] - 1][places.index(strip["treatment_id"])]
        plants = round(stand * 4 * float(spacing[name]) / 100)
        body = count_body(strip, str(plants), row_spacing=typed(spacing[name], "cm"))
        put(lead, trial, "stand-counts", body)
    (result,) = lead.ok("get", f"/trials/{trial['id']}/scouting")["agreements"]
    assert (result["rating"], result["measured"]) == ("Stand", "Stand counted")
    assert [(item["eye"], item["count"], item["agree"]) for item in result["both"]] == [("worse", "none", False)] * 2
    assert "the eye said worse, the count shows no difference" in result["both"][0]["words"]
    assert "/m²" in result["both"][0]["count_text"]


def test_events_stand_on_their_strips(lead: Api, trial: Place) -> None:
    chosen = [trial["strips"][2]["id"], trial["strips"][3]["id"]]
    body = {
        "kind": "leak",
        "happened_on": date.today().isoformat(),
        "text": "Boom leaked at the turn",
        "strip_ids": chosen,
        "recorded_at": ago(0),
    }
    lead.ok("put", f"/trials/{trial['id']}/field-events/{uuid4()}", body)
    strips = lead.ok("get", f"/trials/{trial['id']}")["strips"]
    assert [bool(strip["events"]) for strip in strips] == [strip["id"] in chosen for strip in strips]
    assert "Boom leaked" in strips[2]["events"][0]
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    layout = {
        "version": fresh["version"],
        "design": "rcbd",
        "blocks": 2,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    assert lead.refused("post", f"/trials/{trial['id']}/layout", layout, status=409)["code"] == "would_orphan"


def test_photographs_lose_their_position_and_most_of_their_size(lead: Api, trial: Place) -> None:
    exif = Image.Exif()
    exif[0x010F] = "Secret Camera"
    exif[0x0112] = 6  # lies on its side
    exif.get_ifd(0x8825)[1] = "S"
    exif.get_ifd(0x8825)[2] = (28.0, 24.0, 0.0)
    raw = picture(3000, 2000, exif=exif.tobytes())
    assert b"Secret Camera" in raw
    answer = add_photo(lead, trial, content=raw)
    assert answer.status_code == 201, answer.content
    photo = answer.json()
    assert (photo["width"], photo["height"]) == (1067, 1600)  # upright, and 1600 px at most
    kept = lead.client.get(f"/api/photos/{photo['id']}")
    content = b"".join(kept.streaming_content)
    assert b"Secret Camera" not in content
    with Image.open(io.BytesIO(content)) as opened:
        assert not opened.getexif()
        assert "exif" not in opened.info
    small = lead.client.get(f"/api/photos/{photo['id']}?size=small").content
    with Image.open(io.BytesIO(small)) as opened:
        assert max(opened.size) == 320


def test_the_same_photograph_again_is_the_same_record(lead: Api, trial: Place) -> None:
    photo_id, content = str(uuid4()), picture()
    when = ago(0)
    for status in (201, 200):
        from django.core.files.uploadedfile import SimpleUploadedFile

        file = SimpleUploadedFile("a.jpg", content, content_type="image/jpeg")
        form = {"file": file, "strip_id": trial["strips"][0]["id"], "caption": "x", "recorded_at": when}
        answer = lead.client.post(f"/api/trials/{trial['id']}/photos/{photo_id}", form)
        assert answer.status_code == status, answer.content
    assert Photo.objects.count() == 1
    assert len(list(photos.path_of(Photo.objects.get().digest).parent.iterdir())) == 1


@pytest.mark.parametrize(
    "content", [b"not a picture", b"", b"<svg xmlns='http://www.w3.org/2000/svg'/>", b"GIF89a" + bytes(40)]
)
def test_what_is_no_photograph_is_refused(lead: Api, trial: Place, content: bytes) -> None:
    answer = add_photo(lead, trial, content=content or b"\x00")
    assert answer.status_code == 422
    assert answer.json()["field"] == "file"
    assert not Photo.objects.exists()


def test_photographs_are_bounded_in_bytes_and_pixels(lead: Api, trial: Place, settings: Any) -> None:
    settings.PHOTO_LIMIT_BYTES = 1_000
    assert "lower resolution" in add_photo(lead, trial).json()["message"]
    settings.PHOTO_LIMIT_BYTES = 5_000_000
    wide = io.BytesIO()
    Image.new("1", (8_000, 8_000)).save(wide, "PNG")  # 64 million pixels in a few kilobytes
    assert add_photo(lead, trial, content=wide.getvalue()).json()["code"] == "too_large"
    assert not Photo.objects.exists()


def test_a_voided_photograph_leaves_the_season(lead: Api, trial: Place) -> None:
    photo = add_photo(lead, trial).json()
    lead.ok("post", f"/records/photo/{photo['id']}/void", {"voided": True, "reason": "thumb", "version": 1})
    assert lead.ok("get", f"/trials/{trial['id']}/scouting")["strips"][0]["photos"] == []
    lead.ok("post", f"/records/photo/{photo['id']}/void", {"voided": False, "version": 2})
    assert len(lead.ok("get", f"/trials/{trial['id']}/scouting")["strips"][0]["photos"]) == 1


def test_ground_cover_of_a_photograph_joins_the_measures(lead: Api, trial: Place, outsider: Api) -> None:
    """Half leaf, half soil: half covered; a moved threshold is the person's; recorded, it stands under the photograph's day."""
    half = Image.new("RGB", (400, 300), (120, 92, 70))
    half.paste((70, 128, 52), (0, 0, 200, 300))
    out = io.BytesIO()
    half.save(out, "JPEG", quality=95)
    photo = add_photo(lead, trial, content=out.getvalue()).json()
    cover = lead.ok("get", f"/photos/{photo['id']}/cover")
    assert (cover["cover_pct"], cover["found"]) == (pytest.approx(50, abs=1), True)
    assert lead.ok("get", f"/photos/{photo['id']}/cover?threshold=1.5")["cover_pct"] == 0
    mask = lead.client.get(f"/api/photos/{photo['id']}/cover.png")
    assert (mask.status_code, mask["Content-Type"]) == (200, "image/png")
    assert outsider.client.get(f"/api/photos/{photo['id']}/cover").status_code == 404
    assert lead.refused("get", f"/photos/{photo['id']}/cover?threshold=7")["field"] == "threshold"
    body = measure_body(trial["strips"][0], trait="canopy", value=typed(str(cover["cover_pct"]), "%"), recorded_at=ago(3))
    put(lead, trial, "plant-measures", body)
    summary = lead.ok("get", f"/trials/{trial['id']}/scouting")["summaries"][0]
    assert (summary["trait"], summary["values"]) == ("canopy", 1)


def count_all(api: Api, trial: Place, at: str, per_m2: float, *, wobble: int = 1) -> None:
    """Two counts on every strip, near so many plants per m²."""
    for number, strip in enumerate(trial["strips"]):
        for place in range(2):
            plants = round(per_m2 * 0.5) + wobble * ((number * 3 + place) % 3 - 1)
            put(api, trial, "stand-counts", count_body(strip, str(plants), recorded_at=at))


def test_repeated_counts_give_emergence_and_survival(lead: Api, trial: Place) -> None:
    plant(trial, 200)
    for days, stand in ((192, 60), (186, 180), (178, 240), (20, 204)):
        count_all(lead, trial, ago(days), stand)
    result = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    item = result["emergence"][0]
    assert [point["day"] for point in item["points"]] == [8, 14, 22, 180]
    half = next(measure for measure in result["emergence_measures"] if measure["key"] == "half")
    own = next(value for value in half["treatments"] if value["treatment_id"] == item["treatment_id"])
    # a quarter up by day 8, three quarters by day 14: on the log scale half lies midway, at the root of 8 × 14
    assert float(own["mean"].split()[0]) == pytest.approx((8 * 14) ** 0.5, abs=0.4)
    assert item["final_pct"] == pytest.approx(75, abs=1)
    assert item["points"][-1]["fitted"] is None
    share = result["survival"][0]
    assert (share["from_day"], share["to_day"], share["strips"]) == (22, 180, 3)
    assert share["pct"] == pytest.approx(85, abs=1)
    assert share["lower_pct"] < share["pct"] < share["upper_pct"]


def test_counts_enter_as_subsamples(lead: Api, trial: Place) -> None:
    """Nine strips in three blocks, two counts each: 4 degrees of freedom, where 18 repeats would claim 13."""
    count_all(lead, trial, ago(3), 240, wobble=6)
    verdict = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")["verdict"]
    assert (verdict["strips"], verdict["counts"], verdict["honest_df"], verdict["pooled_df"]) == (9, 18, 4, 13)
    assert "would claim 13" in verdict["words"][0]
    assert verdict["within_cv_pct"] > 0
    assert sum(1 for item in verdict["treatments"] if item["difference"]) == 2


def test_a_stand_that_was_never_counted_has_no_verdict(lead: Api, trial: Place) -> None:
    result = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    assert result["verdict"] is None
    assert result["emergence"] == []
    assert result["rule"]["drawing"] == "tiller"


KEEP = {
    "wanted": typed("260", "plants/m2"),
    "full_yield": typed("7", "t/ha"),
    "worth": typed("190", "money/t"),
    "days_late": typed("14"),
    "seed": typed("70", "money/ha"),
    "passes": typed("60", "money/ha"),
}


def keep_inputs(api: Api, trial: Place, **more: Any) -> Any:
    fresh = api.ok("get", f"/trials/{trial['id']}")
    body = {"version": fresh["version"], "calculator": "keep_or_replant", "values": KEEP | more}
    return api.ok("put", f"/trials/{trial['id']}/kept-inputs", body)


def test_keep_or_replant_from_the_trials_own_counts(lead: Api, trial: Place) -> None:
    """Half of the wanted stand makes 85 % of 7 t/ha; a fortnight late at 0.6 % a day makes 91.6 %: 6.6 % of 1330 less 130."""
    count_all(lead, trial, ago(3), 130)
    before = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")["decisions"][0]
    assert before["answer"] is None
    assert "Say first" in before["words"]
    keep_inputs(lead, trial)
    result = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    item = result["decisions"][0]
    assert item["money"]["value"] == pytest.approx(1330 * (0.85 - 0.916) + 130, abs=6)
    assert item["lower"]["value"] < item["money"]["value"] < item["upper"]["value"]
    assert item["answer"] in ("keep", "close")
    assert item["working"]["steps"]
    assert any("plant-back" in words for words in result["cautions"])
    keep_inputs(lead, trial, days_late=typed("two weeks"))
    bad = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    assert bad["decision_problem"]["field"] == "days_late"
    assert bad["kept"]["days_late"]["text"] == "two weeks"


def lucerne(trial: Place, years: float) -> None:
    Trial.objects.filter(pk=trial["id"]).update(crop="lucerne")
    plant(trial, round(365 * years))


def test_a_perennial_stand_is_judged_by_plants_and_shoots(lead: Api, trial: Place) -> None:
    lucerne(trial, 4)
    count_all(lead, trial, ago(2), 36)
    for strip in trial["strips"]:
        for health, shoots in (("firm", 22), ("firm", 18), ("doubtful", 9), ("dead", None)):
            put(lead, trial, "dug-plants", dug_body(strip, health=health, shoots=shoots))
    result = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    crowns = result["crowns"][0]
    assert (crowns["dug"], crowns["alive_pct"]) == (12, 75)
    assert crowns["shoots"]["value"] == pytest.approx(36 * 0.75 * 49 / 3, rel=0.05)
    judged = result["forage"][0]
    assert [school["name"] for school in judged["schools"]] == ["By plants", "By shoots"]
    assert result["age_years"] == pytest.approx(4, abs=0.05)
    assert result["decisions"] == []


def test_an_own_threshold_decides_and_names_its_source(lead: Api, trial: Place, workspace: Any) -> None:
    lucerne(trial, 4)
    count_all(lead, trial, ago(2), 36)
    assert lead.ok("get", f"/trials/{trial['id']}/stand-analysis")["forage"][0]["action"] == "keep"
    path = f"/workspaces/{workspace.id}/stand-lines/lucerne/old_thin"
    lead.ok("put", path, {"value": typed("45", "plants/m2"), "source": "advisory trial on our terraces"})
    result = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    assert result["forage"][0]["action"] == "rotate"
    assert result["forage"][0]["schools"][0]["source"] == "advisory trial on our terraces"
    line = next(item for item in result["thresholds"] if item["key"] == "old_thin")
    assert (line["own"], line["per_m2"]) == (True, 45)
    assert lead.refused("put", path, {"value": typed("45", "plants/m2")})["field"] == "source"
    other = path.replace("old_thin", "colour")
    assert lead.refused("put", other, {"value": typed("4", "plants/m2"), "source": "x"})["code"] == "unknown_choice"
    lead.ok("put", path, {"value": typed("")})
    assert lead.ok("get", f"/trials/{trial['id']}/stand-analysis")["forage"][0]["action"] == "keep"


def test_the_stage_of_a_stand_follows_the_crops_rule(lead: Api, trial: Place) -> None:
    for leaves in ("3", "4", "4", "5"):
        put(lead, trial, "plant-measures", measure_body(trial["strips"][0], trait="leaves", value=typed(leaves)))
    result = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")["stages"][0]
    assert result["words"].startswith("L4")


def test_records_of_the_season_hold_the_layout(lead: Api, trial: Place) -> None:
    put(lead, trial, "ratings", rating_body(trial["strips"][0]))
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    body = {
        "version": fresh["version"],
        "design": "rcbd",
        "blocks": 2,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    answer = lead.refused("post", f"/trials/{trial['id']}/layout", body, status=409)
    assert "1 record of the season" in answer["message"]
    assert Strip.objects.filter(trial_id=trial["id"]).count() == 9


def test_an_edit_names_its_version(lead: Api, trial: Place) -> None:
    record_id = str(uuid4())
    body = rating_body(trial["strips"][0], recorded_at=ago(0))
    put(lead, trial, "ratings", body, record_id)
    put(lead, trial, "ratings", body, record_id)  # the same again is the same record
    stale = lead.refused("put", f"/trials/{trial['id']}/ratings/{record_id}", body | {"score": 2}, status=409)
    assert stale["code"] == "stale"
    changed = put(lead, trial, "ratings", body | {"score": 2, "version": 1}, record_id)
    assert (changed["score"], changed["version"]) == (2, 2)
