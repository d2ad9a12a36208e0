"""The second factor: an authenticator app's codes (RFC 6238, by django-otp), and recovery codes for a lost phone."""

from __future__ import annotations

import io
from base64 import b32encode
from dataclasses import dataclass

import segno
from django.db import transaction
from django.http import HttpRequest
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from apps.accounts.credentials import password_is_right
from apps.accounts.devices import end_others
from apps.accounts.models import User
from apps.accounts.refusals import AccountRefusal

RECOVERY_CODES = 8
NAME = "authenticator"


@dataclass(frozen=True, slots=True, kw_only=True)
class Setup:
    """What an authenticator app is given: as a picture, as an address, and as text to type."""

    svg: str
    uri: str
    secret: str


def is_on(user: User) -> bool:
    """Whether signing in asks this person for a code."""
    return TOTPDevice.objects.filter(user=user, confirmed=True).exists()


def recovery_codes_left(user: User) -> int:
    return StaticToken.objects.filter(device__user=user).count()


def begin(user: User) -> Setup:
    """A new secret, in force once a code made from it has been typed."""
    if is_on(user):
        raise AccountRefusal("second_factor_on", field="code")
    with transaction.atomic():
        TOTPDevice.objects.filter(user=user, confirmed=False).delete()
        device = TOTPDevice.objects.create(user=user, name=NAME, confirmed=False)
    drawn = io.BytesIO()
    segno.make(device.config_url, micro=False).save(drawn, kind="svg", scale=5, border=2, xmldecl=False)
    return Setup(svg=drawn.getvalue().decode(), uri=device.config_url, secret=_secret(device))


def _secret(device: TOTPDevice) -> str:
    return b32encode(device.bin_key).decode().rstrip("=")


def confirm(request: HttpRequest, user: User, code: str) -> list[str]:
    """Turn it on with the first code; returns the recovery codes, which are shown this once."""
    with transaction.atomic():
        device = TOTPDevice.objects.filter(user=user, confirmed=False).first()
        if device is None or not device.verify_token(_plain(code)):
            raise AccountRefusal("wrong_code", field="code")
        device.confirmed = True
        device.save()
        codes = _new_recovery_codes(user)
    end_others(user, but=request.session.session_key)
    return codes


def renew_recovery_codes(request: HttpRequest, user: User, password: str) -> list[str]:
    """New recovery codes in the place of the old ones."""
    _require_password(request, user, password)
    with transaction.atomic():
        return _new_recovery_codes(user)


def turn_off(request: HttpRequest, user: User, password: str) -> None:
    """Sign in by password alone from now on."""
    _require_password(request, user, password)
    remove(user)


def remove(user: User) -> None:
    """Take somebody's second factor away, who has lost the phone and the recovery codes."""
    TOTPDevice.objects.filter(user=user).delete()
    StaticDevice.objects.filter(user=user).delete()


def code_is_right(user: User, code: str) -> bool:
    """Whether a code of the app, or an unused recovery code, was typed; a recovery code is used up by it."""
    typed = _plain(code)
    with transaction.atomic():
        for device in TOTPDevice.objects.select_for_update().filter(user=user, confirmed=True):
            if typed.isdigit() and device.verify_token(typed):
                return True
        return any(bool(device.verify_token(typed)) for device in StaticDevice.objects.filter(user=user) if not typed.isdigit())


def _plain(code: str) -> str:
    return "".join(code.split()).replace("-", "").lower()


def _new_recovery_codes(user: User) -> list[str]:
    StaticDevice.objects.filter(user=user).delete()
    device = StaticDevice.objects.create(user=user, name="recovery", confirmed=True)
    codes = [StaticToken.random_token() for _ in range(RECOVERY_CODES)]
    for code in codes:
        device.token_set.create(token=code)
    return codes


def _require_password(request: HttpRequest, user: User, password: str) -> None:
    if not password_is_right(request, user, password):
        raise AccountRefusal("wrong_password", field="password")
