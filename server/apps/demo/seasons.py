"""Seasons of the demo: places drawn, tapes run, plants dug, heights, ratings, photographs and weather."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any, cast

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image, ImageDraw

from apps.accounts.models import User, Workspace
from apps.base.quantities import TypedIn
from apps.demo.ground import Ground
from apps.demo.writing import Plan, at, begin, count, event, harvest, record_id, strips_of, typed
from apps.farms.models import Field, SeedLot
from apps.field.events.schemas import FieldEventIn
from apps.field.events.services import put_field_event
from apps.field.season.photos import put_photo
from apps.field.season.schemas import DugPlantIn, PhotoIn, PlantMeasureIn, RatingIn, TapeRunIn
from apps.field.season.services import put_dug_plant, put_plant_measure, put_rating, put_tape_run
from apps.field.stand.models import SamplingPlan
from apps.field.stand.sampling import put_sampling_plan
from apps.field.stand.schemas import SamplingPlanIn, StandCountIn
from apps.field.stand.services import put_stand_count
from apps.field.weather.schemas import StationIn
from apps.field.weather.services import set_station
from apps.trials.models import Strip, Trial
from apps.trials.queries import trial_for
from apps.trials.schemas import KeptIn
from apps.trials.sowing import keep_inputs

STATION_SEED = 41


def weather(lead: User, workspace: Workspace) -> None:
    """The simulated station by the weir."""
    set_station(lead, workspace.id, StationIn(kind="simulated", name="Gauge by the weir", seed=STATION_SEED))


def planned(user: User, trial: Trial, on: date, name: str, counts: int, *, length: str, rows: int) -> SamplingPlan:
    """Places drawn for a visit."""
    body = SamplingPlanIn(
        name=name, planned=counts, sample=typed(length, "m"), rows=str(rows), recorded_at=at(on, 0), end=typed("8", "m")
    )
    return put_sampling_plan(user, trial.id, record_id(trial, "plan", on.toordinal()), body)[0]


def measure(
    user: User, trial: Trial, trait: str, on: date, values: Sequence[str], strip: Strip, unit: str = "", **more: Any
) -> None:
    """Values of a trait on one strip."""
    for place, value in enumerate(values):
        put_plant_measure(
            user,
            trial.id,
            record_id(trial, f"{trait}{more.get('subject', '')}{on}", strip.order * 100 + place),
            PlantMeasureIn(strip_id=strip.id, trait=trait, value=typed(value, unit), recorded_at=at(on, strip.order), **more),
        )


def rate(user: User, trial: Trial, trait: str, on: date, strip: Strip, score: float, *, blind: bool = True) -> None:
    put_rating(
        user,
        trial.id,
        record_id(trial, f"{trait}{on}", strip.order),
        RatingIn(
            strip_id=strip.id,
            trait=trait,
            score=int(min(max(round(score), 1), 9)),
            blind=blind,
            recorded_at=at(on, strip.order),
        ),
    )


def wheat_season(tobin: User, trial: Trial, ground: Ground) -> None:
    """Autumn of the wheat rate trial: an early count, a full one under way, leaves, weeds, blind ratings, photographs."""
    count(tobin, trial, ground, date(2026, 10, 16), counts=3, length_m=1, rows=4, emergence=0.40)
    plan = planned(tobin, trial, date(2026, 11, 3), "Full count", 6, length="1", rows=4)
    count(tobin, trial, ground, date(2026, 11, 4), counts=6, length_m=1, rows=4, emergence=0.74, only=7, plan=plan)
    draw = np.random.default_rng(612)
    on = date(2026, 11, 5)
    for strip in strips_of(trial):
        dense = strip.received.position
        rate(tobin, trial, "stand", on, strip, 4 + 1.5 * dense + draw.normal(0, 0.5))
        measure(tobin, trial, "leaves", on, [str(int(2 + (draw.random() > 0.35))) for _ in range(4)], strip)
        measure(tobin, trial, "height", on, [f"{draw.normal(9.2, 0.8):.1f}" for _ in range(3)], strip, "cm")
        weeds: dict[str, Any] = {"area": typed("0.25", "m2"), "subject": "Chickweed"}
        measure(tobin, trial, "weeds", on, [str(draw.poisson(5 - dense))], strip, **weeds)
    for number, (order, words) in enumerate(((2, "Rows closing on the high side"), (5, "Outer row thin after the plug")), 1):
        strip = next(item for item in strips_of(trial) if item.order == order)
        photograph(tobin, trial, strip, on, words, rows=9 + 2 * number, seed=number)
    sprayed_yesterday(tobin, trial)


def sprayed_yesterday(user: User, trial: Trial) -> None:
    """A spray logged the day before the demo is loaded, so that its re-entry interval is seen running."""
    on = timezone.localdate() - timedelta(days=1)
    put_field_event(
        user,
        trial.id,
        record_id(trial, "event", 999_999),
        FieldEventIn(
            kind="spray",
            happened_on=on,
            text="Herbicide against chickweed, all strips alike.",
            reentry_hours=48,
            recorded_at=timezone.now(),
        ),
    )


def maize_season(tobin: User, trial: Trial) -> None:
    """Tapes and blind ratings of the maize rate trial: the eye saw a thin stand where the ground was covered all the same."""
    draw = np.random.default_rng(77)
    for strip in strips_of(trial):
        dense = strip.received.position
        level = strip.received.levels.get()
        wanted_cm = 1e4 / (level.amount.value or 8) / 75
        tape(tobin, trial, strip, date(2026, 5, 26), wanted_cm, uneven=0.2 + 0.03 * dense, skips=0.05, doubles=0.03, draw=draw)
        rate(tobin, trial, "weediness", date(2026, 6, 15), strip, 6 - dense + draw.normal(0, 0.5))
        weeds: dict[str, Any] = {"area": typed("0.5", "m2"), "subject": "Fat hen"}
        measure(tobin, trial, "weeds", date(2026, 6, 16), [str(draw.poisson(6)) for _ in range(2)], strip, **weeds)
        covered = [f"{draw.normal(62 + 2 * dense, 3):.0f}"]
        measure(tobin, trial, "canopy", date(2026, 6, 16), covered, strip)
        measure(tobin, trial, "height", date(2026, 7, 20), [f"{draw.normal(238, 9):.0f}" for _ in range(3)], strip, "cm")
    event(tobin, trial, "leak", date(2026, 6, 3), "Boom nozzle leaked while turning.", (4, 5))


def tape(
    user: User,
    trial: Trial,
    strip: Strip,
    on: date,
    wanted_cm: float,
    *,
    uneven: float,
    skips: float,
    doubles: float,
    draw: np.random.Generator,
) -> None:
    """Thirty plants on a tape of a made-up planter."""
    position, positions = 0.0, [0.0]
    while len(positions) < 30:
        gap = wanted_cm * max(draw.normal(1, uneven), 0.55)
        chance = draw.random()
        gap = gap * 2 if chance < skips else gap * 0.2 if chance > 1 - doubles else gap
        position += gap
        positions.append(position)
    put_tape_run(
        user,
        trial.id,
        record_id(trial, "tape", strip.order),
        TapeRunIn(
            strip_id=strip.id,
            reference=typed(f"{wanted_cm:.1f}", "cm"),
            positions=[f"{value:.0f}" for value in positions],
            positions_unit="cm",
            recorded_at=at(on, strip.order),
        ),
    )


def photograph(user: User, trial: Trial, strip: Strip, on: date, caption: str, *, rows: int, seed: int) -> None:
    """A drawn picture of rows running to the horizon, kept as a photograph is."""
    draw = np.random.default_rng(seed)
    picture = Image.new("RGB", (960, 640), "#cfdde6")
    pen = ImageDraw.Draw(picture)
    pen.rectangle([0, 230, 960, 640], fill="#6f5a41")
    for row in range(-rows, rows + 1):
        for step in range(60):
            depth = (step / 60) ** 2
            x, y = 480 + row * (14 + 120 * depth), 232 + 400 * depth
            size = 1 + 9 * depth
            if 0 <= x < 960 and draw.random() > 0.12:
                shade = int(120 + 60 * draw.random())
                pen.ellipse([x - size, y - 1.6 * size, x + size, y], fill=(60, shade, 50))
    handle = io.BytesIO()
    picture.save(handle, "JPEG")
    file = SimpleUploadedFile("strip.jpg", handle.getvalue(), content_type="image/jpeg")
    body = PhotoIn(strip_id=strip.id, caption=caption, recorded_at=at(on, strip.order))
    put_photo(user, trial.id, record_id(trial, "photo", strip.order), body, file)


def lucerne(people: dict[str, User], workspace: Workspace, fields: dict[str, Field], lot: SeedLot) -> None:
    """A three-year-old lucerne stand by seeding rate: thinned to the same stand whatever was sown, now dug before winter."""
    lead, tobin = people["ilse"], people["tobin"]
    planted = date(2024, 4, 11)
    trial = begin(
        lead,
        workspace,
        fields,
        Plan(
            key="lucerne",
            title="Lucerne seeding rate, third year",
            crop="lucerne",
            season=2026,
            field="Long Terrace",
            seed=2204,
            blocks=4,
            control=1,
            question="Does a thick sowing of lucerne keep more plants into the third year?",
            guess="No: it thins itself to the same stand by the first autumn.",
            factor="seeding_rate",
            levels=(("450", "/m2", ""), ("650", "/m2", "0"), ("900", "/m2", "")),
            row_spacing="12.5",
            price="180",
            unit_cost="22",
            practical="400",
            strip_length="150",
            planted=planted,
            emergence="62",
            depth="1",
        ),
        lot,
    )
    stands = (
        (date(2024, 4, 22), (150, 215, 300)),
        (date(2024, 5, 6), (285, 410, 560)),
        (date(2024, 10, 14), (262, 318, 342)),
        (date(2025, 4, 20), (205, 222, 228)),
        (date(2026, 4, 18), (104, 109, 112)),
        (date(2026, 10, 20), (70, 72, 74)),
    )
    draw = np.random.default_rng(2204)
    for day, means in stands:
        count_frames(tobin, trial, day, means, draw)
    dig(tobin, trial, draw)
    ground = Ground(mean_kg_per_ha=11_200, cv=0.05, slope=0.06, seed=2204)
    harvest(tobin, trial, ground, (-160, 0, 90), date(2026, 8, 30), swath="4", moisture=17.0)
    event(tobin, trial, "cut", date(2026, 6, 8), "Second cut, all strips on one day.")
    event(tobin, trial, "cut", date(2026, 8, 30), "Last cut; left standing since.")


def dig(tobin: User, trial: Trial, draw: np.random.Generator) -> None:
    """Five plants a strip, dug before winter."""
    for strip in strips_of(trial):
        for place in range(5):
            health = draw.choice(["firm", "firm", "firm", "doubtful", "dead"])
            shoots = None if health == "dead" else int(draw.poisson(9 if health == "firm" else 5))
            put_dug_plant(
                tobin,
                trial.id,
                record_id(trial, "dug", strip.order * 10 + place),
                DugPlantIn(
                    strip_id=strip.id,
                    health=cast(Any, str(health)),
                    shoots=shoots,
                    recorded_at=at(date(2026, 10, 21), strip.order),
                ),
            )


def count_frames(user: User, trial: Trial, on: date, means: Sequence[float], draw: np.random.Generator) -> None:
    """Two frames of a quarter square metre on every strip."""
    for strip in strips_of(trial):
        local = means[strip.received.position] * draw.normal(1, 0.05)
        for place in range(2):
            put_stand_count(
                user,
                trial.id,
                record_id(trial, f"frame{on}", strip.order * 10 + place),
                StandCountIn(
                    strip_id=strip.id,
                    method="quadrat",
                    plants=str(int(draw.poisson(local * 0.25))),
                    area=typed("0.25", "m2"),
                    recorded_at=at(on, strip.order * 3 + place),
                ),
            )


def keep_or_replant(lead: User, trial: Trial, **values: tuple[str, str]) -> None:
    """What sowing again would cost, kept with the trial."""
    trial = trial_for(lead, trial.id)
    typed_values = {name: TypedIn(text=text, unit=unit) for name, (text, unit) in values.items()}
    keep_inputs(lead, trial.id, KeptIn(version=trial.version, calculator="keep_or_replant", values=typed_values))
