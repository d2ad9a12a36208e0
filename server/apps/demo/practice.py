"""A practice workspace: the demo's trials beside one's own, to try things on, removed as a whole.

Its made-up people have accounts nobody can sign in with. The worker fills it; whoever asked becomes its lead once it is whole.
"""

from __future__ import annotations

from uuid import UUID

from django.db import transaction

from apps.accounts.models import Membership, User, Workspace
from apps.accounts.people import reach_farms
from apps.accounts.queries import workspace_for
from apps.accounts.refusals import AccountRefusal
from apps.accounts.rights import require
from apps.backup.removing import remove_whole
from apps.demo.scenario import PEOPLE, fill
from apps.jobs.models import Job
from apps.jobs.queries import latest, state_of
from apps.jobs.services import ReportProgress, ask_for, at_once, does

KIND = "practice"
NAME = "Practice: Tamsin Vale"
PREFIX = "practice-"


def ask_for_practice(user: User, workspace_id: UUID) -> Job:
    """Let the worker fill a practice workspace for somebody who writes in a workspace of their own."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    if practice_of(user) is not None:
        raise AccountRefusal("practice_there", field="practice")
    return ask_for(user, KIND, workspace=workspace, subject=workspace.id, inputs_hash="")


def practice_of(user: User) -> Workspace | None:
    """The person's practice workspace."""
    return Workspace.objects.filter(practice=True, memberships__user=user).first()


def under_way(workspace: Workspace) -> Job | None:
    """The filling of a practice workspace that was asked for from this one and has not ended well."""
    job = latest(workspace.id, KIND)
    return job if job is not None and state_of(job) in ("waiting", "running", "failed") else None


def remove_practice(user: User, workspace_id: UUID) -> None:
    """Remove a practice workspace and everything in it.

    Raises
    ------
    AccountRefusal : the workspace is none for practice; it stays.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    if not workspace.practice:
        raise AccountRefusal("not_practice", field="practice", value=workspace.name)
    _remove(workspace)


def _remove(workspace: Workspace) -> None:
    made_up = list(User.objects.filter(memberships__workspace=workspace, username__startswith=PREFIX))
    remove_whole(workspace)
    for person in made_up:
        person.delete()


@does(KIND)
def fill_practice(job: Job, report_progress: ReportProgress) -> None:
    """Write the demo into a workspace of its own; what an earlier try left half done goes first."""
    report_progress(0.02, "Making room.")
    mark = f"{PREFIX}{job.id.hex[:8]}"
    for left in Workspace.objects.filter(practice=True, memberships__user__username__startswith=f"{mark}-"):
        _remove(left)
    with transaction.atomic():
        home = job.workspace
        workspace = Workspace.objects.create(
            name=NAME,
            currency=home.currency,
            time_zone=home.time_zone,
            region=home.region,
            region_changes=home.region_changes,
            practice=True,
        )
        people = {}
        for username, first, last, role, farm in PEOPLE:
            person = User(username=f"{mark}-{username}", first_name=first, last_name=last, is_active=False)
            person.set_unusable_password()
            person.save()
            reach_farms(Membership.objects.create(user=person, workspace=workspace, role=role), [farm] if farm else [])
            people[username] = person
    with at_once():
        fill(workspace, people, report_progress)
    Membership.objects.create(user=job.asked_by, workspace=workspace, role="owner")
