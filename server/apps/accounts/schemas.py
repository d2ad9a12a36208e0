from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Schema


class SignInIn(Schema):
    username: str
    password: str
    shared: bool = False


class PreferencesIn(Schema):
    unit_system: Literal["metric", "us"] | None = None
    theme: Literal["day", "night", "sun"] | None = None
    single_keys: bool | None = None


class WorkspaceOut(Schema):
    id: UUID
    name: str
    currency: str
    role: Literal["lead", "scout", "viewer"]
    pack_days: int


class WorkspaceIn(Schema):
    pack_days: int


class DeviceOut(Schema):
    id: UUID
    name: str
    shared: bool
    signed_in_at: datetime
    last_contact: datetime
    here: bool


class PersonOut(Schema):
    username: str
    name: str
    unit_system: Literal["metric", "us"]
    theme: Literal["day", "night", "sun"]
    single_keys: bool
    workspaces: list[WorkspaceOut]


class SessionOut(Schema):
    person: PersonOut | None


class MemberOut(Schema):
    username: str
    name: str
    role: Literal["lead", "scout", "viewer"]


class FaultOut(Schema):
    code: str
    message: str
    field: str | None
