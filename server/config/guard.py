"""The door of the API: who may pass, decided before a byte of what was sent is read.

In this order: is somebody signed in; may that person see the workspace that the address belongs to, and write in it; is what
comes small enough; is there room on the disk; does the page that sends it belong to this site; and is the writer the person
the sending device believes to be signed in. Services check membership and role again, inside their transactions.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any
from urllib.parse import unquote
from uuid import UUID

from apps.accounts.models import Membership, User
from apps.accounts.second_factor import is_on
from apps.accounts.services import READ_ONLY
from apps.accounts.workspaces import be_at_home
from apps.base import typed_values
from apps.base.disk_space import require_space
from apps.base.errors import Conflict, Forbidden, NotFound, OutOfDate, SecondFactorNeeded, TooLarge
from apps.base.untrusted_text import first_bad_sign
from apps.farms.models import Field, SeedLot
from apps.field.logs.models import YieldLog
from apps.field.season.models import Photo
from apps.intake.quota import begin_request
from apps.jobs.models import Job
from apps.records.kinds import KINDS, workspace_of
from apps.report.models import ReportShare
from apps.trials.models import Strip, Trial
from cultrix_core.regions import region_profile
from django.conf import settings
from django.db.models import Model, QuerySet
from django.http import HttpRequest
from ninja.security import SessionAuth
from ninja.utils import check_csrf

PERSON, WORKSPACE = "HTTP_X_PERSON", "HTTP_X_WORKSPACE"
SAFE = ("GET", "HEAD", "OPTIONS")
# Operations that send something and change nothing, so that whoever may read may use them.
READS = {"preview_import", "reckon", "honest_margin", "amount_plan", "rehearse", "strip_widths", "read_instrument"}
# Operations of a person and no workspace.
PERSONAL = {"sign_out", "set_preferences", "end_session", "end_other_sessions", "change_password"}
UPLOADS = {
    "put_boundary": "UPLOAD_LIMIT_BYTES",
    "import_layout": "UPLOAD_LIMIT_BYTES",
    "preview_import": "UPLOAD_LIMIT_BYTES",
    "import_trial": "UPLOAD_LIMIT_BYTES",
    "put_weather_file": "UPLOAD_LIMIT_BYTES",
    "put_photo": "PHOTO_LIMIT_BYTES",
    "import_package": "PACKAGE_LIMIT_BYTES",
    "put_yield_log": "LOG_LIMIT_BYTES",
}
FORM_BYTES = 200_000  # what a form takes beside its file


Home = UUID | QuerySet[Any, UUID]


def _of(model: type[Model], path: str) -> Callable[[UUID], Home]:
    return lambda key: model._default_manager.filter(pk=key).order_by().values_list(path, flat=True)


# What an address may name, outermost first, and how its workspace is found. Ids that clients make come after their trial.
HOMES: dict[str, Callable[[UUID], Home]] = {
    "workspace_id": lambda key: key,
    "trial_id": _of(Trial, "workspace_id"),
    "strip_id": _of(Strip, "trial__workspace_id"),
    "field_id": _of(Field, "workspace_id"),
    "lot_id": _of(SeedLot, "workspace_id"),
    "share_id": _of(ReportShare, "trial__workspace_id"),
    "job_id": _of(Job, "workspace_id"),
    "log_id": _of(YieldLog, "trial__workspace_id"),
    "photo_id": _of(Photo, "strip__trial__workspace_id"),
}


class Guard(SessionAuth):
    """Authentication of every operation that is not open to all."""

    def __call__(self, request: HttpRequest) -> User | None:
        begin_request()
        typed_values.begin_request()
        user = request.user
        if not isinstance(user, User) or not user.is_active:
            return None
        operation = operation_of(request)
        writes = request.method not in SAFE
        home = home_named(request)
        workspace_id = None
        if home is not None:
            workspace_id = _require_member(user, home, writes=writes and operation not in READS)
        if writes:
            _require_small(request, operation)
            if operation not in PERSONAL:
                require_space()
            if check_csrf(request) is not None:
                raise OutOfDate
            _require_expected(request, user, workspace_id)
        return user


@cache
def _operations() -> dict[tuple[str, str], str]:
    from config.api import api  # noqa: PLC0415 - the API names this guard

    return {
        ("api" + path.replace("{", "<").replace("}", ">"), method): operation.operation_id or ""
        for _, router in api._routers
        for path, view in router.path_operations.items()
        for operation in view.operations
        for method in operation.methods
    }


def operation_of(request: HttpRequest) -> str:
    """The operation that a request asks for, by its address and method."""
    route = request.resolver_match.route if request.resolver_match else ""
    return _operations()[route, request.method or ""]


def workspace_named(request: HttpRequest) -> UUID | None:
    """The workspace that an address belongs to; None for addresses of none, ``NotFound`` as :func:`home_named`."""
    home = home_named(request)
    return _found(home.first()) if isinstance(home, QuerySet) else home


def home_named(request: HttpRequest) -> Home | None:
    """The workspace that an address belongs to, or the query that finds it; None for addresses of no workspace.

    Raises
    ------
    NotFound : the address names something that does not exist.
    """
    names = request.resolver_match.kwargs if request.resolver_match else {}
    if any(isinstance(item, str) and first_bad_sign(item) for item in names.values()):
        raise NotFound
    for name, home in HOMES.items():
        if name in names:
            key = _uuid(names[name])
            return home(key) if key is not None else None  # no id at all is refused as malformed
    if "kind" in names and "record_id" in names and names["kind"] in KINDS:
        key = _uuid(names["record_id"])
        record = KINDS[names["kind"]].model._default_manager.filter(pk=key).first() if key else None
        if record is None:
            raise NotFound
        return workspace_of(record).pk
    return None


def _uuid(text: Any) -> UUID | None:
    try:
        return UUID(str(text))
    except ValueError:
        return None


def _found(key: UUID | None) -> UUID:
    if key is None:
        raise NotFound
    return key


def _require_member(user: User, home: Home, *, writes: bool) -> UUID:
    here = {"workspace_id": home} if isinstance(home, UUID) else {"workspace_id__in": home}
    memberships = Membership.objects.filter(user=user, **here).values_list(
        "workspace_id",
        "role",
        "workspace__leads_need_second_factor",
        "workspace__time_zone",
        "workspace__region",
        "workspace__region_changes",
    )
    if not memberships:
        raise NotFound
    workspace_id, role, needs_second_factor, time_zone, region, changes = memberships[0]
    if needs_second_factor and role == "lead" and not is_on(user):
        raise SecondFactorNeeded
    be_at_home(time_zone, region_profile(region, changes))
    if writes and role == "viewer":
        raise Forbidden(READ_ONLY)
    return workspace_id


def _require_small(request: HttpRequest, operation: str) -> None:
    limit = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
    if operation in UPLOADS:
        limit = getattr(settings, UPLOADS[operation]) + FORM_BYTES
    try:
        length = int(request.META.get("CONTENT_LENGTH") or 0)
    except ValueError:
        length = 0
    if length > limit:
        raise TooLarge(length, limit)


def _require_expected(request: HttpRequest, user: User, workspace_id: UUID | None) -> None:
    """A write is taken as the person's who made it, in the workspace it was made for, or not at all."""
    person = request.META.get(PERSON)
    if person is None:
        raise OutOfDate  # a page of an older version: it keeps what it has and loads itself anew
    if unquote(person) != user.username:
        raise Conflict(
            "other_person",
            f"This was made by {unquote(person)[:40]}, and {user.username} is signed in. It was not taken; it waits on its "
            "device until its maker signs in.",
        )
    workspace = request.META.get(WORKSPACE)
    if workspace_id is not None and workspace is not None and _uuid(workspace) != workspace_id:
        raise Conflict("other_workspace", "This was made for another workspace than the one it was sent to. It was not taken.")
    if workspace_id is not None and workspace is None:
        raise OutOfDate
