"""Handing trials over: who answers for them changes, who recorded what does not."""

from __future__ import annotations

from uuid import UUID

from django.db import transaction

from apps.accounts.models import User
from apps.accounts.people import was_member, writer_of
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as


def hand_over(user: User, workspace_id: UUID, username: str, to: str) -> int:
    """Give all of a person's trials in a workspace to somebody else; returns how many there were.

    Raises
    ------
    Forbidden : not one who lets people in, nor whose trials they are. NotFound : a person who was never in the workspace.
    AccountRefusal : the successor may not write there.
    """
    workspace = workspace_for(user, workspace_id)
    if user.username == username:
        require(user, workspace, "design")
    else:
        require(user, workspace, "people")
    with transaction.atomic():
        person, successor = was_member(workspace, username), writer_of(workspace, to)
        trials = list(workspace.trials.filter(responsible=person).order_by("created_at"))
        for trial in trials:
            trial.responsible = successor
            save_as(trial, user, f"handed over by {person.username} to {successor.username}")
    return len(trials)
