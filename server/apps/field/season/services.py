"""Writing what is measured, judged and dug, and a workspace's own thresholds."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from cultrix_core.season.traits import Measured, measured, per_sample, rated
from cultrix_core.stand.crowns import MOST_SHOOTS
from cultrix_core.stand.tape import MOST_PLANTS, spacings_of, tapped
from cultrix_core.stand.thresholds import thresholds_of
from cultrix_core.units import find_unit, parse_number, parse_quantity
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.quantities import MeasuredValue, TypedIn, fill, parse
from apps.field.season import models
from apps.field.season.models import DugPlant, PlantMeasure, Rating, StandLine, TapeRun
from apps.field.season.schemas import DugPlantIn, PlantMeasureIn, RatingIn, StandLineIn, TapeRunIn
from apps.records.keeping import keep, strip_of, when


def put_tape_run(user: User, trial_id: UUID, run_id: UUID, body: TapeRunIn) -> tuple[TapeRun, bool]:
    """Store a tape run. Refuses positions that go back, words for numbers, and runs of fewer than three plants."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        run = TapeRun(
            id=run_id,
            strip=strip,
            positions=[text.strip()[:12] for text in body.positions],
            positions_unit=body.positions_unit[:12],
            looked_at=sorted(set(body.looked_at)),
            marks=body.marks,
            by_eye=body.by_eye,
            recorded_at=when(body.recorded_at),
        )
        require_between(len(run.positions), 0, MOST_PLANTS, "positions", label="Plants on the tape")
        fill(run, models.REFERENCE, body.reference)
        if run.reference.value is None:
            raise Refusal(
                "missing", field="reference", label="The spacing wanted", remedy="It follows from rate and row width."
            )
        if run.marks:
            if run.positions:
                raise Refusal("missing", field="marks", label="One way", remedy="Type positions or tap marks, not both.")
            tapped(run.marks, reference_m=run.reference.value)
        else:
            spacings_of(positions_m(run), reference_m=run.reference.value)
        return keep(user, trial, run, body.version)


def positions_m(run: TapeRun) -> list[float]:
    """The typed positions of a run in metres."""
    factor = find_unit("length", run.positions_unit, field="positions_unit").factor
    return [
        factor * parse_number(text, field="positions", label=f"Plant {number}")
        for number, text in enumerate(run.positions, start=1)
    ]


def put_dug_plant(user: User, trial_id: UUID, plant_id: UUID, body: DugPlantIn) -> tuple[DugPlant, bool]:
    """Store a dug plant."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        if body.shoots is not None:
            require_between(body.shoots, 0, MOST_SHOOTS, "shoots", label="Shoots on the crown")
        plant = DugPlant(
            id=plant_id,
            strip=strip,
            health=body.health,
            shoots=body.shoots,
            by_eye=body.by_eye,
            recorded_at=when(body.recorded_at),
        )
        return keep(user, trial, plant, body.version)


def put_plant_measure(user: User, trial_id: UUID, measure_id: UUID, body: PlantMeasureIn) -> tuple[PlantMeasure, bool]:
    """Store a measured value in the trait's own unit, with what was typed beside it."""
    trait = measured(body.trait)
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        measure = PlantMeasure(
            id=measure_id,
            strip=strip,
            trait=trait.key,
            subject=" ".join(body.subject.split())[:40] if trait.subject else "",
            sample_plants=body.sample_plants if trait.by == "plants" else None,
            by_eye=body.by_eye,
            recorded_at=when(body.recorded_at),
        )
        if trait.subject and not measure.subject:
            raise Refusal("missing", field="subject", label=trait.subject, remedy="Each kind is counted by itself; name it.")
        if measure.sample_plants is not None:
            require_between(measure.sample_plants, 1, 1000, "sample_plants", label="Plants looked at")
        fill(measure, models.FRAME, body.area if trait.by == "area" else None)
        measure.value = _value(trait, measure, body.value)
        return keep(user, trial, measure, body.version)


def _value(trait: Measured, measure: PlantMeasure, typed: TypedIn) -> MeasuredValue:
    text, unit = typed.text.strip()[:24], typed.unit
    if not text:
        raise Refusal("missing", field="value", label=trait.name, remedy="Type what was measured.")
    if trait.by in ("area", "plants") or trait.dimension in ("count", "percent"):
        value = parse_number(text, field="value", label=trait.name)
        unit = ""
        if trait.by in ("area", "plants") and value != int(value):
            raise Refusal("not_a_count", field="value", label=trait.name, value=text)
    else:
        value = parse_quantity(text, trait.dimension, unit, field="value", label=trait.name)
    return MeasuredValue(text, unit, per_sample(trait, value, plants=measure.sample_plants, area_m2=measure.area.value))


def put_rating(user: User, trial_id: UUID, rating_id: UUID, body: RatingIn) -> tuple[Rating, bool]:
    """Store a rating."""
    trait = rated(body.trait)
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        require_between(body.score, trait.lowest, trait.highest, "score", label=trait.name)
        rating = Rating(
            id=rating_id,
            strip=strip,
            trait=trait.key,
            score=body.score,
            blind=body.blind,
            note=body.note.strip()[:200],
            recorded_at=when(body.recorded_at),
        )
        return keep(user, trial, rating, body.version)


def set_stand_line(user: User, workspace_id: UUID, crop: str, key: str, body: StandLineIn) -> Workspace:
    """Set a workspace's own threshold with its source; an empty value goes back to the default."""
    with transaction.atomic():
        workspace = workspace_for(user, workspace_id)
        require(user, workspace, "design")
        line = StandLine.objects.filter(workspace=workspace, crop=crop, key=key).first()
        value = parse(models.LINE, body.value)
        if value is None:
            if line is not None:
                line._history_user = user  # type: ignore[attr-defined]
                line.delete()
            return workspace
        thresholds_of(crop, {key: value})
        line = line or StandLine(workspace=workspace, crop=crop, key=key)
        fill(line, models.LINE, body.value)
        line.source = body.source.strip()[:120]
        if not line.source:
            raise Refusal("missing", field="source", label="The source", remedy="A threshold without one cannot be weighed.")
        save_as(line, user, "own threshold")
        return workspace
