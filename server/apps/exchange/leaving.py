"""A farm that leaves: everything of it is removed for good, and the chain of history goes on verifying.

What pools had learned of it stays as sums that name nothing (``farms.remainders``). People who reached this farm and no other
lose their part; who then belongs nowhere becomes a nameless account, for what that person recorded elsewhere stays.
"""

from __future__ import annotations

import logging
import re
import secrets
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction
from django.db.models import Q

from apps.accounts import second_factor
from apps.accounts.models import AccountLink, Membership, MembershipFarm, PastMembership, User, Workspace
from apps.accounts.people import shut
from apps.accounts.queries import workspace_for
from apps.accounts.rights import OF_NAMED_FARMS, require
from apps.analysis.portfolio.learning import estimate_sums
from apps.analysis.power.queries import yield_sums
from apps.audit.models import AuditEvent
from apps.audit.services import note
from apps.backup.chain import lay_stones
from apps.backup.removing import remove_whole
from apps.exchange.farm_archive import fields_of_farm
from apps.farms.models import Field, PooledRemainder
from apps.field.samples.queries import weight_sums
from apps.field.stand.sampling import count_sums
from apps.trial_state.view import view
from apps.trials.models import Trial
from apps.trials.queries import in_bin

log = logging.getLogger("cultrix.exchange")
NAMELESS = "Somebody who left"


@dataclass(frozen=True, slots=True, kw_only=True)
class Erasing:
    """What is erased with a farm: trials (those in the bin too), fields, and people who reach nothing else."""

    farm: str
    trials: int
    fields: int
    people: tuple[str, ...]


def look(user: User, workspace_id: UUID, farm: str) -> Erasing:
    """What would be erased; nothing is changed."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    fields = fields_of_farm(user, workspace, farm)
    people = tuple(person.user.get_full_name() or person.user.username for person in _only_here(workspace, farm))
    return Erasing(farm=farm, trials=Trial.objects.filter(field__in=fields).count(), fields=len(fields), people=people)


def erase(user: User, workspace_id: UUID, farm: str, *, typed: str, reason: str) -> Erasing:
    """Erase a farm at its request; an owner's to do, who types its name again.

    Trial by trial, each whole or not at all: where something stops it, what is left can be erased again.

    Raises
    ------
    Refusal : another name typed, no reason, no such farm. Forbidden : not an owner.
    """
    told = look(user, workspace_id, farm)
    if typed.strip() != farm:
        raise Refusal("unknown_choice", field="typed", label="The name typed", value=typed.strip(), limit=farm)
    if not reason.strip():
        raise Refusal("missing", field="reason", label="The reason", remedy="Such as who asked for it and when. Without names.")
    workspace = workspace_for(user, workspace_id)
    for trial in Trial.objects.filter(field__workspace=workspace, field__farm=farm).select_related(
        "workspace", "field", "life"
    ):
        with transaction.atomic():
            if not in_bin(trial):
                _keep_sums(user, trial)
            remove_whole(trial)
    with transaction.atomic():
        names = {farm}
        for membership in _only_here(workspace, farm):
            names.add(membership.user.get_full_name() or membership.user.username)  # as events call a person
            _let_go(membership)
        MembershipFarm.objects.filter(membership__workspace=workspace, farm=farm).delete()
        for link in AccountLink.objects.filter(workspace=workspace):
            if farm in link.farms:
                link.delete()
        for field in Field.objects.filter(workspace=workspace, farm=farm):
            remove_whole(field)
        _forget(workspace, names)
        note(
            user,
            "leaving",
            "erased a farm at its request",
            workspace=workspace,
            after={"trials": str(told.trials), "fields": str(told.fields), "people": str(len(told.people))},
            reason=reason.strip(),
        )
    log.info("a farm of workspace %s was erased with %d trials", workspace.id, told.trials)
    return told


def _keep_sums(user: User, trial: Trial) -> None:
    """What pools go on knowing of a trial: sums, for each pool that it adds to."""
    sums = {
        "estimate": estimate_sums(trial),
        "yield": yield_sums(view(user, trial)),
        "count": count_sums(trial),
        "weight": weight_sums(trial),
    }
    PooledRemainder.objects.bulk_create(
        PooledRemainder(workspace=trial.workspace, pool=pool, crop=trial.crop, numbers=numbers)
        for pool, numbers in sums.items()
        if numbers
    )


def _only_here(workspace: Workspace, farm: str) -> list[Membership]:
    """Parts that reach this farm and no other."""
    named = Membership.objects.filter(workspace=workspace, farms__farm=farm).select_related("user").prefetch_related("farms")
    return [
        membership
        for membership in named
        if (not membership.all_farms or membership.role in OF_NAMED_FARMS)
        and {row.farm for row in membership.farms.all()} == {farm}
    ]


def _let_go(membership: Membership) -> None:
    """End a part; an account that then belongs to no workspace loses name, address and password."""
    person = membership.user
    membership.delete()
    if Membership.objects.filter(user=person).exists() or person.is_superuser:
        return
    shut(person)
    second_factor.remove(person)
    AccountLink.objects.filter(Q(user=person) | Q(made_by=person)).delete()
    PastMembership.objects.filter(user=person).delete()
    events = AuditEvent.objects.filter(history_user=person, workspace=None)
    lay_stones(AuditEvent, list(events.values_list("pk", flat=True)))
    events.delete()
    person.username = f"left-{secrets.token_hex(6)}"
    person.first_name, person.last_name, person.email = NAMELESS, "", ""
    person.set_unusable_password()
    person.save()


def _forget(workspace: Workspace, names: set[str]) -> None:
    """Remove events of the workspace that name the farm or its people, as whole words; their digests stay in the chain."""
    sought = re.compile(rf"(?<!\w)(?:{'|'.join(re.escape(name) for name in sorted(names))})(?!\w)")
    keys = [
        event.pk
        for event in AuditEvent.objects.filter(workspace=workspace)
        if sought.search(" ".join([event.what, *(text for row in event.changes for text in row), event.history_change_reason]))
    ]
    lay_stones(AuditEvent, keys)
    AuditEvent.objects.filter(pk__in=keys).delete()
