"""A row for every operation of the API: how it is asked, with what, and whether it writes."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

from apps.accounts.models import Workspace
from apps.farms.models import Field
from apps.records.kinds import Kind, readings
from cultrix_core.season.own_traits import OwnTrait, own_trait_key
from cultrix_core.units import units_of

from tests.server.conftest import (
    calibration_body,
    columns_of,
    count_body,
    depth_body,
    dug_body,
    grain_body,
    heads_body,
    load_body,
    lot_body,
    measure_body,
    now,
    plan_body,
    planting_body,
    prices_body,
    rating_body,
    steps_body,
    tape_body,
    typed,
)

Place = dict[str, Any]


def farm_of(trial: Place) -> str:
    """The farm of a trial's field, which is given one where it has none."""
    Field.objects.filter(pk=trial["field"]["id"], farm="").update(farm="Knapp")
    return Field.objects.get(pk=trial["field"]["id"]).farm


def offered(trial: Place) -> str:
    """The key of a variable that the workspace of a trial offers."""
    workspace = Workspace.objects.get(pk=trial["workspace_id"])
    key = own_trait_key(OwnTrait(name="Leaf colour", way="choice", words=("pale", "dark")))
    workspace.own_traits = [{"key": key, "crop": "", "days": None}]
    workspace.save()
    return key


def reading_body(kind: Kind, strip: Place, **more: Any) -> dict[str, Any]:
    """A reading of any kind, every entry in the middle of what is usual."""
    values = {}
    for entry in kind.entries:
        low, high = entry.usual or (entry.low, entry.high)
        unit = next(item for item in units_of(entry.quantity.dimension) if item.factor == 1)
        values[entry.name] = typed(f"{(low + high) / 2:g}", unit.code)
    return {"strip_id": strip["id"], **values, "recorded_at": now()} | more


Row = tuple[str, str, Any, bool]

# operation: (method, path, body or maker of one, whether it writes)
ROWS: dict[str, tuple[str, str, Any, bool]] = {
    **{
        f"put_{kind.name.replace('-', '_')}": (
            "put",
            f"/trials/{{trial}}/{kind.address}/{{new}}",
            lambda it, kind=kind: reading_body(kind, it["strips"][0]),
            True,
        )
        for kind in readings()
    },
    "readings": ("get", "/trials/{trial}/readings", None, False),
    "people": ("get", "/workspaces/{workspace}/people", None, False),
    "rights": ("get", "/workspaces/{workspace}/rights", None, False),
    "fields": ("get", "/workspaces/{workspace}/fields", None, False),
    "add_field": (
        "post",
        "/workspaces/{workspace}/fields",
        {"name": "New", "farm": "F", "width": typed("100", "m"), "length": typed("300", "m")},
        True,
    ),
    "edit_field": ("patch", "/fields/{field}", {"version": 1, "heading": "20"}, True),
    "put_boundary": ("post", "/fields/{field}/boundary-file", "boundary", True),
    "machines": ("get", "/workspaces/{workspace}/machines", None, False),
    "add_machine": (
        "post",
        "/workspaces/{workspace}/machines",
        {"name": "Drill", "kind": "planter", "width": typed("3", "m")},
        True,
    ),
    "strip_widths": ("post", "/trials/{trial}/strip-widths", lambda it: {"machines": it["machines"]}, False),
    "freeze_protocol": ("post", "/trials/{trial}/protocol", None, True),
    "amount_plan": ("post", "/trials/{trial}/amount-plan", {"expected_yield": typed("7", "t/ha")}, False),
    "honest_margin": ("post", "/trials/{trial}/margin", {"expected_yield": typed("7", "t/ha")}, False),
    "rehearse": (
        "post",
        "/trials/{trial}/rehearsal",
        {"fields": 5, "what_if": {"expected_yield": typed("7", "t/ha")}},
        False,
    ),
    "pass_card": ("get", "/trials/{trial}/pass-card", None, False),
    "trial_map": ("get", "/trials/{trial}/map", None, False),
    "export_strips": ("get", "/trials/{trial}/strips-file?format=csv", None, False),
    "import_layout": ("post", "/trials/{trial}/layout-file", "layout", True),
    "trials": ("get", "/workspaces/{workspace}/trials", None, False),
    "add_trial": ("post", "/workspaces/{workspace}/trials", {"title": "x", "crop": "maize", "season": 2026}, True),
    "today": ("get", "/workspaces/{workspace}/today", None, False),
    "trial": ("get", "/trials/{trial}", None, False),
    "edit_trial": ("patch", "/trials/{trial}", lambda it: {"version": it["version"], "title": "renamed"}, True),
    "set_treatments": (
        "put",
        "/trials/{trial}/treatments",
        lambda it: {
            "version": it["version"],
            "factors": [{"kind": "row_spacing"}],
            "treatments": [{"levels": [typed("10", "cm")]}, {"levels": [typed("20", "cm")]}],
        },
        True,
    ),
    "draw_layout": (
        "post",
        "/trials/{trial}/layout",
        lambda it: {
            "version": it["version"],
            "design": "rcbd",
            "blocks": 2,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
        True,
    ),
    "mark_strip": ("patch", "/strips/{strip}", {"lost": True, "sown_treatment_id": None, "reason": "hail"}, True),
    "stand": ("get", "/trials/{trial}/stand", None, False),
    "stand_counts": ("get", "/trials/{trial}/stand-counts?strip={strip}", None, False),
    "put_stand_count": ("put", "/trials/{trial}/stand-counts/{new}", lambda it: count_body(it["strips"][0]), True),
    "harvest": ("get", "/trials/{trial}/harvest", None, False),
    "put_harvest_load": ("put", "/trials/{trial}/harvest-loads/{new}", lambda it: load_body(it["strips"][0]), True),
    "put_harvest_sheet": (
        "post",
        "/trials/{trial}/harvest-sheet",
        lambda it: {"rows": [load_body(it["strips"][0], id=str(uuid4()))]},
        True,
    ),
    "yield_logs": ("get", "/trials/{trial}/yield-logs", None, False),
    "put_yield_log": ("post", "/trials/{trial}/yield-logs/{new}", "log", True),
    "yield_log": ("get", "/yield-logs/{log}", None, False),
    "set_log_columns": (
        "put",
        "/yield-logs/{log}/columns",
        lambda it: {"version": it["log"]["version"], "columns": columns_of(it["log"])},
        True,
    ),
    "set_log_steps": ("put", "/yield-logs/{log}/steps", lambda it: steps_body(it["log"], off=["ends"]), True),
    "log_picture": ("get", "/yield-logs/{log}/picture", None, False),
    "raw_log": ("get", "/yield-logs/{log}/raw", None, False),
    "cancel_job": ("post", "/jobs/{job}/cancel", None, True),
    "set_harvest_source": (
        "put",
        "/trials/{trial}/harvest-source",
        lambda it: {"version": 0, "log_id": it["log"]["id"]},
        True,
    ),
    "read_instrument": (
        "post",
        "/trials/{trial}/instrument-lines",
        {"instrument": "meter", "lines": "moisture=14.1 unit=pct"},
        False,
    ),
    "simulated_combine": ("get", "/trials/{trial}/stand-ins/combine?seed=4", None, False),
    "simulated_scale": ("get", "/trials/{trial}/stand-ins/scale?strip=1", None, False),
    "simulated_meter": ("get", "/trials/{trial}/stand-ins/meter", None, False),
    "field_events": ("get", "/trials/{trial}/field-events", None, False),
    "put_field_event": (
        "put",
        "/trials/{trial}/field-events/{new}",
        {"kind": "rain", "happened_on": "2026-06-01", "text": "20 mm", "recorded_at": now()},
        True,
    ),
    "void": ("post", "/records/stand-count/{count}/void", {"voided": True, "reason": "wrong", "version": 1}, True),
    "void_as_before": ("post", "/records/stand-count/{count}/strike", {"struck": True, "reason": "wrong", "version": 1}, True),
    "add_own_crop": ("post", "/workspaces/{workspace}/crops", {"name": "Faba bean", "relative": "field_pea"}, True),
    "bench": ("get", "/workspaces/{workspace}/bench", None, False),
    "reckon": (
        "post",
        "/workspaces/{workspace}/bench/row_length",
        {"crop": "maize", "values": {"row_spacing": typed("75", "cm"), "rows": typed("1", "")}},
        False,
    ),
    "seed_lots": ("get", "/workspaces/{workspace}/seed-lots", None, False),
    "add_seed_lot": ("post", "/workspaces/{workspace}/seed-lots", lot_body(name="Another"), True),
    "edit_seed_lot": ("patch", "/seed-lots/{lot}", {"version": 1, "germination": typed("90", "%")}, True),
    "seed": ("get", "/trials/{trial}/seed", None, False),
    "set_sowing": ("put", "/trials/{trial}/sowing", lambda it: {"version": it["version"], "parts": []}, True),
    "keep_inputs": (
        "put",
        "/trials/{trial}/kept-inputs",
        lambda it: {"version": it["version"], "calculator": "fertiliser", "values": {"rate": typed("80", "kg/ha")}},
        True,
    ),
    "put_wheel_costs": ("post", "/trials/{trial}/wheel-costs", lambda it: {"version": it["version"]}, True),
    "planting": ("get", "/trials/{trial}/planting", None, False),
    "put_planting_record": (
        "put",
        "/trials/{trial}/planting-records/{new}",
        lambda it: planting_body(it["strips"][0]),
        True,
    ),
    "put_planting_sheet": (
        "post",
        "/trials/{trial}/planting-sheet",
        lambda it: {"rows": [planting_body(it["strips"][0], id=str(uuid4()))]},
        True,
    ),
    "put_depth_check": ("put", "/trials/{trial}/depth-checks/{new}", lambda it: depth_body(it["strips"][0]), True),
    "put_deviation": (
        "put",
        "/trials/{trial}/deviations/{new}",
        lambda it: {"strip_id": it["strips"][0]["id"], "kind": "skip", "recorded_at": now()},
        True,
    ),
    "put_seedbed_check": (
        "put",
        "/trials/{trial}/seedbed-checks/{new}",
        {"checked_on": "2026-10-01", "boot_sink": typed("5", "mm"), "recorded_at": now()},
        True,
    ),
    "put_tillage_pass": (
        "put",
        "/trials/{trial}/tillage-passes/{new}",
        {"done_on": "2026-10-01", "kind": "harrow", "recorded_at": now()},
        True,
    ),
    "calibrations": ("get", "/trials/{trial}/calibrations", None, False),
    "all_calibrations": ("get", "/workspaces/{workspace}/calibrations", None, False),
    "put_calibration": (
        "put",
        "/workspaces/{workspace}/calibrations/{new}",
        lambda it: calibration_body(it["lot"], it["drill"]),
        True,
    ),
    "covariate": ("get", "/trials/{trial}/covariate", None, False),
    "set_covariate": (
        "put",
        "/trials/{trial}/covariate",
        lambda trial: {"version": trial["version"], "name": "Soil", "measured_on": "2025-09-01", "values": []},
        True,
    ),
    "add_next_year": ("post", "/trials/{trial}/next-year", None, True),
    "copy_trial": ("post", "/trials/{trial}/copy", {"title": "Once more", "season": 2027}, True),
    "archive_trial": ("post", "/trials/{trial}/archive", {"archived": True}, True),
    "bin_trial": ("post", "/trials/{trial}/bin", {"reason": "entered twice"}, True),
    "close_season": ("post", "/trials/{trial}/close-season", {"note": "looked through"}, True),
    "open_season": ("post", "/trials/{trial}/open-season", {"reason": "a load was mistyped"}, True),
    "bin": ("get", "/workspaces/{workspace}/bin", None, False),
    "restore_trial": ("post", "/workspaces/{workspace}/bin/{binned}/restore", None, True),
    "purge_trial": ("delete", "/workspaces/{workspace}/bin/{binned}", None, True),
    "workspace_history": ("get", "/workspaces/{workspace}/history", None, False),
    "trial_history": ("get", "/trials/{trial}/history", None, False),
    "record_history": ("get", "/records/stand-count/{count}/history", None, False),
    "verdict": ("get", "/trials/{trial}/verdict", None, False),
    "price_lists": ("get", "/workspaces/{workspace}/price-lists", None, False),
    "put_price_list": ("put", "/workspaces/{workspace}/price-lists/{new}", prices_body(), True),
    "take_price": (
        "post",
        "/trials/{trial}/price",
        lambda it: {"version": it["version"], "item_id": it["prices"]["items"][0]["id"]},
        True,
    ),
    "money": ("get", "/trials/{trial}/money", None, False),
    "put_money_plan": ("put", "/trials/{trial}/money", {"version": 0, "swing": typed("10", "%")}, True),
    "what_if": ("get", "/trials/{trial}/what-if?price=210&unit=money/t", None, False),
    "report": ("get", "/trials/{trial}/report?record=true", None, False),
    "shares": ("get", "/trials/{trial}/shares", None, False),
    "add_share": ("post", "/trials/{trial}/shares", {"days": 5}, True),
    "revoke_share": ("post", "/shares/{share}/revoke", None, True),
    "ledger": ("get", "/workspaces/{workspace}/ledger", None, False),
    "portfolio": ("get", "/workspaces/{workspace}/portfolio", None, False),
    "export_data": ("get", "/trials/{trial}/data-file?format=csv", None, False),
    "import_package": ("post", "/workspaces/{workspace}/packages", "package", True),
    "response_curves": ("get", "/trials/{trial}/response-curves", None, False),
    "explanation": ("get", "/trials/{trial}/explanation", None, False),
    "trial_series": ("get", "/trials/{trial}/series", None, False),
    "sampling_plans": ("get", "/trials/{trial}/sampling-plans", None, False),
    "openers": ("get", "/trials/{trial}/openers", None, False),
    "joined_visits": ("get", "/trials/{trial}/joined-visits", None, False),
    "put_joined_visit": (
        "put",
        "/trials/{trial}/joined-visits/{new}",
        {"task": "count", "first_on": "2026-05-02", "last_on": "2026-05-04", "recorded_at": now()},
        True,
    ),
    "put_sampling_plan": ("put", "/trials/{trial}/sampling-plans/{new}", plan_body(), True),
    "scouting": ("get", "/trials/{trial}/scouting", None, False),
    "stand_analysis": ("get", "/trials/{trial}/stand-analysis", None, False),
    "put_tape_run": ("put", "/trials/{trial}/tape-runs/{new}", lambda it: tape_body(it["strips"][0]), True),
    "put_dug_plant": ("put", "/trials/{trial}/dug-plants/{new}", lambda it: dug_body(it["strips"][0]), True),
    "put_plant_measure": ("put", "/trials/{trial}/plant-measures/{new}", lambda it: measure_body(it["strips"][0]), True),
    "put_rating": ("put", "/trials/{trial}/ratings/{new}", lambda it: rating_body(it["strips"][0]), True),
    "tasks": ("get", "/trials/{trial}/tasks", None, False),
    "put_task": ("put", "/trials/{trial}/tasks/{new}", {"ref": "full_count", "what": "Full count"}, True),
    "farm_archive": ("get", "/workspaces/{workspace}/farm-archive?farm={farm}", None, False),
    "look_at_erasing": ("get", "/workspaces/{workspace}/farm-erasing?farm={farm}", None, False),
    "erase_farm": (
        "post",
        "/workspaces/{workspace}/farm-erasing",
        lambda it: {"farm": farm_of(it), "typed": farm_of(it), "reason": "asked for in March"},
        True,
    ),
    "own_traits": ("get", "/workspaces/{workspace}/own-traits", None, False),
    "offer_own_trait": (
        "post",
        "/workspaces/{workspace}/own-traits",
        {"name": "Sugar", "way": "number", "unit": "°Bx", "low": "0", "high": "40"},
        True,
    ),
    "withdraw_own_trait": (
        "post",
        "/workspaces/{workspace}/own-traits/withdraw",
        lambda it: {"key": offered(it)},
        True,
    ),
    "attachments": ("get", "/trials/{trial}/attachments", None, False),
    "put_attachment": ("post", "/trials/{trial}/attachments/{new}", "attachment", True),
    "lot_attachments": ("get", "/seed-lots/{lot}/attachments", None, False),
    "put_lot_attachment": ("post", "/seed-lots/{lot}/attachments/{new}", "attachment", True),
    "attachment": ("get", "/attachments/{attachment}", None, False),
    "void_attachment": ("post", "/attachments/{attachment}/void", {"reason": "the wrong one"}, True),
    "look_at_merge": (
        "get",
        "/workspaces/{workspace}/merge?what=machine&gone={spare}&kept={bar}",
        None,
        False,
    ),
    "merge": (
        "post",
        "/workspaces/{workspace}/merge",
        lambda it: {"what": "machine", "gone": it["spare"], "kept": it["machines"][0], "accept": True},
        True,
    ),
    "put_photo": ("post", "/trials/{trial}/photos/{new}", "photo", True),
    "photo": ("get", "/photos/{photo}", None, False),
    "photo_cover": ("get", "/photos/{photo}/cover", None, False),
    "photo_mask": ("get", "/photos/{photo}/cover.png", None, False),
    "set_stand_line": (
        "put",
        "/workspaces/{workspace}/stand-lines/lucerne/old_thin",
        {"value": typed("30", "plants/m2"), "source": "our own fields"},
        True,
    ),
    "estimates": ("get", "/trials/{trial}/estimates", None, False),
    "estimate_learning": ("get", "/trials/{trial}/estimates/learning", None, False),
    "picking": ("get", "/trials/{trial}/estimates/picking", None, False),
    "put_yield_sample": ("put", "/trials/{trial}/yield-samples/{new}", lambda it: heads_body(it["strips"][0]), True),
    "put_grain_sample": ("put", "/trials/{trial}/grain-samples/{new}", grain_body(), True),
    "set_estimate_setting": ("put", "/trials/{trial}/estimate-setting", {"method": "heads", "places": 4}, True),
    "station": ("get", "/workspaces/{workspace}/station", None, False),
    "set_station": ("put", "/workspaces/{workspace}/station", {"kind": "simulated", "version": 0}, True),
    "put_weather_file": ("post", "/workspaces/{workspace}/weather-file", "weather", True),
    "weather_csv": ("get", "/workspaces/{workspace}/weather.csv", None, False),
    "visits_calendar": ("get", "/workspaces/{workspace}/visits.ics", None, False),
    "schedule": ("get", "/trials/{trial}/schedule", None, False),
    "preview_import": ("post", "/workspaces/{workspace}/import-preview", "file", False),
    "import_trial": ("post", "/workspaces/{workspace}/import", "file", True),
    "usage": ("get", "/workspaces/{workspace}/usage", None, False),
    "health": ("get", "/workspaces/{workspace}/health", None, False),
    "set_workspace": ("patch", "/workspaces/{workspace}", {"pack_days": 9}, True),
    "set_role": ("patch", "/workspaces/{workspace}/people/{other}", {"role": "reader"}, True),
    "remove_person": ("delete", "/workspaces/{workspace}/people/{other}", None, True),
    "deactivate": ("post", "/workspaces/{workspace}/people/{other}/deactivate", None, True),
    "reactivate": ("post", "/workspaces/{workspace}/people/{other}/reactivate", None, True),
    "remove_second_factor": ("post", "/workspaces/{workspace}/people/{other}/second-factor-off", None, True),
    "make_reset_link": ("post", "/workspaces/{workspace}/people/{other}/reset-link", None, True),
    "hand_over": ("post", "/workspaces/{workspace}/people/{other}/hand-over", {"to": "mirren"}, True),
    "account_links": ("get", "/workspaces/{workspace}/account-links", None, False),
    "invite": ("post", "/workspaces/{workspace}/account-links", {"name": "Jon", "role": "field_hand"}, True),
    "revoke_link": ("delete", "/workspaces/{workspace}/account-links/{link}", None, True),
    "backups": ("get", "/workspaces/{workspace}/backups", None, False),
    "back_up": ("post", "/workspaces/{workspace}/backups", None, True),
    "download_backup": ("get", "/workspaces/{workspace}/backups/{backup}", None, False),
    "practice": ("get", "/workspaces/{workspace}/practice", None, False),
    "begin_practice": ("post", "/workspaces/{workspace}/practice", None, True),
    "remove_practice": ("delete", "/workspaces/{practice}/practice", None, True),
}
