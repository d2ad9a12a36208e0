"""Who may see what."""

from __future__ import annotations

from typing import cast
from uuid import UUID

from cultrix_core.crops import CropProfile
from cultrix_core.regions import SYSTEM_REGION, RegionProfile, region_profile
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import System
from django.db.models import QuerySet
from django.http import HttpRequest

from apps.accounts.models import Membership, User, Workspace
from apps.base.errors import NotFound


def actor(request: HttpRequest) -> User:
    """The signed-in person of a request."""
    return cast(User, request.user)


def memberships_of(user: User) -> QuerySet[Membership]:
    """The person's workspaces with their part in each."""
    return (
        Membership.objects.filter(user=user).select_related("workspace").prefetch_related("farms").order_by("workspace__name")
    )


def workspace_for(user: User, workspace_id: UUID) -> Workspace:
    """A workspace the person belongs to, else ``NotFound``."""
    workspace = Workspace.objects.filter(id=workspace_id, memberships__user=user).first()
    if workspace is None:
        raise NotFound
    return workspace


def formatter_for(user: User, workspace: Workspace, profile: CropProfile | None = None) -> UnitFormatter:
    """How this person reads numbers of this workspace and crop."""
    return reader_region(user, workspace).formatter(profile, currency=workspace.currency)


def region_of(workspace: Workspace) -> RegionProfile:
    """The region of a workspace, with what its people changed."""
    return region_profile(workspace.region, workspace.region_changes)


def reader_region(user: User, workspace: Workspace) -> RegionProfile:
    """The region whose units this person reads: the workspace's, or that of a system of units they chose for themselves."""
    return region_read_by(user.unit_system, workspace)


def region_read_by(unit_system: str, workspace: Workspace) -> RegionProfile:
    """The region of those who have chosen a system of units, ``home`` for the workspace's own."""
    return region_of(workspace) if unit_system == "home" else SYSTEM_REGION[cast(System, unit_system)]
