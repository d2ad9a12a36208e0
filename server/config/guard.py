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

from apps.accounts.models import Membership, User, Workspace
from apps.accounts.rights import RIGHTS, as_role, reaches_farm_of, refused
from apps.accounts.second_factor import is_on
from apps.accounts.workspaces import be_at_home
from apps.audit.services import note
from apps.base import typed_values
from apps.base.disk_space import require_space
from apps.base.errors import Conflict, NotFound, OutOfDate, SecondFactorNeeded, TooLarge
from apps.base.untrusted_text import first_bad_sign
from apps.farms.models import Field, SeedLot
from apps.field.attachments.models import Attachment
from apps.field.logs.models import YieldLog
from apps.field.season.models import Photo
from apps.intake.quota import begin_request
from apps.jobs.models import Job
from apps.records.kinds import KINDS
from apps.report.models import ReportShare
from apps.trials.models import Strip, Trial
from cultrix_core.regions import region_profile
from django.conf import settings
from django.db.models import Model, QuerySet
from django.http import HttpRequest
from ninja.security import SessionAuth
from ninja.utils import check_csrf

from config.deeds import DEEDS

PERSON, WORKSPACE = "HTTP_X_PERSON", "HTTP_X_WORKSPACE"
SAFE = ("GET", "HEAD", "OPTIONS")
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
    "put_attachment": "ATTACHMENT_LIMIT_BYTES",
    "put_lot_attachment": "ATTACHMENT_LIMIT_BYTES",
}
TAKEN_OUT = ("download_backup",)  # leaves as a file under another deed than export
FORM_BYTES = 200_000  # what a form takes beside its file


Home = UUID | QuerySet[Any, UUID]
Found = QuerySet[Any, Any]


def _of(model: type[Model], path: str, farm: str = "") -> Callable[[UUID], tuple[Home, Found | None]]:
    """How the workspace of an id is found, and its farm where it has one."""

    def of(key: UUID) -> tuple[Home, Found | None]:
        rows = model._default_manager.filter(pk=key).order_by()
        return rows.values_list(path, flat=True), rows.values_list(farm, flat=True) if farm else None

    return of


def _of_attachment(key: UUID) -> tuple[Home, Found | None]:
    """A file of a trial is on the trial's farm; one of a lot is on none, like the lot."""
    found = _of(Attachment, "workspace_id", "trial__field__farm")(key)
    return found if Attachment.objects.filter(pk=key, lot=None).exists() else (found[0], None)


# What an address may name, outermost first, and how its workspace is found. Ids that clients make come after their trial.
HOMES: dict[str, Callable[[UUID], tuple[Home, Found | None]]] = {
    "workspace_id": lambda key: (key, None),
    "trial_id": _of(Trial, "workspace_id", "field__farm"),
    "strip_id": _of(Strip, "trial__workspace_id", "trial__field__farm"),
    "field_id": _of(Field, "workspace_id", "farm"),
    "lot_id": _of(SeedLot, "workspace_id"),
    "attachment_id": _of_attachment,
    "share_id": _of(ReportShare, "trial__workspace_id", "trial__field__farm"),
    "job_id": _of(Job, "workspace_id", "trial__field__farm"),
    "log_id": _of(YieldLog, "trial__workspace_id", "trial__field__farm"),
    "photo_id": _of(Photo, "strip__trial__workspace_id", "strip__trial__field__farm"),
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
        home, farm = home_named(request)
        workspace_id = None
        if home is not None:
            workspace_id = _require_deed(user, home, farm, operation)
            if DEEDS[operation] == "export" or operation in TAKEN_OUT or _is_file_of_report(request, operation):
                _note_export(request, user, workspace_id, operation)
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
    home, _ = home_named(request)
    return _found(home.first()) if isinstance(home, QuerySet) else home


def home_named(request: HttpRequest) -> tuple[Home | None, Found | None]:
    """The workspace that an address belongs to and the farm, or the queries that find them; None for addresses of none.

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
            return home(key) if key is not None else (None, None)  # no id at all is refused as malformed
    if "kind" in names and "record_id" in names and names["kind"] in KINDS:
        key, kind = _uuid(names["record_id"]), KINDS[names["kind"]]
        if key is None:
            raise NotFound
        if kind.home == "workspace":
            return _of(kind.model, "workspace_id")(key)
        return _of(kind.model, f"{kind.to_trial}__workspace_id", f"{kind.to_trial}__field__farm")(key)
    return None, None


def _uuid(text: Any) -> UUID | None:
    try:
        return UUID(str(text))
    except ValueError:
        return None


def _found(key: UUID | None) -> UUID:
    if key is None:
        raise NotFound
    return key


def _require_deed(user: User, home: Home, farm: Found | None, operation: str) -> UUID:
    """Let pass who may do this in the workspace and on the farm that the address belongs to; returns the workspace.

    What is out of reach is not there for this person; what is within reach and not theirs to do is refused.
    """
    memberships = Membership.objects.filter(user=user)
    memberships = memberships.filter(workspace_id=home) if isinstance(home, UUID) else memberships.filter(workspace_id__in=home)
    if farm is not None:
        memberships = memberships.filter(reaches_farm_of(farm)).distinct()
    found = memberships.values_list(
        "workspace_id",
        "role",
        "workspace__leads_need_second_factor",
        "workspace__time_zone",
        "workspace__region",
        "workspace__region_changes",
    )
    if not found:
        raise NotFound
    workspace_id, part, needs_second_factor, time_zone, region, changes = found[0]
    role = as_role(part)
    if needs_second_factor and "people" in RIGHTS[role] and not is_on(user):
        raise SecondFactorNeeded
    be_at_home(time_zone, region_profile(region, changes))
    deed = DEEDS.get(operation)
    if deed is None or deed not in RIGHTS[role]:
        raise refused(role, deed or "settings")
    return workspace_id


def _is_file_of_report(request: HttpRequest, operation: str) -> bool:
    """A report as a page is looked at; as a PDF it leaves."""
    return operation == "report" and request.GET.get("format") == "pdf"


def _note_export(request: HttpRequest, user: User, workspace_id: UUID, operation: str) -> None:
    """Who takes data out leaves a line in the history, whether the file then arrives or not."""
    names = request.resolver_match.kwargs if request.resolver_match else {}
    trial = Trial.objects.filter(id=names["trial_id"]).select_related("workspace").first() if "trial_id" in names else None
    form = request.GET.get("format", "")
    what = f"exported {operation.replace('_', ' ').removeprefix('export ')}{f' as {form[:12]}' if form else ''}"
    note(user, "export", what, workspace=Workspace(id=workspace_id), trial=trial)


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
