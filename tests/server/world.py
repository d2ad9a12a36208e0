"""A workspace with everything in it, built once for a file of tests; each test takes back what it did."""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from apps.accounts.models import Membership, User, Workspace
from apps.accounts.people import reach_farms
from apps.farms.models import Field
from apps.jobs.services import at_once
from django.conf import settings
from django.db import transaction

from tests.server.conftest import Api, member, trial_of
from tests.server.operation_rows import Place
from tests.server.operations import places_of

FARM, OTHER_FARM = "Hallow Farm", "Sallow Farm"
# People whose part reaches one farm only: the grower of the trial's, and one of each of these parts on another.
OF_FARMS = (
    ("wystan", "grower", FARM),
    ("neave", "grower", OTHER_FARM),
    ("lowri", "adviser", OTHER_FARM),
    ("hale", "field_hand", OTHER_FARM),
    ("quin", "reader", OTHER_FARM),
)


@dataclass
class World:
    workspace: Workspace
    trial: Place
    at: Callable[[str], str]

    def of(self, name: str) -> Api:
        """One of its people, on a device of their own."""
        api = Api()
        api.client.force_login(User.objects.get(username=name), backend="django.contrib.auth.backends.ModelBackend")
        return api

    def fresh_trial(self, lead: Api) -> Place:
        """The trial as it was built, for a test to change."""
        return copy.deepcopy({key: value for key, value in self.trial.items() if key != "lead"}) | {"lead": lead}


@contextmanager
def files_in(folder: Path) -> Iterator[None]:
    """Let files of records lie in a folder, for as long as the tests of a file run."""
    names = {"LOGS": "logs", "PHOTOS": "photos", "ATTACHMENTS": "attachments", "BACKUPS": "backups"}
    before: dict[str, Any] = {name: getattr(settings, name) for name in names}
    for name, part in names.items():
        setattr(settings, name, folder / part)
    try:
        yield
    finally:
        for name, value in before.items():
            setattr(settings, name, value)


@contextmanager
def built(folder: Path) -> Iterator[World]:
    """The world in a transaction that is taken back in the end; tests run in savepoints inside it."""
    with files_in(folder), at_once(), transaction.atomic():
        workspace = Workspace.objects.create(name="Lower Terraces", currency="€")
        lead = member("mirren", workspace, "owner")
        for name, role in (("anselm", "adviser"), ("corin", "field_hand"), ("vesna", "reader")):
            member(name, workspace, role)
        member("stranger", Workspace.objects.create(name="Elsewhere", currency="$"), "owner")
        trial = trial_of(lead, workspace)
        at = places_of(lead, workspace, trial)
        Field.objects.filter(id=trial["field"]["id"]).update(farm=FARM)
        Field.objects.create(workspace=workspace, name="Far Field", farm=OTHER_FARM)
        for name, role, farm in OF_FARMS:
            member(name, workspace, role)
            reach_farms(Membership.objects.get(user__username=name, workspace=workspace), [farm])
        at("{photo} {log} {backup}")
        yield World(workspace, trial, at)
        transaction.set_rollback(True)
