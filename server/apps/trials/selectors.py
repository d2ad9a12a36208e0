"""Reading trials, always through the reader's memberships."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from cultrix_core.crops import CropProfile, crop
from cultrix_core.economics.break_even import BreakEven, break_even
from cultrix_core.errors import Refusal
from cultrix_core.showing import Shower
from django.db.models import QuerySet
from django.utils import timezone

from apps.accounts.faults import NotHere
from apps.accounts.models import User, Workspace
from apps.accounts.selectors import shower_for
from apps.records.selectors import StripRecords, events_of, strip_records
from apps.trials.models import Factor, Strip, Treatment, Trial
from apps.trials.stages import Stage, season_line


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialView:
    """A trial with everything its ribbon and season line need, read once."""

    trial: Trial
    profile: CropProfile
    show: Shower
    factor: Factor | None
    treatments: tuple[Treatment, ...]
    strips: tuple[Strip, ...]
    records: dict[UUID, StripRecords]
    stages: tuple[Stage, ...]

    @property
    def control(self) -> Treatment | None:
        """The treatment the others are compared with."""
        return next((treatment for treatment in self.treatments if treatment.is_control), None)

    def seeds_per_m2(self, treatment: Treatment) -> float | None:
        """Seeds sown per m² under a treatment."""
        if self.factor and self.factor.kind == "seeding_rate":
            return treatment.level.amount_canonical
        return self.trial.seeding_rate_per_m2

    def row_spacing_m(self, treatment: Treatment) -> float | None:
        """Row spacing under a treatment."""
        if self.factor and self.factor.kind == "row_spacing":
            return treatment.level.amount_canonical
        return self.trial.row_spacing_m

    def money(self, treatment: Treatment) -> BreakEven | None:
        """Break-even of a treatment against the control; None without a price or a control."""
        if self.trial.price_per_t is None or self.control is None:
            return None
        extra = (treatment.extra_cost_per_ha or 0.0) - (self.control.extra_cost_per_ha or 0.0)
        try:
            return break_even(
                extra_cost_per_ha=extra, price_per_t=self.trial.price_per_t, unit_cost_per_t=self.trial.unit_cost_per_t or 0.0
            )
        except Refusal:
            return None

    def margin_kg_per_ha(self, treatment: Treatment) -> float | None:
        """The difference that matters: from money, or the practical margin where the extra cost is 0."""
        money = self.money(treatment)
        if money is not None and money.gain_kg_per_ha is not None:
            return money.gain_kg_per_ha
        return self.trial.practical_margin_kg_per_ha


def _readable(user: User) -> QuerySet[Trial]:
    return Trial.objects.filter(workspace__memberships__user=user).select_related("workspace", "field")


def trial_for(user: User, trial_id: UUID) -> Trial:
    """A trial of one of the person's workspaces, else ``NotHere``."""
    trial = _readable(user).filter(id=trial_id).first()
    if trial is None:
        raise NotHere
    return trial


def strip_for(user: User, strip_id: UUID) -> Strip:
    """A strip of one of the person's workspaces, else ``NotHere``."""
    strip = (
        Strip.objects.filter(id=strip_id, trial__workspace__memberships__user=user).select_related("trial__workspace").first()
    )
    if strip is None:
        raise NotHere
    return strip


def trials_of(user: User, workspace: Workspace) -> list[TrialView]:
    """All trials of a workspace, newest season first."""
    trials = _readable(user).filter(workspace=workspace).order_by("-season", "title")
    return [view(user, trial) for trial in trials]


def view(user: User, trial: Trial) -> TrialView:
    """Everything about a trial as this person reads it."""
    profile = crop(trial.crop)
    factor = trial.factors.first()
    treatments = tuple(trial.treatments.select_related("level__factor"))
    strips = tuple(trial.strips.select_related("block", "treatment__level__factor", "sown_treatment__level__factor"))
    records = strip_records(trial)
    stages = season_line(
        trial,
        factor=factor,
        treatments=treatments,
        strips=strips,
        records=records,
        events=len(events_of(trial)),
        today=timezone.localdate(),
    )
    return TrialView(
        trial=trial,
        profile=profile,
        show=shower_for(user, trial.workspace, profile),
        factor=factor,
        treatments=treatments,
        strips=strips,
        records=records,
        stages=stages,
    )
