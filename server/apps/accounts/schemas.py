from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.accounts.rights import Deed, Role

UnitSystem = Literal["home", "metric", "us"]
Writing = Literal["day_first", "month_first", "comma_day_first"]
Paper = Literal["A4", "Letter"]


class SignInIn(Schema):
    username: str
    password: str
    code: str = ""
    shared: bool = False


class PreferencesIn(Schema):
    unit_system: UnitSystem | None = None
    theme: Literal["day", "night", "sun"] | None = None
    single_keys: bool | None = None


class CropChoiceOut(Schema):
    key: str
    name: str
    relative: str
    """What lends its values to a crop of one's own; empty for one of the catalogue."""


class OwnCropIn(Schema):
    name: str
    relative: str


class WorkspaceOut(Schema):
    id: UUID
    name: str
    currency: str
    time_zone: str
    region: str
    changed_units: dict[str, str]
    """Units that its people chose themselves, by kind of quantity."""
    alpha: float
    paper: Paper
    writing: Writing
    crops: list[CropChoiceOut]
    """All crops to choose from: the workspace's own, those of the region, the rest."""
    units: dict[str, str]
    """Code of the unit of every kind of quantity as this person reads it, apart from any crop."""
    own_units: list[str]
    role: Role
    deeds: list[Deed]
    """What the person may do here."""
    farms: list[str] | None
    """The farms that the person's part reaches; nothing for all of them."""
    pack_days: int
    bin_days: int
    keep_years: int
    """Years after which a trial goes into the bin by itself; 0: never."""
    practice: bool
    leads_need_second_factor: bool
    shut: bool
    """The person must set up a second factor before anything of this workspace is shown."""


class WorkspaceIn(Schema):
    name: str
    currency: str
    time_zone: str
    region: str


class RegionChangesIn(Schema):
    """Only what is sent is changed; an empty text gives a part back to the region."""

    units: dict[str, str] | None = None
    alpha: float | None = None
    paper: Paper | Literal[""] | None = None
    writing: Writing | Literal[""] | None = None
    crops_first: list[str] | None = None


class QuantityKindOut(Schema):
    kind: str
    name: str
    units: list[list[str]]
    """Codes and labels that it may be shown in."""


class RegionOut(Schema):
    key: str
    name: str
    currency: str
    alpha: float
    paper: Paper
    writing: Writing
    units: dict[str, str]


class RegionsOut(Schema):
    regions: list[RegionOut]
    quantities: list[QuantityKindOut]
    writings: list[list[str]]


class WorkspacePatchIn(Schema):
    name: str | None = None
    currency: str | None = None
    time_zone: str | None = None
    region: str | None = None
    region_changes: RegionChangesIn | None = None
    pack_days: int | None = None
    bin_days: int | None = None
    keep_years: int | None = None
    leads_need_second_factor: bool | None = None


class FirstStartIn(Schema):
    code: str
    username: str
    name: str
    password: str
    workspace: str
    currency: str
    time_zone: str
    region: str


class PasswordIn(Schema):
    current: str
    new: str


class SecondFactorOut(Schema):
    on: bool
    recovery_codes_left: int


class SecondFactorSetupOut(Schema):
    svg: str
    uri: str
    secret: str


class CodeIn(Schema):
    code: str


class OwnPasswordIn(Schema):
    password: str


class RecoveryCodesOut(Schema):
    codes: list[str]


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
    unit_system: UnitSystem
    theme: Literal["day", "night", "sun"]
    single_keys: bool
    workspaces: list[WorkspaceOut]


class SessionOut(Schema):
    person: PersonOut | None
    demo: bool
    first_start: bool
    version: str


class MemberOut(Schema):
    username: str
    name: str
    role: Role
    farms: list[str]
    """The farms that the part reaches; empty for all of them."""
    active: bool
    second_factor: bool
    trials_in_hand: int
    last_contact: datetime | None


class RoleIn(Schema):
    role: Role
    farms: list[str] | None = None
    """The farms that the part reaches, none named for all of them; left as they are when not sent."""


class AccountLinkIn(Schema):
    name: str
    role: Role
    farms: list[str] = []
    email: str = ""


class AccountLinkOut(Schema):
    id: UUID
    kind: Literal["invite", "reset"]
    name: str
    role: str
    farms: list[str]
    email: str
    made_by: str
    expires_at: datetime


class NewAccountLinkOut(Schema):
    link: AccountLinkOut
    path: str
    mailed: bool
    trouble: str


class TokenIn(Schema):
    token: str


class WelcomeOut(Schema):
    kind: Literal["invite", "reset"]
    name: str
    username: str
    workspace: str
    role: str
    farms: list[str]
    invited_by: str


class AcceptIn(Schema):
    token: str
    username: str = ""
    name: str = ""
    password: str = ""


class FaultOut(Schema):
    code: str
    message: str
    field: str | None


class DeedOut(Schema):
    deed: Deed
    name: str


class RoleRightsOut(Schema):
    role: Role
    name: str
    what: str
    deeds: list[Deed]


class RightsOut(Schema):
    """Who may do what: every role with its deeds, and the farms that a part may be limited to."""

    roles: list[RoleRightsOut]
    deeds: list[DeedOut]
    farms: list[str]
