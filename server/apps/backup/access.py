"""Who may take a backup away: it holds every workspace of the installation, and the key."""

from __future__ import annotations

from uuid import UUID

from apps.accounts.models import Membership, User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.base.errors import Forbidden

WHOLE = (
    "A backup holds all workspaces of this installation, and you do not own all of them. Its owner can take it: "
    "manage.py backup FILE."
)


def require_keeper(user: User, workspace_id: UUID) -> Workspace:
    """Let pass who owns the installation, or is an owner of every workspace of it.

    Raises
    ------
    NotFound : not a member. Forbidden : not an owner, or not of all workspaces.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    led = Membership.objects.filter(user=user, role="owner").values("workspace")
    if not user.is_superuser and Workspace.objects.filter(practice=False).exclude(id__in=led).exists():
        raise Forbidden(WHOLE)
    return workspace
