"""Noting an event."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from apps.audit.models import AuditEvent


def note(
    user: Any,
    kind: str,
    what: str,
    *,
    workspace: Any = None,
    trial: Any = None,
    before: Mapping[str, str] | None = None,
    after: Mapping[str, str] | None = None,
    reason: str = "",
) -> None:
    """Note what a person did.

    Parameters
    ----------
    user : who did it; None for the application itself.
    kind : one of the kinds of events; ``what``: what was done, as a sentence goes on after the person's name.
    workspace, trial : what it was done to; a trial brings its workspace.
    before, after : names and texts; what is the same in both is left out, and where both are given and nothing differs, nothing
        was done and nothing is noted.
    """
    changes = [
        [name, (before or {}).get(name, ""), (after or {}).get(name, "")]
        for name in dict.fromkeys([*(before or {}), *(after or {})])
        if (before or {}).get(name, "") != (after or {}).get(name, "")
    ]
    if (before is not None or after is not None) and not changes:
        return
    AuditEvent.objects.create(
        history_user=user,
        kind=kind,
        what=what[:200],
        workspace=workspace if trial is None else trial.workspace,
        trial=trial,
        changes=changes,
        history_change_reason=reason[:300],
    )
