"""Links that let somebody in once: an invitation into a workspace, a new password. They expire, and can be called back."""

from __future__ import annotations

import hashlib
import logging
import re
import secrets
from collections.abc import Sequence
from datetime import timedelta
from uuid import UUID

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.core.validators import validate_email
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from apps.accounts.models import AccountLink, Membership, User, Workspace
from apps.accounts.passwords import require_strong, set_password
from apps.accounts.people import checked_role, farms_for, reach_farms, require_no_stronger, require_reach
from apps.accounts.queries import workspace_for
from apps.accounts.refusals import AccountRefusal
from apps.accounts.rights import require
from apps.audit.services import note
from apps.base.errors import NotFound

INVITATION_LASTS, RESET_LASTS = timedelta(days=7), timedelta(days=2)
USERNAME = re.compile(r"^[\w.\-]{3,40}$")
NAME_LIMIT = 120
PATH = "/welcome#"
log = logging.getLogger("cultrix.accounts")


def hash_of(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def invite(
    user: User, workspace_id: UUID, *, name: str, role: str, email: str, farms: Sequence[str] = ()
) -> tuple[AccountLink, str]:
    """An invitation and its token, which is told this once.

    Raises
    ------
    Forbidden : not one's to give. Refusal : a role, farm, name or address that is none, a grower without a farm.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "people")
    require_no_stronger(user, workspace, checked_role(role))
    link = AccountLink(
        kind="invite",
        workspace=workspace,
        role=role,
        farms=farms_for(workspace, role, farms),
        name=checked_name(name),
        email=_checked_email(email),
    )
    return _made(link, user, INVITATION_LASTS)


def reset_link(user: User, workspace_id: UUID, username: str) -> tuple[AccountLink, str]:
    """A link with which somebody of the workspace sets a new password; for those only whose every workspace the maker owns."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "people")
    person = member_of(workspace, username)
    require_reach(user, person, "reset")
    return _made(AccountLink(kind="reset", workspace=workspace, name=person.get_full_name(), user=person), user, RESET_LASTS)


def owner_link(person: User, workspace: Workspace | None = None) -> str:
    """A link for a new password, made by the owner of the machine at its command line."""
    return _made(AccountLink(kind="reset", workspace=workspace, name=person.get_full_name(), user=person), None, RESET_LASTS)[1]


def _made(link: AccountLink, user: User | None, lasts: timedelta) -> tuple[AccountLink, str]:
    token = secrets.token_urlsafe(32)
    link.token_hash, link.made_by, link.expires_at = hash_of(token), user, timezone.now() + lasts
    with transaction.atomic():
        if link.user is not None:  # one open link a person: an older one in a mailbox must not work beside it
            AccountLink.objects.filter(kind="reset", user=link.user, used_at=None, revoked_at=None).update(
                revoked_at=timezone.now()
            )
        link.save()
        if user is not None:
            done = f"invited {link.name}" if link.kind == "invite" else f"made a link for a new password of {link.name}"
            after = {"part": link.role, "farms": ", ".join(link.farms) or "all"} if link.kind == "invite" else None
            note(user, "people", done, workspace=link.workspace, after=after)
    return link, token


def open_links(user: User, workspace_id: UUID) -> list[AccountLink]:
    """Links of a workspace that still work."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "people")
    return list(_open(AccountLink.objects.filter(workspace=workspace)).select_related("made_by", "user"))


def revoke(user: User, workspace_id: UUID, link_id: UUID) -> None:
    """Call a link back."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "people")
    link = AccountLink.objects.filter(workspace=workspace, id=link_id).first()
    if link is None:
        raise NotFound
    link.revoked_at = timezone.now()
    link.save(update_fields=["revoked_at"])
    note(user, "people", f"called back the link for {link.name}", workspace=workspace)


def look(token: str) -> AccountLink:
    """What a link is for; refuses one that does not work any more."""
    link = _open(AccountLink.objects.filter(token_hash=hash_of(token))).select_related("workspace", "user", "made_by").first()
    if link is None or (link.made_by is not None and not link.made_by.is_active):
        raise AccountRefusal("dead_link", field="token")
    return link


def accept_as_new(token: str, *, username: str, name: str, password: str) -> User:
    """Make the account that a link invites to; the link is used up by it."""
    with transaction.atomic():
        link = look(token)
        if link.kind != "invite" or link.workspace is None:
            raise AccountRefusal("dead_link", field="token")
        person = new_person(username=username, name=name, password=password)
        _join(link, person)
    return person


def accept_as(token: str, person: User) -> Workspace:
    """Join the workspace that a link invites to with the account one has."""
    with transaction.atomic():
        link = look(token)
        if link.kind != "invite" or link.workspace is None:
            raise AccountRefusal("dead_link", field="token")
        _join(link, person)
    return link.workspace


def accept_reset(token: str, *, password: str) -> User:
    """Set the password that a link is for; every session of the person ends."""
    with transaction.atomic():
        link = look(token)
        if link.kind != "reset" or link.user is None or not link.user.is_active:
            raise AccountRefusal("dead_link", field="token")
        person = set_password(link.user, password)
        _use(link, person)
        note(person, "sign_in", "set a new password by a link")
    return person


def new_person(*, username: str, name: str, password: str) -> User:
    """An account with a checked name and a strong password."""
    chosen = username.strip()
    if not USERNAME.fullmatch(chosen):
        raise AccountRefusal("bad_username", field="username", example="m.arden")
    if User.objects.filter(username__iexact=chosen).exists():
        raise AccountRefusal("name_taken", field="username", value=chosen)
    person = User(username=chosen, first_name=checked_name(name))
    require_strong(person, password)
    person.set_password(password)
    person.save()
    return person


def checked_name(name: str) -> str:
    """The name of a person or workspace as it is shown; refuses an empty one."""
    plain = " ".join(name.split())
    if not 1 <= len(plain) <= NAME_LIMIT:
        raise AccountRefusal("bad_name", field="name", limit=NAME_LIMIT)
    return plain


def member_of(workspace: Workspace, username: str) -> User:
    """A person of a workspace by the name they sign in with, else ``NotFound``."""
    membership = Membership.objects.filter(workspace=workspace, user__username=username).select_related("user").first()
    if membership is None:
        raise NotFound
    return membership.user


def can_mail() -> bool:
    """Whether this installation sends mail."""
    return bool(settings.EMAIL_HOST)


def mail(link: AccountLink, address: str) -> bool:
    """Send a link by mail where the installation can; whether it went."""
    if not can_mail() or not link.email:
        return False
    what = f"You are invited to {link.workspace.name}" if link.workspace else "You are invited"
    lines = (f"{what}.", "", address, "", f"The link works once, until {link.expires_at:%d %b %Y}.")
    try:
        return bool(send_mail(what, "\n".join(lines), None, [link.email]))
    except OSError:  # smtplib's errors are OSErrors
        log.exception("mail of an invitation could not be sent")
        return False


def _open(links: QuerySet[AccountLink]) -> QuerySet[AccountLink]:
    return links.filter(used_at=None, revoked_at=None, expires_at__gt=timezone.now())


def _join(link: AccountLink, person: User) -> None:
    assert link.workspace is not None
    membership, new = Membership.objects.get_or_create(user=person, workspace=link.workspace, defaults={"role": link.role})
    if new:
        reach_farms(membership, link.farms)
        note(person, "people", "joined by an invitation", workspace=link.workspace, after={"part": link.role})
    _use(link, person)


def _use(link: AccountLink, person: User) -> None:
    link.user, link.used_at = person, timezone.now()
    link.save(update_fields=["user", "used_at"])


def _checked_email(email: str) -> str:
    plain = email.strip()
    if plain:
        try:
            validate_email(plain)
        except ValidationError as error:
            raise AccountRefusal("bad_email", field="email", value=plain) from error
    return plain
