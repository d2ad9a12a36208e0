"""Numbers that pools keep of farms that were erased."""

from __future__ import annotations

from typing import Any

from apps.accounts.models import Workspace
from apps.base.read_once import read_once
from apps.farms.models import PooledRemainder


@read_once
def remainders(workspace: Workspace, pool: str, crop: str = "") -> list[tuple[str, dict[str, Any]]]:
    """Crop and numbers of every erased trial in a pool, of one crop where it is named."""
    rows = PooledRemainder.objects.filter(workspace=workspace, pool=pool)
    return list((rows.filter(crop=crop) if crop else rows).order_by("pk").values_list("crop", "numbers"))
