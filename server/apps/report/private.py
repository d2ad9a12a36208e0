"""What must not leave a workspace with a report: names of people, of places, of files, wherever somebody typed them.

Fields made for names are left out by the report itself. This is the net below it: titles, reasons and notes are free text, and
whoever typed a farm's name into one of them did not mean to publish it.
"""

from __future__ import annotations

import re
from typing import Any

from django.db.models import Q
from django.utils.safestring import SafeString
from ninja import Schema

from apps.accounts.models import User
from apps.farms.models import Field
from apps.records.kinds import KINDS
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment, Trial

SHORTEST = 4  # a shorter name is part of too many words
STRUCK = "…"


def private_words(view: TrialView, *, names: bool, places: bool) -> re.Pattern[str] | None:
    """A pattern of what may not be said; None where everything may."""
    workspace, result = view.trial.workspace, set[str]()
    if not names:
        for person in _people(view.trial):
            result |= {person.username, person.first_name, person.last_name, person.get_full_name()}
        result |= {workspace.name, view.trial.price_source, *(scenario.source for scenario in view.trial.scenarios.all())}
    if not places:
        for field in Field.objects.filter(workspace=workspace):
            result |= {field.name, field.farm}
        result |= {log.name for log in view.trial.yield_logs.all()}
        result |= {log.name.rsplit(".", 1)[0] for log in view.trial.yield_logs.all()}
    words = sorted((re.escape(name.strip()) for name in result if len(name.strip()) >= SHORTEST), key=len, reverse=True)
    return re.compile(rf"(?<!\w)({'|'.join(words)})(?!\w)", re.IGNORECASE) if words else None


def _people(trial: Trial) -> set[User]:
    """Everybody whose name may stand in a trial: members, members who left, and whoever recorded or changed something."""
    workspace = trial.workspace
    there = Q(memberships__workspace=workspace) | Q(past_memberships__workspace=workspace) | Q(pk=trial.created_by_id)
    people = set(User.objects.filter(there))
    for model in (Trial, Strip, Treatment):
        rows = model.history.filter(**({"id": trial.id} if model is Trial else {"trial_id": trial.id}))
        people |= set(User.objects.filter(pk__in=rows.values("history_user_id")))
    for kind in KINDS.values():
        if kind.home != "workspace":
            rows = kind.model._default_manager.filter(**{kind.to_trial: trial})
            people |= set(User.objects.filter(pk__in=rows.values("recorded_by_id")))
    return people


def without(value: Any, words: re.Pattern[str] | None) -> Any:
    """The same texts with those words struck; drawings stay as they are, for they hold letters and numbers only."""
    if words is None or isinstance(value, SafeString):
        return value
    if isinstance(value, str):
        return words.sub(STRUCK, value)
    if isinstance(value, Schema):
        return without(value.model_dump(), words)
    if isinstance(value, dict):
        return {key: item if key == "style" else without(item, words) for key, item in value.items()}
    if isinstance(value, (list, tuple)):
        return [without(item, words) for item in value]
    return value
