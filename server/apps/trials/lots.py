"""Which seed a treatment gets: its lot or mixture, companions, and the chain from seed to stand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal
from cultrix_core.seeding.lots import Chain, LotValues, as_spoken, blend
from cultrix_core.seeding.mixtures import Part, mixture
from cultrix_core.seeding.rates import Lot, seeds_per_m2
from cultrix_core.units import parse_number

from apps.farms.models import SeedLot
from apps.farms.seed_lots import values_of
from apps.trials.models import Sowing, Treatment, Trial


@dataclass(frozen=True, slots=True, kw_only=True)
class Spoken:
    """A lot with which rates are turned into seeds."""

    lot: Lot

    def per_m2(self, value: float, unit: str) -> float:
        """A typed rate as seeds per m²."""
        return seeds_per_m2(value, unit, lot=self.lot)


def spoken(lot: SeedLot) -> Spoken:
    """A stored lot, with nothing known of its emergence."""
    return Spoken(lot=as_spoken(values_of(lot), None))


def chain_of(trial: Trial) -> Chain | None:
    """Emergence and survival expected of a trial, None where no emergence is given."""
    if trial.emergence.value is None:
        return None
    return Chain(
        emergence_pct=trial.emergence.value,
        emergence_of=trial.emergence_of,  # type: ignore[arg-type]
        survival_pct=100.0 if trial.survival.value is None else trial.survival.value,
    )


def parts_for(sowings: Sequence[Sowing], treatment: Treatment | None, part: str) -> list[Sowing]:
    """Parts of one kind that a treatment gets: those of its levels, else those of all strips.

    A companion of all strips and one of a level both go on; a lot or mixture of a level takes the place of the general one.
    """
    levels = set() if treatment is None else {level.id for level in treatment.levels.all()}
    general = [sowing for sowing in sowings if sowing.part == part and sowing.level_id is None]
    own = [sowing for sowing in sowings if sowing.part == part and sowing.level_id in levels]
    return [*general, *own] if part == "companion" else own or general


def seed_for(sowings: Sequence[Sowing], treatment: Treatment | None) -> list[tuple[Sowing, float]]:
    """The crop's lot, or the parts of the mixture, each with its share of the seeds; empty without a lot."""
    mixed = parts_for(sowings, treatment, "mixture")
    own_mix = [sowing for sowing in mixed if sowing.level_id is not None]
    crops = parts_for(sowings, treatment, "crop")
    own_crop = [crop for crop in crops if crop.level_id is not None]
    if own_crop or (crops and not own_mix):
        return [((own_crop or crops)[0], 1.0)]
    if not mixed:
        return []
    parts = [
        Part(name=str(sowing.lot), share_pct=sowing.share.value or 0.0, weight_g=values_of(sowing.lot).bag_weight_g)
        for sowing in mixed
    ]
    rates = mixture(parts, total=1.0, total_by="seeds", shares_by=mixed[0].share_by)  # type: ignore[arg-type]
    return [(sowing, rate.seeds_share) for sowing, rate in zip(mixed, rates, strict=True)]


def values_for(sowings: Sequence[Sowing], treatment: Treatment | None) -> LotValues | None:
    """What the core makes of the seed a treatment gets, a mixture blended by its seeds; None without a lot."""
    parts = seed_for(sowings, treatment)
    return blend([(values_of(sowing.lot), share) for sowing, share in parts]) if parts else None


def lot_of(trial: Trial, sowings: Sequence[Sowing], treatment: Treatment | None = None) -> Lot:
    """What turns a rate into other units: the treatment's lot, else what was typed with the trial."""
    values, chain = values_for(sowings, treatment), chain_of(trial)
    if values is not None:
        return as_spoken(values, chain)
    up = None
    if chain is not None and chain.emergence_of == "sown":
        up = chain.emergence_pct / 100 * chain.survival_pct / 100
    return Lot(thousand_seed_weight_g=trial.thousand_seed_weight.value, emergence_frac=up, seeds_in_bag=trial.bag_seeds.value)


def typed_rate(text: str, unit: str, lot: Lot, fallback: float | None) -> float | None:
    """A typed rate as seeds per m² of this lot; what was stored where the lot cannot tell."""
    if not text:
        return fallback
    try:
        return seeds_per_m2(parse_number(text, field="seeding_rate"), unit, lot=lot)
    except Refusal:
        return fallback
