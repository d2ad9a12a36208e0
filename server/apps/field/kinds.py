"""Every kind of record, described once: the list that a new kind is added to."""

from __future__ import annotations

from apps.field.events.models import FieldEvent
from apps.field.harvest.models import HarvestLoad
from apps.field.logs.models import YieldLog
from apps.field.planting.models import Calibration, DepthCheck, Deviation, PlantingRecord, SeedbedCheck, TillagePass
from apps.field.planting.services import deviation_voided, planting_record_voided
from apps.field.readings.models import READING_DEPTH, RESISTANCE, PenetrometerReading
from apps.field.samples.models import GrainSample, YieldSample
from apps.field.season.models import DugPlant, Photo, PlantMeasure, Rating, TapeRun
from apps.field.stand.models import SamplingPlan, StandCount
from apps.field.visits.models import JoinedVisit
from apps.records.kinds import Entry, Kind, register

# In the order in which a package is read: what a record names comes before it.
register(
    Kind(name="calibration", words="Calibration", model=Calibration, home="workspace"),
    Kind(
        name="planting-record",
        words="Sowing",
        model=PlantingRecord,
        home="strip",
        tallied="planting",
        task="sowing",
        shown_in=("planting", "records"),
        after_void=planting_record_voided,
    ),
    Kind(
        name="depth-check",
        words="Seeding depth",
        model=DepthCheck,
        home="strip",
        tallied="planting",
        task="depth",
        shown_in=("planting", "depths"),
    ),
    Kind(
        name="deviation",
        words="Deviation from plan",
        model=Deviation,
        home="strip",
        tallied="planting",
        task="deviation",
        shown_in=("planting", "deviations"),
        after_void=deviation_voided,
    ),
    Kind(name="seedbed-check", words="Seedbed check", model=SeedbedCheck, home="trial", tallied="planting"),
    Kind(name="tillage-pass", words="Tillage pass", plural="tillage-passes", model=TillagePass, home="trial", many=("strips",)),
    Kind(name="sampling-plan", words="Sampling plan", model=SamplingPlan, home="trial"),
    Kind(name="joined-visit", words="Days of one visit", model=JoinedVisit, home="trial"),
    Kind(
        name="stand-count",
        words="Stand count",
        model=StandCount,
        home="strip",
        tallied="counts",
        task="count",
        shown_in=("stand", "counts"),
    ),
    Kind(
        name="tape-run",
        words="Spacing along the row",
        model=TapeRun,
        home="strip",
        tallied="season",
        task="tape",
        shown_in=("scouting", "tapes"),
    ),
    Kind(
        name="dug-plant",
        words="Dug plant",
        model=DugPlant,
        home="strip",
        tallied="season",
        task="dug",
        shown_in=("scouting", "dug"),
    ),
    Kind(
        name="plant-measure",
        words="Measurement",
        model=PlantMeasure,
        home="strip",
        tallied="season",
        task="measure",
        shown_in=("scouting", "measures"),
    ),
    Kind(
        name="rating",
        words="Rating",
        model=Rating,
        home="strip",
        tallied="season",
        task="rating",
        shown_in=("scouting", "ratings"),
    ),
    Kind(
        name="penetrometer-reading",
        words="Soil resistance",
        model=PenetrometerReading,
        home="strip",
        tallied="season",
        task="soil",
        shown_in=("readings", "readings"),
        button="Soil",
        hint="Push steadily, between rows and off the wheel tracks, when the soil is moist to the depth read.",
        entries=(
            Entry(quantity=RESISTANCE, low=0, high=15_000, usual=(100, 6_000)),
            Entry(quantity=READING_DEPTH, low=0.01, high=1.5, apart=True),
        ),
    ),
    Kind(
        name="field-event",
        words="Note",
        model=FieldEvent,
        home="trial",
        many=("strips",),
        task="event",
        shown_in=("events", ""),
    ),
    Kind(
        name="yield-sample",
        words="Yield sample",
        model=YieldSample,
        home="strip",
        tallied="season",
        task="yield",
        shown_in=("estimates", "samples"),
    ),
    Kind(name="grain-sample", words="Grain sample", model=GrainSample, home="trial", tallied="season"),
    Kind(
        name="harvest-load",
        words="Harvest load",
        model=HarvestLoad,
        home="strip",
        tallied="loads",
        task="load",
        shown_in=("harvest", "loads"),
    ),
    Kind(name="yield-log", words="Yield log", model=YieldLog, home="trial"),
    Kind(
        name="photo",
        words="Photograph",
        model=Photo,
        home="strip",
        tallied="season",
        packaged=False,
        task="photo",
        shown_in=("scouting", "photos"),
    ),
)
