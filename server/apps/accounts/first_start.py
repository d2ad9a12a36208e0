"""The first start of an installation: its first person, workspace, currency, time zone and units."""

from __future__ import annotations

import hmac
import secrets

from django.db import transaction

from apps.accounts.links import new_person
from apps.accounts.models import Installation, Membership, User, Workspace
from apps.accounts.refusals import AccountRefusal
from apps.accounts.workspaces import new_workspace

LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"  # none that is read for another
_code = ""


def is_new() -> bool:
    """Whether nobody has an account yet."""
    return not User.objects.exists()


def is_demo() -> bool:
    """Whether this database holds the demo, with accounts that everybody knows."""
    return Installation.objects.filter(demo=True).exists()


def new_code() -> str:
    """A code for this run of the server, to be printed where only its owner looks."""
    global _code  # noqa: PLW0603 - it lives as long as the process and is written nowhere
    _code = "-".join("".join(secrets.choice(LETTERS) for _ in range(4)) for _ in range(2))
    return _code


def require_code(code: str) -> None:
    """Refuse whoever does not know the code that this run of the server printed."""
    if not _code or not hmac.compare_digest(_letters(code).encode(), _letters(_code).encode()):
        raise AccountRefusal("wrong_first_code", field="code")


def begin(
    *, code: str, username: str, name: str, password: str, workspace: str, currency: str, time_zone: str, region: str
) -> tuple[User, Workspace]:
    """The first person and workspace, for whoever knows the code; once, and never again.

    Raises
    ------
    AccountRefusal : a wrong code, people are there already, or an entry that cannot be.
    """
    require_code(code)
    with transaction.atomic():
        if not is_new():
            raise AccountRefusal("already_started", field="code")
        person = new_person(username=username, name=name, password=password)
        person.is_superuser = True  # the owner of the installation
        person.save(update_fields=["is_superuser"])
        result = new_workspace(name=workspace, currency=currency, time_zone=time_zone, region=region)
        Membership.objects.create(user=person, workspace=result, role="owner")
        Installation.objects.get_or_create(pk=1)
    return person, result


def _letters(code: str) -> str:
    return "".join(sign for sign in code.upper() if sign.isalnum())
