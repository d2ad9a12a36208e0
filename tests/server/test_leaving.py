"""A farm that leaves: taken out whole, erased at its request; the chain verifies, pools keep their numbers and no name."""

from __future__ import annotations

import io
import json
import re
import zipfile
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Membership, MembershipFarm, User, Workspace
from apps.audit.models import AuditEvent
from apps.backup.chain import chain, verify
from apps.farms.models import Field, PooledRemainder
from apps.field.stand.models import StandCount
from apps.field.stand.sampling import farm_variation
from apps.trials.life import bin_old, purge_overdue
from apps.trials.models import Trial, TrialLife
from cultrix_core.estimate.learning import Pair, PastPairs, learned_from, sums_of
from cultrix_core.stand.places import past_variation, variation_sums
from django.utils import timezone

from tests.server.conftest import Api, add_attachment, add_photo, count_body, harvest_all, member, package_bytes
from tests.server.test_history_chain import put_back

Place = dict[str, Any]
FARM = "Quillbrook"


@pytest.fixture
def home(workspace: Workspace) -> str:
    return f"/workspaces/{workspace.id}"


@pytest.fixture
def grower(lead: Api, workspace: Workspace, trial: Place) -> Api:
    """The trial's farm has a grower, who counted and harvested there; another farm has a field."""
    Field.objects.filter(pk=trial["field"]["id"]).update(farm=FARM)
    lead.ok(
        "post",
        f"/workspaces/{workspace.id}/fields",
        {"name": "Far", "farm": "Sallow", "width": {"text": "90", "unit": "m"}, "length": {"text": "300", "unit": "m"}},
    )
    api = member("pell", workspace, "grower")
    part = Membership.objects.get(user__username="pell")
    part.all_farms = False
    part.save()
    MembershipFarm.objects.create(membership=part, farm=FARM)
    for strip in trial["strips"][:3]:
        for plants in ("40", "44", "47"):
            api.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(strip, plants))
    harvest_all(api, trial, {"A": 1260, "B": 1140, "C": 1130})
    add_photo(api, trial)
    add_attachment(lead, f"/trials/{trial['id']}", kind="invoice", name="bill.pdf")
    return api


def archive(api: Api, home: str, farm: str = FARM) -> zipfile.ZipFile:
    answer = api.call("get", f"{home}/farm-archive?farm={farm}")
    assert answer.status_code == 200, answer.content
    return zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))


def erase(api: Api, home: str, **more: Any) -> Any:
    return api.call("post", f"{home}/farm-erasing", {"farm": FARM, "typed": FARM, "reason": "asked for in March", **more})


def test_a_grower_takes_the_farm_out_whole(lead: Api, grower: Api, home: str, trial: Place) -> None:
    took = archive(grower, home)
    names = took.namelist()
    (folder,) = {name.rsplit("/package.zip", 1)[0] for name in names if name.endswith("package.zip")}
    assert took.read(f"{folder}/package.zip") == package_bytes(lead, trial), "the same as the trial's own package"
    assert len([name for name in names if name.startswith(f"{folder}/photos/")]) == 1
    assert [name for name in names if name.endswith("bill.pdf")], "the grower sees money"
    history = took.read(f"{folder}/history.csv").decode()
    assert history.count("Stand count") >= 9
    assert "Pell" in history
    fields = json.loads(took.read("fields.geojson"))
    assert [item["properties"]["name"] for item in fields["features"]] == [trial["field"]["name"]]
    assert grower.call("get", f"{home}/farm-archive?farm=Sallow").status_code == 403
    assert lead.call("get", f"{home}/farm-archive?farm=Nowhere").status_code == 422


def test_only_an_owner_erases_and_types_the_name(lead: Api, adviser: Api, grower: Api, home: str) -> None:
    for api in (adviser, grower):
        assert erase(api, home).status_code == 403
    assert erase(lead, home, typed="quillbrook").json()["field"] == "typed"
    assert erase(lead, home, reason=" ").json()["field"] == "reason"
    told = lead.ok("get", f"{home}/farm-erasing?farm={FARM}")
    assert (told["trials"], told["fields"], told["people"]) == (1, 1, ["Pell"])
    assert Trial.objects.count() == 1


def test_nothing_of_it_is_left_and_the_chain_verifies(lead: Api, grower: Api, workspace: Workspace, home: str) -> None:
    lead.ok("patch", f"{home}/people/pell", {"role": "grower", "farms": [FARM]})
    put_back(1)
    assert chain() == 1
    lead.ok("patch", home, {"name": "Vale of Pellitory"})
    assert erase(lead, home).status_code == 200
    assert (Trial.objects.count(), StandCount.objects.count()) == (0, 0)
    assert not StandCount.history.exists()  # type: ignore[attr-defined]
    assert [field.farm for field in Field.objects.all()] == ["Sallow"]
    assert not Field.history.filter(farm=FARM).exists()
    assert verify() == []
    assert grower.call("get", "/session").json()["person"] is None
    person = User.objects.exclude(memberships__workspace=workspace).get(username__startswith="left-")
    assert (person.get_full_name(), person.email, person.is_active) == ("Somebody who left", "", False)
    told = json.dumps(lead.ok("get", f"{home}/history?limit=200"))
    assert not re.search(rf"\b({FARM}|pell)\b", told, re.IGNORECASE)
    assert "Vale of Pellitory" in told, "what only begins like a name stays"
    assert "erased a farm at its request" in told
    assert AuditEvent.objects.filter(kind="leaving").count() == 1


def test_pools_say_the_same_as_before(lead: Api, grower: Api, workspace: Workspace, home: str, trial: Place) -> None:
    """Variation between counts, and between strips, of the erased farm goes on counting, without its name."""
    del grower
    before = farm_variation(workspace, trial["crop"])
    assert before.df > 0
    assert erase(lead, home).status_code == 200
    after = farm_variation(workspace, trial["crop"])
    assert (after.df, after.own) == (before.df, before.own)
    assert after.cv == pytest.approx(before.cv, rel=1e-12)
    kept = {row.pool: row.numbers for row in PooledRemainder.objects.all()}
    assert set(kept) >= {"count", "yield"}
    assert {"cv", "df", "mean", "lengths"} == set(kept["yield"])
    text = json.dumps(kept)
    assert not any(name in text for name in (FARM, "pell", trial["title"], trial["id"]))


def test_who_belongs_elsewhere_too_keeps_the_account(lead: Api, outsider: Api, grower: Api, home: str) -> None:
    del outsider, grower
    Membership.objects.create(
        user=User.objects.get(username="pell"), workspace=Workspace.objects.get(name="Elsewhere"), role="reader"
    )
    assert erase(lead, home).status_code == 200
    person = User.objects.get(username="pell")
    assert person.is_active
    assert [part.workspace.name for part in person.memberships.all()] == ["Elsewhere"]


def test_sums_say_what_the_pairs_said() -> None:
    """Bland and Altman's limits by sums of each trial are those of all pairs together."""
    pairs = [
        Pair(trial=trial, strip=str(number), estimate=estimate, harvest=harvest)
        for number, (trial, estimate, harvest) in enumerate(
            [("a", 6.1, 5.8), ("a", 5.5, 5.9), ("a", 6.4, 6.0), ("b", 7.2, 6.5), ("b", 7.0, 6.9), ("c", 4.8, 5.1)]
        )
    ]
    whole = learned_from(pairs)
    left = [pair for pair in pairs if pair.trial == "a"]
    gone = [sums_of([pair for pair in pairs if pair.trial == name]) for name in ("b", "c")]
    again = learned_from(left, past=gone)
    assert whole is not None
    assert again is not None
    for name in ("pairs", "trials", "bias", "lower", "upper", "limit_low", "limit_high", "correction"):
        assert getattr(again, name) == pytest.approx(getattr(whole, name), rel=1e-12), name
    assert learned_from([], past=[PastPairs(number=5, mean=0.1, squares=0.2)]) is None


def test_sums_of_counts_say_what_the_counts_said() -> None:
    strips = [[40.0, 44.0, 47.0], [30.0, 33.0, 29.0, 36.0], [50.0, 41.0], [52.0, 55.0, 49.0, 47.0, 51.0]]
    whole = past_variation(strips)
    again = past_variation(strips[:1], also=[variation_sums(strips[1:3]), variation_sums(strips[3:])])
    assert (again.df, again.own) == (whole.df, whole.own)
    assert again.cv == pytest.approx(whole.cv, rel=1e-12)


def test_a_workspace_says_how_long_it_keeps(lead: Api, home: str, trial: Place) -> None:
    season = timezone.now().year - 5
    Trial.objects.filter(pk=trial["id"]).update(season=season)
    assert bin_old() == 0, "kept for good where nothing is said"
    assert lead.refused("patch", home, {"bin_days": 3})["field"] == "bin_days"
    lead.ok("patch", home, {"keep_years": 4, "bin_days": 40})
    assert bin_old() == 1
    binned = lead.ok("get", f"{home}/bin")
    assert (binned["days"], binned["trials"][0]["reason"]) == (40, "older than the 4 years that trials are kept")
    lead.ok("post", f"{home}/bin/{trial['id']}/restore")
    assert bin_old() == 0, "somebody wanted it back"
    lead.call("post", f"/trials/{trial['id']}/bin", {"reason": "after all"})
    TrialLife.objects.update(binned_at=timezone.now() - timedelta(days=39))
    assert purge_overdue() == 0
    TrialLife.objects.update(binned_at=timezone.now() - timedelta(days=41))
    assert purge_overdue() == 1
    assert lead.ok("patch", home, {"keep_years": 0})["keep_years"] == 0
