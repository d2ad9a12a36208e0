"""Lists of trials: read from summaries, and from the trials themselves only where a summary does not stand."""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import Any
from uuid import UUID

from cultrix_core.crops import CropProfile
from cultrix_core.errors import Refusal
from cultrix_core.regions import RegionProfile
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.writing import written_as
from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.db.models import Exists, OuterRef, Q, QuerySet
from django.db.models.functions import Lower
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.queries import reader_region, region_of, region_read_by
from apps.base.code_fingerprint import code_fingerprint
from apps.trial_state.changes import stands
from apps.trial_state.models import TrialSummary
from apps.trial_state.progress import Progress, progress_kept, with_days_done
from apps.trial_state.rows import EMPTY_RIBBON, fixed_part
from apps.trial_state.stages import Stage, is_finished, next_step, season_line
from apps.trial_state.view import TrialView, view_in
from apps.trials.models import Strip, Trial
from apps.trials.profiles import profile_of
from apps.trials.queries import is_archived, readable

log = logging.getLogger("django.request")
LIVE_MOST = 25  # trials whose summary does not stand and that one list reads itself; the others say that they are being made
ORDERS = ("season", "title", "crop", "next")
Part = Callable[["ListedTrial"], Any]
# What rooms above keep in a summary beside its row: the column, and how it is made of a trial that was read.
PARTS: dict[str, Part] = {}


def keep_part(column: str, part: Part) -> None:
    """Have a column of summaries made by a room above; called when that room is ready."""
    PARTS[column] = part


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedTrial:
    """A trial as lists need it. ``fixed``: ``rows.fixed_part``. ``recalculating``: what is told is of an earlier revision.

    ``view``: the trial itself where it was read and not its summary.
    """

    trial: Trial
    profile: CropProfile
    show: UnitFormatter
    progress: Progress
    fixed: dict[str, Any]
    recalculating: bool = False
    view: TrialView | None = None

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The season line of today."""
        return season_line(self.trial, self.progress, today=timezone.localdate())

    @property
    def words(self) -> str:
        """What a search finds it by."""
        trial = self.trial
        told = [trial.title, self.profile.title, trial.season, trial.series, trial.field or "", *self.fixed["treatments"]]
        return " ".join(str(word) for word in told).casefold()


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Which trials a list wants: those that hold every word of ``find``, in an order, a page of them."""

    find: str = ""
    order: str = "season"
    finished: bool | None = None
    drawn: bool | None = None
    archived: bool = False
    offset: int = 0
    limit: int = 50

    def takes(self, listed_trial: ListedTrial) -> bool:
        """Whether a trial that was read fits."""
        return (
            all(word in listed_trial.words for word in self.find.casefold().split())
            and is_archived(listed_trial.trial) == self.archived
            and self.finished in (None, is_finished(listed_trial.stages))
            and self.drawn in (None, listed_trial.progress.strips > 0)
        )

    def among(self, trials: QuerySet[Trial]) -> QuerySet[Trial]:
        """Those of the database that fit, by their summaries."""
        trials = trials.exclude(life__archived_at=None) if self.archived else trials.filter(life__archived_at=None)
        for word in self.find.casefold().split():
            trials = trials.filter(Q(summary__words__contains=word) | Q(summary=None, title__icontains=word))
        if self.finished is not None:
            trials = trials.filter(summary__finished=self.finished)
        if self.drawn is not None:
            drawn = Exists(Strip.objects.filter(trial=OuterRef("pk")))
            trials = trials.filter(drawn if self.drawn else ~drawn)
        return trials.order_by(*SQL_ORDERS[self.order], Lower("title"), "id")


SQL_ORDERS: dict[str, tuple[str, ...]] = {
    "season": ("-season",),
    "title": (),
    "crop": ("summary__crop_name",),
    "next": ("summary__step",),
}
KEYS: dict[str, Callable[[ListedTrial], tuple[Any, ...]]] = {
    "season": lambda listed_trial: (-listed_trial.trial.season,),
    "title": lambda _: (),
    "crop": lambda listed_trial: (listed_trial.profile.title,),
    "next": lambda listed_trial: (next_step(listed_trial.stages),),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Shelf:
    """The trials of a workspace for one reader: those read themselves, for their summaries do not stand, and the others."""

    region: RegionProfile
    key: str
    live: tuple[ListedTrial, ...]
    rest: QuerySet[Trial]
    standing: Q

    def of(self, trial: Trial) -> ListedTrial:
        """A trial of ``rest`` with its summary read along."""
        summary = getattr(trial, "summary", None)
        if summary is None or self.key not in summary.rows:
            return _bare(trial, self.region)
        stands = summary.made_of == summary.revision and summary.code == code_fingerprint()
        return _kept(trial, summary, self.region, self.key, recalculating=not stands)


def shelf(user: User, workspace: Workspace, day: date | None = None) -> Shelf:
    """All trials of a workspace, as this person reads them; with a day where what is due on it matters."""
    region = reader_region(user, workspace)
    key = reader_key(region, workspace)
    trials = readable(user).filter(workspace=workspace)
    standing = Q(summary__readers__contains=f" {key} ") & stands(code_fingerprint(), day, "summary__")
    stale = trials.filter(Q(summary=None) | ~standing).order_by("-season", "title")[:LIVE_MOST]
    live = tuple(_live(view_in(region, trial)) for trial in stale)
    rest = trials.exclude(id__in=[listed_trial.trial.id for listed_trial in live]).select_related("summary")
    rest = rest.defer(*(f"summary__{column}" for column in PARTS))
    return Shelf(region=region, key=key, live=live, rest=rest, standing=standing)


def at_work(here: Shelf) -> Shelf:
    """The same without what is archived."""
    live = tuple(listed_trial for listed_trial in here.live if not is_archived(listed_trial.trial))
    return replace(here, live=live, rest=here.rest.filter(life__archived_at=None))


def listed(user: User, workspace: Workspace) -> list[ListedTrial]:
    """All trials of a workspace, newest season first."""
    here = shelf(user, workspace)
    trials = [*here.live, *(here.of(trial) for trial in here.rest)]
    return sorted(trials, key=lambda listed_trial: (-listed_trial.trial.season, listed_trial.trial.title))


def page_of(user: User, workspace: Workspace, wanted: Wanted) -> tuple[list[ListedTrial], int]:
    """A page of the trials that fit, and how many fit in all."""
    if wanted.order not in ORDERS:
        raise Refusal("unknown_choice", field="order", label="Order", value=wanted.order, limit=", ".join(ORDERS))
    here = shelf(user, workspace)
    fitting = wanted.among(here.rest)
    live = [listed_trial for listed_trial in here.live if wanted.takes(listed_trial)]
    total = fitting.count() + len(live)
    until = wanted.offset + wanted.limit
    if not live:
        return [here.of(trial) for trial in fitting[wanted.offset : until]], total
    trials = [*live, *(here.of(trial) for trial in fitting[:until])]
    trials.sort(key=lambda item: (*KEYS[wanted.order](item), item.trial.title.lower(), str(item.trial.id)))
    return trials[wanted.offset : until], total


@dataclass(frozen=True, slots=True, kw_only=True)
class Parts:
    """A column of summaries: of trials by id, of those read just now, and how many stand as they were made before."""

    kept: tuple[tuple[UUID, Any], ...]
    live: tuple[tuple[ListedTrial, Any], ...]
    recalculating: int


def parts_of(
    here: Shelf, column: str, among: Callable[[QuerySet[Trial]], QuerySet[Trial]] = lambda trials: trials.order_by()
) -> Parts:
    """A column of the summaries of a workspace; made here of trials whose summaries do not stand."""
    kept = among(here.rest.filter(summary__readers__contains=f" {here.key} ")).values_list(
        "id", f"summary__{column}__{here.key}"
    )
    late = here.rest.filter(Q(summary=None) | ~here.standing).count() if len(here.live) == LIVE_MOST else 0
    return Parts(
        kept=tuple((trial_id, part) for trial_id, part in kept if part is not None),
        live=tuple((listed_trial, json_ready(PARTS[column](listed_trial))) for listed_trial in here.live),
        recalculating=late,
    )


def json_ready(value: Any) -> Any:
    """As the database gives it back."""
    return json.loads(json.dumps(value, cls=DjangoJSONEncoder))


def reader_key(region: RegionProfile, workspace: Workspace) -> str:
    """What decides how a row reads: units by kind and crop, currency, and how numbers are written there."""
    region_profile = region_of(workspace)
    read = [region.key, sorted(region.units.items()), sorted(region.changed), workspace.currency, region_profile.writing]
    return f"r{hashlib.sha256(json.dumps(read).encode()).hexdigest()[:12]}"  # a letter first: it names a path in JSON


def _kept(trial: Trial, summary: TrialSummary, region: RegionProfile, key: str, *, recalculating: bool) -> ListedTrial:
    profile = profile_of(trial)
    return ListedTrial(
        trial=trial,
        profile=profile,
        show=region.formatter(profile, currency=trial.workspace.currency),
        progress=progress_kept(summary.progress),
        fixed=summary.rows[key],
        recalculating=recalculating,
    )


def _live(view: TrialView) -> ListedTrial:
    return ListedTrial(
        trial=view.trial,
        profile=view.profile,
        show=view.show,
        progress=with_days_done(view.progress, view.trial),
        fixed=fixed_part(view),
        view=view,
    )


NOTHING = Progress(
    treatments=0,
    has_control=False,
    factor_kinds=(),
    has_lot=False,
    frozen=False,
    strips=0,
    blocks=0,
    lost=0,
    sown_otherwise=0,
    standing=0,
    counted=0,
    sown=0,
    sampled=0,
    harvested=0,
    loaded=False,
    events=0,
)


def _bare(trial: Trial, region: RegionProfile) -> ListedTrial:
    profile = profile_of(trial)
    show = region.formatter(profile, currency=trial.workspace.currency)
    fixed: dict[str, Any] = {"treatments": [], "letters": [], "ribbon": EMPTY_RIBBON}
    return ListedTrial(trial=trial, profile=profile, show=show, progress=NOTHING, fixed=fixed, recalculating=True)


def make_old_ones_anew(most: int) -> int:
    """Make summaries that do not stand, oldest trials last; returns how many were made. The work of the worker."""
    ids = list(Trial.objects.filter(summary=None).values_list("id", flat=True)[:most])
    if len(ids) < most:
        stale = TrialSummary.objects.exclude(stands(code_fingerprint(), timezone.localdate())).order_by("-trial__season")
        ids += stale.values_list("trial_id", flat=True)[: most - len(ids)]
    return make_summaries(ids)


def make_summaries(ids: Iterable[UUID]) -> int:
    """Make the summaries of these trials; one that is written to meanwhile stays old, and is made again."""
    number = 0
    for trial in Trial.objects.filter(id__in=list(ids)).select_related("workspace", "field"):
        with transaction.atomic():
            TrialSummary.objects.get_or_create(trial=trial)
        revision = TrialSummary.objects.values_list("revision", flat=True).get(trial=trial)
        # read after the revision: a write in between makes the revision of the row another
        try:
            columns = _made_of(trial)
        except Exception:  # it must not end the worker, nor hold up the others: lists read that trial themselves
            log.exception("no summary of trial %s could be made", trial.id)
            columns = {"progress": {}, "rows": {}, "readers": "", "day": None}
        TrialSummary.objects.filter(trial=trial, revision=revision).update(made_of=revision, code=code_fingerprint(), **columns)
        number += 1
    return number


def _made_of(trial: Trial) -> dict[str, Any]:
    """The columns of a summary."""
    with written_as(region_of(trial.workspace).writing), transaction.atomic():
        view = view_in(region_of(trial.workspace), trial)
        read = {reader_key(region, trial.workspace): _live(view.in_region(region)) for region in _regions_read(trial.workspace)}
        parts = {column: {key: json_ready(part(item)) for key, item in read.items()} for column, part in PARTS.items()}
        first = next(iter(read.values()))
        return {
            "progress": first.progress.kept(),
            "rows": {key: item.fixed for key, item in read.items()},
            "readers": f" {' '.join(read)} ",
            "sprayed": bool(first.progress.sprays),
            "words": " ".join(sorted({item.words for item in read.values()})),
            "crop_name": first.profile.title,
            "step": next_step(first.stages),
            "finished": is_finished(first.stages),
            "day": timezone.localdate() if goes_with_the_day(first) else None,
            **_most_urgent(parts.get("dues", {})),
            **parts,
        }


def goes_with_the_day(listed_trial: ListedTrial) -> bool:
    """Whether tomorrow something else may be due on a trial."""
    return not is_finished(listed_trial.stages) or listed_trial.profile.perennial


def _most_urgent(dues: dict[str, list[dict[str, Any]]]) -> dict[str, Any]:
    """By what a list of what is due is put in order: the same for every reader."""
    first = next(iter(dues.values()), [])
    return {
        "urgency": first[0]["urgency"] if first else None,
        "due_on": first[0]["on"] if first else None,
        "due_count": len(first),
    }


def _regions_read(workspace: Workspace) -> list[RegionProfile]:
    """The regions in whose units somebody of the workspace reads."""
    systems = set(workspace.memberships.values_list("user__unit_system", flat=True)) | {"home"}
    return [region_read_by(system, workspace) for system in sorted(systems)]
