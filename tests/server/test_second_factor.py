"""The second factor: codes by RFC 6238, recovery codes, and leads who must have one."""

from __future__ import annotations

import base64
import hashlib
import hmac
import struct
import time
from typing import Any

import pytest
from apps.accounts.models import Membership, User, Workspace
from django_otp.plugins.otp_totp.models import TOTPDevice

from tests.server.conftest import PASSWORD, Api


def totp(key: bytes, at: float, digits: int = 6) -> str:
    """RFC 6238 over RFC 4226, written out here so that it is not the package's own word that is believed."""
    code = hmac.new(key, struct.pack(">Q", int(at) // 30), hashlib.sha1).digest()
    offset = code[-1] & 15
    number = struct.unpack(">I", code[offset : offset + 4])[0] & 0x7FFFFFFF
    return f"{number % 10**digits:0{digits}d}"


@pytest.mark.parametrize(("at", "wanted"), [(59, "94287082"), (1111111109, "07081804"), (20000000000, "65353130")])
def test_the_oracle_gives_the_values_of_the_standard(at: int, wanted: str) -> None:
    """RFC 6238, appendix B, SHA-1, eight digits."""
    assert totp(b"12345678901234567890", at, 8) == wanted


def key_of(secret: str) -> bytes:
    return base64.b32decode(secret + "=" * (-len(secret) % 8))


def turned_on(who: Api) -> tuple[bytes, list[str]]:
    setup = who.ok("post", "/second-factor")
    assert setup["svg"].startswith("<svg")
    assert setup["secret"] in setup["uri"]
    key = key_of(setup["secret"])
    assert who.refused("post", "/second-factor/confirm", {"code": "000000"})["code"] == "wrong_code"
    TOTPDevice.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None)  # a wrong code makes one wait
    codes = who.ok("post", "/second-factor/confirm", {"code": totp(key, time.time())})["codes"]
    TOTPDevice.objects.update(last_t=-1)  # as if the next code had come
    return key, codes


def sign_in(code: str = "") -> Any:
    return Api().call("post", "/session", {"username": "mirren", "password": PASSWORD, "code": code})


def test_signing_in_asks_for_the_code(lead: Api) -> None:
    key, _ = turned_on(lead)
    assert (sign_in().status_code, sign_in().json()["code"]) == (401, "code_needed")
    assert sign_in("123456").json()["code"] == "wrong_code"
    TOTPDevice.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None)
    good = totp(key, time.time())
    assert sign_in(f"{good[:3]} {good[3:]}").status_code == 200
    assert sign_in(good).json()["code"] == "wrong_code", "a code that was used is not taken again"


def test_a_recovery_code_lets_in_once(lead: Api) -> None:
    _, codes = turned_on(lead)
    assert len(set(codes)) == 8
    assert sign_in(codes[0].upper()).status_code == 200
    assert sign_in(codes[0]).status_code == 422
    assert lead.ok("get", "/second-factor") == {"on": True, "recovery_codes_left": 7}
    again = lead.ok("post", "/second-factor/recovery-codes", {"password": PASSWORD})["codes"]
    assert not set(again) & set(codes)


def test_it_is_turned_off_with_the_password_only(lead: Api) -> None:
    turned_on(lead)
    assert lead.refused("post", "/second-factor/off", {"password": "wrong"})["field"] == "password"
    assert lead.refused("post", "/second-factor")["code"] == "second_factor_on"
    assert not lead.ok("post", "/second-factor/off", {"password": PASSWORD})["on"]
    assert sign_in().status_code == 200


def test_leads_must_have_one_where_the_workspace_says_so(lead: Api, scout: Api, workspace: Workspace) -> None:
    path = f"/workspaces/{workspace.id}"
    assert lead.refused("patch", path, {"leads_need_second_factor": True})["code"] == "second_factor_first"
    turned_on(lead)
    lead.ok("patch", path, {"leads_need_second_factor": True})
    assert scout.call("get", f"{path}/today").status_code == 200, "a scout needs none"
    Membership.objects.filter(user__username="corin").update(role="owner")
    for method, where, body in (("get", f"{path}/today", None), ("patch", path, {"pack_days": 3})):
        answer = scout.refused(method, where, body, status=403)
        assert answer["code"] == "second_factor"
    assert scout.ok("get", "/session")["person"]["workspaces"][0]["shut"]
    turned_on(scout)
    assert scout.call("get", f"{path}/today").status_code == 200


def test_a_lead_takes_it_away_for_who_has_lost_the_phone(lead: Api, scout: Api, workspace: Workspace) -> None:
    turned_on(scout)
    lead.ok("post", f"/workspaces/{workspace.id}/people/corin/second-factor-off")
    assert not TOTPDevice.objects.filter(user=User.objects.get(username="corin")).exists()


def test_wrong_codes_are_slowed_down(lead: Api) -> None:
    turned_on(lead)
    answers = [sign_in(f"{n:06d}").status_code for n in range(9)]
    assert answers[-1] == 429
