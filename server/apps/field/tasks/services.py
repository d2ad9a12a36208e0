"""Giving tasks, taking them, noting them as done with the hours they took."""

from __future__ import annotations

from datetime import date
from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from cultrix_core.units import parse_number
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import Membership, User, Workspace
from apps.accounts.rights import RIGHTS, as_role, reach_of, require
from apps.accounts.services import save_as
from apps.base.errors import Conflict, Forbidden, NotFound
from apps.field.tasks.models import VisitTask
from apps.trials.models import Trial
from apps.trials.queries import readable, trial_for

MOST_OPEN = 80
MOST_HOURS = 1_000


def put_task(
    user: User,
    trial_id: UUID,
    task_id: UUID,
    *,
    ref: str,
    what: str,
    due_on: date | None,
    given_to: str,
    note: str,
    hours: str,
    done: bool,
    version: int | None,
) -> VisitTask:
    """Store a task under the client's id.

    Whoever records takes tasks, notes hours and says that they are done; giving one to somebody else, or taking it away,
    asks for the right to plan.

    Raises
    ------
    Forbidden : somebody else's task. Conflict : changed meanwhile, or the visit is given already.
    Refusal : nothing named, a person who does not record there, hours that cannot be.
    """
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        reach = require(user, trial.workspace, "record")
        task = VisitTask.objects.filter(id=task_id).select_related("given_to").first()
        if task is not None and task.trial_id != trial.pk:
            raise NotFound
        if task is not None and version != task.version:
            raise Conflict("stale", "This task was changed elsewhere meanwhile. Look at it again.", {"version": task.version})
        person = _person(trial, given_to)
        held = task.given_to if task else None
        if not reach.may("design") and any(other not in (None, user) for other in (person, held)):
            raise Forbidden("An owner or adviser gives tasks to others; your own you take, give back and finish yourself.")
        if task is None:
            _require_room(trial, ref)
            task = VisitTask(id=task_id, trial=trial, ref=ref.strip()[:60], made_by=user)
        else:
            task.version += 1
        task.what = " ".join(what.split())[:160]
        if not task.what:
            raise Refusal("missing", field="what", label="What is to be done", remedy="Say it in a few words.")
        task.given_to, task.note, task.due_on = person, note.strip()[:300], due_on
        task.hours_typed, task.hours = _hours(hours)
        task.done_at = (task.done_at or timezone.now()) if done else None
        save_as(task, user, "done" if done else f"given to {_named(person)}" if person else "open to all")
    return task


def _named(person: User) -> str:
    return person.get_full_name() or person.username


def _require_room(trial: Trial, ref: str) -> None:
    open_tasks = trial.tasks.filter(done_at=None)
    given = open_tasks.filter(ref=ref).select_related("given_to").first() if ref else None
    if given is not None:
        to = f" to {_named(given.given_to)}" if given.given_to else ""
        raise Conflict("given", f"This visit is given{to} already. Look at it again.", {"id": str(given.id)})
    if open_tasks.count() >= MOST_OPEN:
        raise Refusal("too_large", field="what", label="Open tasks", value=MOST_OPEN + 1, limit=MOST_OPEN)


def _hours(text: str) -> tuple[str, float | None]:
    plain = text.strip()
    if not plain:
        return "", None
    hours = parse_number(plain, field="hours", label="Hours")
    return plain[:12], require_between(hours, 0, MOST_HOURS, "hours", label="Hours", unit=" h")


def _person(trial: Trial, username: str) -> User | None:
    if not username:
        return None
    people = people_for(trial)
    person = next((person for person in people if person.username == username), None)
    if person is None:
        known = ", ".join(_named(one) for one in people)
        raise Refusal("unknown_choice", field="given_to", label="The person", value=username, limit=known)
    return person


def people_for(trial: Trial) -> list[User]:
    """Those who may record on a trial, and so may be given work on it."""
    memberships = (
        Membership.objects.filter(workspace=trial.workspace, user__is_active=True)
        .filter(role__in=[role for role, deeds in RIGHTS.items() if "record" in deeds])
        .select_related("user")
        .prefetch_related("farms")
        .order_by("user__first_name", "user__username")
    )
    farm = trial.field.farm if trial.field else None
    return [
        membership.user
        for membership in memberships
        if "record" in RIGHTS[as_role(membership.role)] and reach_of(membership).on(farm)
    ]


def open_tasks(user: User, workspace: Workspace) -> list[VisitTask]:
    """Open tasks of the trials within reach that are at work."""
    trials = readable(user).filter(workspace=workspace, life__archived_at=None)
    return list(VisitTask.objects.filter(trial__in=trials, done_at=None).select_related("given_to", "trial"))


def tasks_of(trial: Trial) -> list[VisitTask]:
    """Tasks of a trial, open ones first."""
    tasks = list(trial.tasks.select_related("given_to", "made_by"))
    return sorted(tasks, key=lambda task: (task.done_at is not None, task.due_on or date.max))
