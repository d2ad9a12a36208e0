"""Devices a person is signed in on: seen, ended one by one or all, and ended by themselves when they are left alone."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import suppress
from datetime import timedelta
from uuid import UUID

from django.conf import settings
from django.contrib.auth import logout
from django.contrib.sessions.models import Session
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from apps.accounts.models import Device, User
from apps.base.errors import NotFound

CONTACT_EVERY = timedelta(minutes=5)
BROWSERS = (
    ("Edg", "Edge"),
    ("OPR", "Opera"),
    ("Firefox", "Firefox"),
    ("FxiOS", "Firefox"),
    ("Chrome", "Chrome"),
    ("CriOS", "Chrome"),
    ("Safari", "Safari"),
)
SYSTEMS = (
    ("Android", "Android"),
    ("iPhone", "iPhone"),
    ("iPad", "iPad"),
    ("Windows", "Windows"),
    ("Mac OS", "Mac"),
    ("CrOS", "ChromeOS"),
    ("Linux", "Linux"),
)


def name_of(agent: str) -> str:
    """What a browser says of itself, in words somebody recognises."""
    browser = next((name for sign, name in BROWSERS if sign in agent), "")
    system = next((name for sign, name in SYSTEMS if sign in agent), "")
    plain = re.sub(r"[^\x20-\x7e]", "", agent).split("/")[0][:40]
    return f"{browser} on {system}" if browser and system else browser or system or plain or "Unknown device"


def register(request: HttpRequest, user: User, *, shared: bool) -> Device:
    """Note the device of a session that has just begun."""
    if not request.session.session_key:
        request.session.save()
    device, _ = Device.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={"user": user, "name": name_of(request.headers.get("User-Agent", "")), "shared": shared},
    )
    return device


def limits_of(device: Device) -> tuple[timedelta, timedelta]:
    """How long a device may be left alone, and how long it stays signed in at all."""
    if device.shared:
        return settings.SHARED_IDLE, settings.SHARED_LIFE
    return settings.DEVICE_IDLE, settings.DEVICE_LIFE


def devices_of(user: User) -> list[Device]:
    """Devices whose session stands, the latest contact first; what has no session any more is forgotten."""
    devices = Device.objects.filter(user=user).order_by("-last_contact")
    standing = set(
        Session.objects.filter(
            session_key__in=[device.session_key for device in devices], expire_date__gt=timezone.now()
        ).values_list("session_key", flat=True)
    )
    return [device for device in devices if device.session_key in standing and not _is_over(device)]


def end(user: User, device_id: UUID) -> None:
    """Sign one device out."""
    device = Device.objects.filter(user=user, id=device_id).first()
    if device is None:
        raise NotFound
    _end(device)


def end_others(user: User, *, but: str | None) -> int:
    """Sign every device of a person out, but the one with this session."""
    devices = list(Device.objects.filter(user=user).exclude(session_key=but or ""))
    for device in devices:
        _end(device)
    return len(devices)


def _end(device: Device) -> None:
    Session.objects.filter(session_key=device.session_key).delete()
    device.delete()


def _is_over(device: Device) -> bool:
    idle, life = limits_of(device)
    now = timezone.now()
    return now - device.last_contact > idle or now - device.signed_in_at > life


class DeviceMiddleware:
    """Notes the contact of a device, and ends the session of one that was left alone for too long or was deactivated."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if request.path.startswith("/api/") and settings.SESSION_COOKIE_NAME in request.COOKIES:
            user = request.user
            if isinstance(user, User):
                self._contact(request, user)
        return self.get_response(request)

    def _contact(self, request: HttpRequest, user: User) -> None:
        device = Device.objects.filter(session_key=request.session.session_key).first()
        if device is None:  # a session of a version before there were devices
            device = register(request, user, shared=False)
        if _is_over(device):
            device.delete()
            logout(request)
        elif timezone.now() - device.last_contact > CONTACT_EVERY:
            # reading goes on where nothing can be written any more
            with suppress(DatabaseError):
                Device.objects.filter(pk=device.pk).update(last_contact=timezone.now())
