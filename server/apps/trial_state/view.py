"""A trial with everything its ribbon, season line and comparisons need, read once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from uuid import UUID

from cultrix_core.crops import CropProfile
from cultrix_core.design.designs import DesignKind, design_kind
from cultrix_core.economics.break_even import BreakEven, break_even
from cultrix_core.economics.budgets import Budget, budget
from cultrix_core.economics.costs import Line, TreatmentCost, price_per_thousand, treatment_cost
from cultrix_core.errors import Refusal
from cultrix_core.regions import RegionProfile
from cultrix_core.seeding.lot_workings import seed_cost_per_ha
from cultrix_core.seeding.lots import Chain, LotValues
from cultrix_core.seeding.rates import COUNT_UNITS, Lot
from cultrix_core.unit_formatting import UnitFormatter
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.queries import reader_region
from apps.accounts.rights import Reach, reach_in
from apps.farms.seed_lots import values_of
from apps.field.events.models import FieldEvent
from apps.field.queries import events_of
from apps.trial_state.progress import Progress, progress_of
from apps.trial_state.stages import Stage, season_line
from apps.trial_state.strip_records import StripRecords, strip_records
from apps.trials import lots
from apps.trials.models import Factor, Level, Sowing, Strip, Treatment, Trial
from apps.trials.profiles import profile_of
from apps.trials.protocol import USUAL_MARGIN
from apps.trials.queries import protocol_of, readable, sowings_of, treatments_of
from apps.trials.treatment_package import declared


@dataclass(frozen=True, kw_only=True)
class TrialView:
    """A trial as one person reads it. Each part is read from the database when it is first asked for, and once.

    ``reach``: what that person may see of the workspace; None for nobody in particular, as a job reads.
    """

    trial: Trial
    profile: CropProfile
    region: RegionProfile
    show: UnitFormatter
    reach: Reach | None = None

    @cached_property
    def factors(self) -> tuple[Factor, ...]:
        """What is varied."""
        return tuple(self.trial.factors.all())

    @cached_property
    def treatments(self) -> tuple[Treatment, ...]:
        """Treatments with their levels and what these cost."""
        return treatments_of(self.trial)

    @cached_property
    def sowings(self) -> tuple[Sowing, ...]:
        """Lots of seed that go into the ground."""
        return sowings_of(self.trial)

    @cached_property
    def strips(self) -> tuple[Strip, ...]:
        """Strips in field order; one object a treatment, its levels read once."""
        by_id = {treatment.id: treatment for treatment in self.treatments}
        strips = tuple(self.trial.strips.select_related("block"))
        for strip in strips:
            strip.treatment = by_id[strip.treatment_id]
            strip.sown_treatment = by_id[strip.sown_treatment_id] if strip.sown_treatment_id else None
        return strips

    @cached_property
    def events(self) -> tuple[FieldEvent, ...]:
        """The season's log."""
        return tuple(events_of(self.trial))

    @cached_property
    def records(self) -> dict[UUID, StripRecords]:
        """What stands on each strip."""
        return strip_records(self.trial, self.strips, self.events)

    @cached_property
    def memo(self) -> dict[str, Any]:
        """What rooms above found of this trial as this person reads it, by name, so that one answer finds it once."""
        return {}

    @cached_property
    def belongings(self) -> dict[str, str]:
        """What belongs to the treatments beside their levels, as declared, in words."""
        return declared(self.trial, self.factors, self.sowings)

    @cached_property
    def frozen(self) -> bool:
        """Whether its protocol is frozen."""
        return protocol_of(self.trial) is not None

    @cached_property
    def progress(self) -> Progress:
        """How far the trial is; the days on which tasks were done apart."""
        return progress_of(
            factors=self.factors,
            treatments=self.treatments,
            strips=self.strips,
            records=self.records,
            events=self.events,
            has_lot=bool(self.sowings),
            frozen=self.frozen,
        )

    @cached_property
    def stages(self) -> tuple[Stage, ...]:
        """The season line of today."""
        return season_line(self.trial, self.progress, today=timezone.localdate())

    def in_region(self, region: RegionProfile) -> TrialView:
        """The same as others read it; nothing is read again."""
        other = view_in(region, self.trial)
        other.__dict__.update({name: part for name, part in self.__dict__.items() if name not in ("region", "show", "memo")})
        return other

    @property
    def design(self) -> DesignKind:
        """The design of the layout; ``UNDRAWN`` before there is one."""
        return design_kind(self.trial.design)

    @property
    def control(self) -> Treatment | None:
        """The treatment the others are compared with."""
        return next((treatment for treatment in self.treatments if treatment.is_control), None)

    def level_of(self, treatment: Treatment, kind: str) -> Level | None:
        """The level of the factor of a kind that a treatment has; None when that is not varied."""
        return next((level for level in treatment.levels.all() if level.factor.kind == kind), None)

    @property
    def chain(self) -> Chain | None:
        """Emergence and survival expected."""
        return lots.chain_of(self.trial)

    def lot(self, treatment: Treatment) -> Lot:
        """What turns the rate of a treatment into other units."""
        return lots.lot_of(self.trial, self.sowings, treatment)

    def lot_values(self, treatment: Treatment) -> LotValues | None:
        """What the core makes of the seed a treatment gets, None without a lot."""
        return lots.values_for(self.sowings, treatment)

    def seeds_per_m2(self, treatment: Treatment) -> float | None:
        """Seeds sown per m² under a treatment, by its own lot where the rate was not typed in seeds."""
        level = self.level_of(treatment, "seeding_rate")
        trial = self.trial
        text, unit, stored = (
            (level.amount.text, level.amount.unit, level.amount.value)
            if level
            else (trial.seeding_rate.text, trial.seeding_rate.unit, trial.seeding_rate.value)
        )
        if unit in COUNT_UNITS or not any(sowing.level_id for sowing in self.sowings):
            return stored
        return lots.typed_rate(text, unit, self.lot(treatment), stored)

    def depth_m(self, treatment: Treatment) -> float | None:
        """Sowing depth wanted under a treatment."""
        level = self.level_of(treatment, "seeding_depth")
        return level.amount.value if level else self.trial.sowing_depth.value

    def price_per_thousand(self, treatment: Treatment) -> float | None:
        """Price of a thousand seeds under a treatment, from its lot or what was typed with the trial."""
        values, trial = self.lot_values(treatment), self.trial
        if values is not None:
            return values.price_per_thousand
        if trial.bag_price.value is None or trial.bag_seeds.value is None:
            return None
        return price_per_thousand(bag_price=trial.bag_price.value, seeds_in_bag=trial.bag_seeds.value)

    def row_spacing_m(self, treatment: Treatment) -> float | None:
        """Row spacing under a treatment."""
        level = self.level_of(treatment, "row_spacing")
        return level.amount.value if level else self.trial.row_spacing.value

    def cost(self, treatment: Treatment) -> TreatmentCost:
        """All costs of a treatment: its levels' cost lines, seed by rate and bag price, and what was stated."""
        lines = [
            Line(
                label=line.label or line.get_kind_display(),
                times=line.times.value or 0.0,
                each_per_ha=line.each.value or 0.0,
                each_per_t=line.each_per_t or 0.0,
            )
            for level in treatment.levels.all()
            for line in level.cost_lines.all()
        ]
        for part in lots.parts_for(self.sowings, treatment, "companion"):
            price = values_of(part.lot).price_per_thousand
            if price is not None and part.rate.value is not None:
                each = seed_cost_per_ha(part.rate.value, price)
                lines.append(Line(label=f"seed of {part.lot}", times=1.0, each_per_ha=each))
        return treatment_cost(
            lines=lines,
            seeds_per_m2=self.seeds_per_m2(treatment),
            price_per_thousand_seeds=self.price_per_thousand(treatment),
            stated_per_ha=treatment.extra_cost.value or 0.0,
        )

    def extra_cost(self, treatment: Treatment) -> float:
        """What a treatment costs more than the control, per ha, costs by yield at the expected yield."""
        if self.control is None or treatment.id == self.control.id:
            return 0.0
        by_yield = (self.cost(treatment).per_t - self.cost(self.control).per_t) * (self.trial.expected_yield.value or 0.0)
        return self.cost(treatment).per_ha - self.cost(self.control).per_ha + by_yield / 1000

    def money(self, treatment: Treatment) -> BreakEven | None:
        """Break-even of a treatment against the control; None without a price or a control."""
        return None if self.control is None else self.money_between([treatment], [self.control])

    def money_between(self, left: Sequence[Treatment], right: Sequence[Treatment]) -> BreakEven | None:
        """Break-even of one side against the other, costs averaged over the treatments of a side.

        None without a price, and where costs come with the yield but no yield is expected: then nothing says what they are.
        """
        trial = self.trial
        if trial.price.value is None:
            return None
        treatment_costs, base = ([self.cost(treatment) for treatment in side] for side in (left, right))
        area, per_t = (
            sum(of(item) for item in treatment_costs) / len(treatment_costs) - sum(of(one) for one in base) / len(base)
            for of in (lambda cost: cost.per_ha, lambda cost: cost.per_t)
        )
        if per_t and trial.expected_yield.value is None:
            return None
        by_yield = per_t * (trial.expected_yield.value or 0.0) / 1000
        own_per_t = sum(cost.per_t for cost in treatment_costs) / len(treatment_costs)
        try:
            return break_even(
                extra_cost_per_ha=round(area + by_yield, 9),
                price_per_t=trial.price.value,
                unit_cost_per_t=(trial.unit_cost.value or 0.0) + own_per_t,
            )
        except Refusal:
            return None

    def seed_sown_per_ha(self, strip: Strip) -> float | None:
        """Cost of the seed that a strip really got, per ha; None where its rate or its price is not recorded."""
        rate, price = self.records[strip.id].sown_per_m2, self.price_per_thousand(strip.received)
        return None if rate is None or price is None else seed_cost_per_ha(rate, price)

    def budget_of(self, strip: Strip) -> Budget | None:
        """The budget of a strip under what it received; None without a yield or a price above its costs."""
        yield_, trial = self.records[strip.id].yield_kg_per_ha, self.trial
        if yield_ is None or trial.price.value is None:
            return None
        try:
            return budget(
                yield_,
                self.cost(strip.received),
                price_per_t=trial.price.value,
                unit_cost_per_t=trial.unit_cost.value or 0.0,
                seed_per_ha=self.seed_sown_per_ha(strip),
            )
        except Refusal:
            return None

    def practical_margin(self, break_even_kg_per_ha: float | None) -> float | None:
        """The smallest difference in yield anybody would act on: as stated, else a share of the expected yield.

        A trial that was frozen without one keeps what it was frozen with, the break-even of the comparison.
        """
        stated, expected = self.trial.practical_margin.value, self.trial.expected_yield.value
        if stated is not None:
            return stated
        if break_even_kg_per_ha is not None and (self.frozen or expected is None):
            return break_even_kg_per_ha
        return None if expected is None or self.frozen else USUAL_MARGIN * expected

    def break_even_kg_per_ha(self, treatment: Treatment) -> float | None:
        """The gain that pays a treatment's extra cost; the practical margin where it costs nothing extra."""
        money = self.money(treatment)
        if money is not None and money.gain_kg_per_ha is not None:
            return money.gain_kg_per_ha
        return self.trial.practical_margin.value

    def margin_kg_per_ha(self, treatment: Treatment) -> float | None:
        """The margin of a treatment against the control."""
        money = self.money(treatment)
        return self.practical_margin(None if money is None else money.gain_kg_per_ha)


def trials_of(user: User, workspace: Workspace) -> list[TrialView]:
    """All trials of a workspace, newest season first."""
    trials = readable(user).filter(workspace=workspace).order_by("-season", "title")
    return [view(user, trial) for trial in trials]


def trials_in_series(user: User, own: TrialView) -> list[TrialView]:
    """Trials of the same crop and series in the trial's workspace, oldest first; its own view among them."""
    if "series" not in own.memo:
        trial = own.trial
        trials = readable(user).filter(workspace=trial.workspace, crop=trial.crop, series__iexact=trial.series.strip())
        own.memo["series"] = [own if item.id == trial.id else view(user, item) for item in trials.order_by("season", "title")]
    found: list[TrialView] = own.memo["series"]
    return found


def view(user: User, trial: Trial) -> TrialView:
    """Everything about a trial as this person reads it."""
    return replace(view_in(reader_region(user, trial.workspace), trial), reach=reach_in(user, trial.workspace))


def view_in(region: RegionProfile, trial: Trial) -> TrialView:
    """Everything about a trial in the units of a region."""
    profile = profile_of(trial)
    show = region.formatter(profile, currency=trial.workspace.currency)
    return TrialView(trial=trial, profile=profile, region=region, show=show)
