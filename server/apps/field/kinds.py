"""Every kind of record, described once: the list that a new kind is added to."""

from __future__ import annotations

from apps.field.events.models import FieldEvent
from apps.field.harvest.models import HarvestLoad
from apps.field.logs.models import YieldLog
from apps.field.planting.models import Calibration, DepthCheck, Deviation, PlantingRecord, SeedbedCheck, TillagePass
from apps.field.planting.services import deviation_voided, planting_record_voided
from apps.field.samples.models import GrainSample, YieldSample
from apps.field.season.models import DugPlant, Photo, PlantMeasure, Rating, TapeRun
from apps.field.stand.models import SamplingPlan, StandCount
from apps.records.kinds import Kind, register

# In the order in which a package is read: what a record names comes before it.
register(
    Kind(name="calibration", model=Calibration, home="workspace", table="calibrations"),
    Kind(
        name="planting-record",
        model=PlantingRecord,
        home="strip",
        tallied="planting",
        table="planting_records",
        after_void=planting_record_voided,
    ),
    Kind(name="depth-check", model=DepthCheck, home="strip", tallied="planting", table="depth_checks"),
    Kind(name="deviation", model=Deviation, home="strip", tallied="planting", table="deviations", after_void=deviation_voided),
    Kind(name="seedbed-check", model=SeedbedCheck, home="trial", tallied="planting", table="seedbed_checks"),
    Kind(name="tillage-pass", model=TillagePass, home="trial", table="tillage_passes", many=("strips",)),
    Kind(name="sampling-plan", model=SamplingPlan, home="trial", table="sampling_plans"),
    Kind(name="stand-count", model=StandCount, home="strip", tallied="counts", table="stand_counts"),
    Kind(name="tape-run", model=TapeRun, home="strip", tallied="season", table="tape_runs"),
    Kind(name="dug-plant", model=DugPlant, home="strip", tallied="season", table="dug_plants"),
    Kind(name="plant-measure", model=PlantMeasure, home="strip", tallied="season", table="plant_measures"),
    Kind(name="rating", model=Rating, home="strip", tallied="season", table="ratings"),
    Kind(name="field-event", model=FieldEvent, home="trial", table="field_events", many=("strips",)),
    Kind(name="yield-sample", model=YieldSample, home="strip", tallied="season", table="yield_samples"),
    Kind(name="grain-sample", model=GrainSample, home="trial", tallied="season", table="grain_samples"),
    Kind(name="harvest-load", model=HarvestLoad, home="strip", tallied="loads", table="harvest_loads"),
    Kind(name="yield-log", model=YieldLog, home="trial", table="yield_logs"),
    Kind(name="photo", model=Photo, home="strip", tallied="season"),
)
