"""``manage.py person add|reset|deactivate``: people, for the owner of the machine."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from apps.accounts import second_factor
from apps.accounts.links import PATH, USERNAME, checked_name, owner_link
from apps.accounts.models import Membership, User, Workspace
from apps.accounts.people import ROLES, shut
from apps.accounts.refusals import AccountRefusal
from apps.base.errors import NotFound

ONCE = "It works once, within two days. Nobody else should see it."


class Command(BaseCommand):
    help = "Add a person, give one a link for a new password, or shut an account."

    def add_arguments(self, parser: CommandParser) -> None:
        deeds = parser.add_subparsers(dest="deed", required=True)
        add = deeds.add_parser("add", help="an account with a part in a workspace, and a link to set its password")
        add.add_argument("username")
        add.add_argument("--name", required=True, help="as it is shown, such as “Mira Arden”")
        add.add_argument("--workspace", required=True, help="name or id of a workspace that is there")
        add.add_argument("--role", choices=ROLES, default="field_hand")
        reset = deeds.add_parser("reset", help="a link for a new password, and an account that was shut open again")
        reset.add_argument("username")
        reset.add_argument("--second-factor", action="store_true", help="take the second factor away too")
        deeds.add_parser("deactivate", help="no sign-in, no session, no link").add_argument("username")

    def handle(self, *_: Any, deed: str, username: str, **options: Any) -> None:
        try:
            getattr(self, f"_{deed}")(username, options)
        except AccountRefusal as refusal:
            raise CommandError(refusal.message) from refusal
        except NotFound as error:
            raise CommandError(f"Nobody signs in as “{username}”.") from error

    def _add(self, username: str, options: dict[str, Any]) -> None:
        workspace = _workspace(options["workspace"])
        if not USERNAME.fullmatch(username):
            raise AccountRefusal("bad_username", field="username", example="m.arden")
        if User.objects.filter(username__iexact=username).exists():
            raise AccountRefusal("name_taken", field="username", value=username)
        with transaction.atomic():
            person = User(username=username, first_name=checked_name(options["name"]))
            person.set_unusable_password()
            person.save()
            Membership.objects.create(user=person, workspace=workspace, role=options["role"])
        self._tell(person, workspace)

    def _reset(self, username: str, options: dict[str, Any]) -> None:
        person = _person(username)
        if not person.is_active:
            person.is_active = True
            person.save(update_fields=["is_active"])
        if options["second_factor"]:
            second_factor.remove(person)
        self._tell(person, None)

    def _deactivate(self, username: str, _options: dict[str, Any]) -> None:
        shut(_person(username))
        self.stdout.write(f"{username} cannot sign in any more; sessions and links have ended. What was recorded stays.")

    def _tell(self, person: User, workspace: Workspace | None) -> None:
        host = next(
            (allowed_host for allowed_host in settings.ALLOWED_HOSTS if allowed_host not in ("localhost", "127.0.0.1")),
            "localhost:8470",
        )
        scheme = "https" if settings.HTTPS else "http"
        self.stdout.write(f"{person.get_full_name()} sets a password with this link:")
        self.stdout.write(f"{scheme}://{host}{PATH}{owner_link(person, workspace)}")
        self.stdout.write(ONCE)


def _person(username: str) -> User:
    person = User.objects.filter(username=username).first()
    if person is None:
        raise NotFound
    return person


def _workspace(named: str) -> Workspace:
    workspaces = [workspace for workspace in Workspace.objects.all() if named in (str(workspace.id), workspace.name)]
    if len(workspaces) != 1:
        names = ", ".join(f"{workspace.name} ({workspace.id})" for workspace in Workspace.objects.all()) or "none"
        raise CommandError(f"“{named}” names no one workspace. There are: {names}.")
    return workspaces[0]
