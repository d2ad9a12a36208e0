"""The demo: a made-up circle of four farms with trials at different stages of the season.

Everything is written through the services, as a person would, with numbers drawn from fixed seeds.
"""

from __future__ import annotations

from datetime import date
from uuid import UUID

from django.db import transaction

from apps.accounts.models import Installation, Membership, User, Workspace
from apps.accounts.people import reach_farms
from apps.demo import money, places, sowing
from apps.demo.desk import desk
from apps.demo.estimates import maize_ears, stubble, sunflower_discs, wheat_heads
from apps.demo.ground import Ground
from apps.demo.logs import wheat_log
from apps.demo.planting_days import sorghum_planted, wheat_depth, wheat_rate_planted, wide_sorghum
from apps.demo.seasons import keep_or_replant, lucerne, maize_season, weather, wheat_season
from apps.demo.tillage import maize_tillage_harvested, maize_tillage_planned
from apps.demo.writing import Plan, begin, count, event, harvest, strips_of, typed
from apps.farms.models import Field, SeedLot
from apps.jobs.services import ReportProgress
from apps.trials.models import Trial
from apps.trials.queries import trial_for
from apps.trials.schemas import (
    StripPatchIn,
    TrialPatchIn,
)
from apps.trials.services import add_trial, edit_trial, mark_strip

NAME = "Tamsin Vale Growers' Circle"
PASSWORD = "terrace-demo-2026"
LEAD = "ilse"


PEOPLE = (
    (LEAD, "Ilse", "Varnholt", "owner", ""),
    ("maren", "Maren", "Ostler", "adviser", ""),
    ("tobin", "Tobin", "Esker", "field_hand", ""),
    ("pell", "Pell", "Arrowby", "grower", "Quillbrook"),
    ("odette", "Odette", "Quill", "reader", ""),
)


def load() -> Workspace:
    """Write the demo with its accounts, into a database of nobody else; returns its workspace."""
    with transaction.atomic():
        Installation.objects.update_or_create(pk=1, defaults={"demo": True})
        workspace = Workspace.objects.create(name=NAME, currency="€")
        people = {}
        for username, first, last, role, farm in PEOPLE:
            person = User.objects.create_user(username, password=PASSWORD, first_name=first, last_name=last)
            reach_farms(Membership.objects.create(user=person, workspace=workspace, role=role), [farm] if farm else [])
            people[username] = person
        fill(workspace, people)
    return workspace


def fill(workspace: Workspace, people: dict[str, User], report_progress: ReportProgress = lambda *_: None) -> None:
    """Write fields, trials and records into a workspace, as its people; ``report_progress`` hears how far it is."""
    lead = people[LEAD]
    report_progress(0.05, "Fields, machines and seed.")
    fields = {field.name: field for field in places.fields_of(lead, workspace)}
    machines, lots = places.machines_of(lead, workspace), sowing.lots(lead, workspace)
    report_progress(0.1, "Three years of wheat.")
    for year, effects, seed in ((2024, (400, 180, 0), 11), (2025, (290, 110, 0), 12), (2026, (430, 210, 0), 13)):
        width = _wheat_width(lead, workspace, fields, lots[f"TG-{year - 2000}"], year, effects, seed)
    money.prices(lead, workspace)
    money.scenarios(lead, width, "158", "247")
    report_progress(0.4, "A log of the combine.")
    wheat_log(lead, width, machines["Header 5.4 m"], date(2026, 7, 24))
    report_progress(0.5, "Sorghum and sunflower.")
    _sorghum(people, workspace, fields, lots["AM-7"], machines)
    _sunflower(lead, workspace, fields, lots["NF-3"])
    _sunflower_rates(lead, workspace, fields, lots["NF-3"])
    report_progress(0.65, "Maize and wheat of this season.")
    _maize_rate(people, workspace, fields, lots["LE-88"])
    _wheat_rate(people, workspace, fields, lots["ST-11"], machines)
    money.scenarios(lead, maize_tillage_harvested(lead, workspace, fields), "150", "231")
    maize_tillage_planned(lead, workspace, fields, lots["LE-88"], machines)
    report_progress(0.85, "Depth, peas, lucerne, weather.")
    wheat_depth(people, workspace, fields, lots["TG-26"], machines)
    wide_sorghum(lead, workspace, fields, lots)
    _pea(lead, workspace)
    lucerne(people, workspace, fields, lots["VB-5"])
    weather(lead, workspace)
    desk(people, workspace, lots)


def _wheat_width(
    lead: User,
    workspace: Workspace,
    fields: dict[str, Field],
    lot: SeedLot,
    year: int,
    effects: tuple[int, int, int],
    seed: int,
) -> Trial:
    trial = begin(
        lead,
        workspace,
        fields,
        Plan(
            key=f"width{year}",
            title=f"Row width in winter wheat {year}",
            crop="winter_wheat",
            season=year,
            field="Long Terrace",
            series="Wheat row width",
            seed=4100 + seed,
            blocks=5,
            control=2,
            factor="row_spacing",
            question="Do narrower rows than our 25 cm yield more wheat on the terrace, and do they pay?",
            guess="Narrow rows give 0.2 t/ha more; the tyre marks eat some of it.",
            levels=(("12.5", "cm", "22"), ("18", "cm", "12"), ("25", "cm", "0")),
            rate=("320", "/m2"),
            planted=date(year - 1, 10, 9),
            emergence="78",
        ),
        lot,
    )
    ground = Ground(mean_kg_per_ha=6900 + 140 * (year - 2024), cv=0.020, slope=0.10, seed=seed)
    count(lead, trial, ground, date(year - 1, 11, 3), counts=4, length_m=1, rows=4, emergence=0.78)
    event(lead, trial, "frost", date(year, 3, 2), "Minus nine at ground level for two nights, no snow on it.")
    event(lead, trial, "spray", date(year, 4, 18), "Same herbicide and date on all strips; tramlines every 24 m.")
    wheat_heads(lead, trial, year, effects, over=(1.09, 1.13, 1.08)[year - 2024])
    harvest(lead, trial, ground, effects, date(year, 7, 24), swath="5.4", moisture=13.9)
    if year == 2026:
        stubble(lead, trial)
    return trial


def _sorghum(
    people: dict[str, User], workspace: Workspace, fields: dict[str, Field], lot: SeedLot, machines: dict[str, UUID]
) -> None:
    trial = begin(
        people[LEAD],
        workspace,
        fields,
        Plan(
            key="sorghum",
            title="Sorghum seeding rate",
            crop="sorghum",
            season=2026,
            field="Kiln Bank",
            seed=7021,
            blocks=5,
            control=2,
            question="Can we sow fewer sorghum seeds on the gravel terrace without losing yield?",
            guess="180 thousand is enough; 300 only costs seed.",
            factor="seeding_rate",
            amounts_by="curve",
            levels=(("180", "k/ha", ""), ("240", "k/ha", ""), ("300", "k/ha", "0"), ("360", "k/ha", "")),
            row_spacing="50",
            price="188",
            unit_cost="16",
            practical="150",
            strip_length="340",
            planted=date(2026, 5, 14),
            emergence="72",
            depth="3.5",
        ),
        lot,
    )
    sorghum_planted(people["tobin"], trial, machines["Drill 6 m"])
    gone = next(strip for strip in strips_of(trial) if strip.order == 14)
    trial = trial_for(people[LEAD], trial.id)
    ground = Ground(mean_kg_per_ha=6350, cv=0.042, slope=0.14, seed=31)
    count(people["tobin"], trial, ground, date(2026, 6, 2), counts=5, length_m=5, rows=2, emergence=0.72)
    mark_strip(people[LEAD], gone.id, StripPatchIn(lost=True, sown_treatment_id=None, reason="washed out by the June storm"))
    event(
        people["tobin"],
        trial,
        "rain",
        date(2026, 6, 19),
        "Cloudburst, 62 mm in an hour; water ran across the low end.",
        (13, 14, 15),
    )
    event(people["tobin"], trial, "weeds", date(2026, 7, 6), "Millet between rows where the stand is thin.", (3, 9))
    harvest(people["tobin"], trial, ground, (-250, -20, 0, 30), date(2026, 10, 6), swath="5.0", moisture=15.6)


def _sunflower_rates(lead: User, workspace: Workspace, fields: dict[str, Field], lot: SeedLot) -> None:
    """Five rates around what the farm sows: the curve turns inside them."""
    trial = begin(
        lead,
        workspace,
        fields,
        Plan(
            key="sunflower rates",
            title="Sunflower seeding rate",
            crop="sunflower",
            season=2025,
            field="Ferry Ground",
            seed=325,
            blocks=4,
            control=2,
            question="Which rate of sunflower pays best at 75 cm rows?",
            guess="Fifty thousand would do.",
            factor="seeding_rate",
            amounts_by="curve",
            levels=(("40", "k/ha", ""), ("50", "k/ha", ""), ("60", "k/ha", "0"), ("70", "k/ha", ""), ("80", "k/ha", "")),
            row_spacing="75",
            price="430",
            unit_cost="20",
            practical="120",
            strip_width="4.5",
            strip_length="320",
            planted=date(2025, 4, 24),
            emergence="86",
        ),
        lot,
    )
    ground = Ground(mean_kg_per_ha=2920, cv=0.030, slope=0.08, seed=325)
    harvest(lead, trial, ground, (-560, -190, 0, 10, -130), date(2025, 9, 18), swath="4.5", moisture=9.2)


def _sunflower(lead: User, workspace: Workspace, fields: dict[str, Field], lot: SeedLot) -> None:
    trial = begin(
        lead,
        workspace,
        fields,
        Plan(
            key="sunflower",
            title="Sunflower at half the row width",
            crop="sunflower",
            season=2026,
            field="Ferry Ground",
            seed=311,
            blocks=1,
            design="unreplicated",
            control=1,
            question="How do sunflowers look at 37.5 cm rows drilled with the cereal drill?",
            guess="Even ground cover, smaller heads, about the same yield.",
            factor="row_spacing",
            levels=(("37.5", "cm", "-18"), ("75", "cm", "0")),
            rate=("60", "k/ha"),
            price="430",
            unit_cost="20",
            practical="120",
            strip_width="12",
            strip_length="320",
            planted=date(2026, 4, 22),
            emergence="86",
        ),
        lot,
    )
    ground = Ground(mean_kg_per_ha=2850, cv=0.05, slope=0.08, seed=41)
    count(lead, trial, ground, date(2026, 5, 20), counts=5, length_m=10, rows=2, emergence=0.86)
    event(lead, trial, "note", date(2026, 7, 1), "Rows closed nine days earlier at 37.5 cm.")
    sunflower_discs(lead, trial)
    harvest(lead, trial, ground, (60, 0), date(2026, 9, 15), swath="9", moisture=8.4)


def _maize_rate(people: dict[str, User], workspace: Workspace, fields: dict[str, Field], lot: SeedLot) -> None:
    trial = begin(
        people[LEAD],
        workspace,
        fields,
        Plan(
            key="maize",
            title="Maize seeding rate on Upper Step",
            crop="maize",
            season=2026,
            field="Upper Step",
            seed=9902,
            blocks=4,
            control=1,
            question="Does 90 thousand pay over the 78 thousand we sow now?",
            guess="It does in a wet year, and this one was not.",
            factor="seeding_rate",
            levels=(("66", "k/ha", ""), ("78", "k/ha", "0"), ("90", "k/ha", "")),
            row_spacing="75",
            price="192",
            unit_cost="24",
            practical="200",
            strip_length="380",
            planted=date(2026, 4, 28),
            emergence="93",
        ),
        lot,
    )
    ground = Ground(mean_kg_per_ha=10400, cv=0.035, slope=-0.09, seed=51)
    count(people["tobin"], trial, ground, date(2026, 5, 25), counts=5, length_m=13.33, rows=1, emergence=0.93)
    event(
        people["tobin"],
        trial,
        "lodging",
        date(2026, 10, 21),
        "A few broken stalks at the headland end of the thick strips.",
        (2, 5),
    )
    maize_season(people["tobin"], trial)
    maize_ears(people["tobin"], trial)
    harvest(people["tobin"], trial, ground, (-520, 0, 160), date(2026, 11, 23), swath="4.5", moisture=21.4, only=7)


def _wheat_rate(
    people: dict[str, User], workspace: Workspace, fields: dict[str, Field], lot: SeedLot, machines: dict[str, UUID]
) -> None:
    trial = begin(
        people[LEAD],
        workspace,
        fields,
        Plan(
            key="wheatrate",
            title="Wheat seeding rate after peas",
            crop="winter_wheat",
            season=2027,
            field="Mill Reach",
            seed=5150,
            blocks=4,
            control=1,
            question="Sown early after peas, can we go down to 220 seeds/m²?",
            guess="Yes, if the slugs let us.",
            factor="seeding_rate",
            levels=(("220", "/m2", ""), ("300", "/m2", "0"), ("380", "/m2", "")),
            row_spacing="15",
            planted=date(2026, 10, 2),
            emergence="80",
            survival="92",
            depth="3.5",
        ),
        lot,
    )
    wheat_rate_planted(people["tobin"], workspace, trial, lot, machines["Drill 6 m"])
    wheat_season(people["tobin"], trial, Ground(mean_kg_per_ha=7200, cv=0.03, slope=0.07, seed=61))
    keep_or_replant(
        people[LEAD],
        trial,
        wanted=("250", "plants/m2"),
        full_yield=("7.2", "t/ha"),
        worth=("194", "money/t"),
        days_late=("21", ""),
        seed=("68", "money/ha"),
        passes=("62", "money/ha"),
    )
    event(people["tobin"], trial, "pests", date(2026, 10, 28), "Slug grazing on the low side; bait by the label on all strips.")


def _pea(lead: User, workspace: Workspace) -> None:
    trial = add_trial(lead, workspace.id, title="How deep for field peas?", crop_key="field_pea", season=2027)
    edit_trial(
        lead,
        trial.id,
        TrialPatchIn(
            version=trial.version,
            question="Is 7 cm worth the slower drilling on the light terrace, against our 5 cm?",
            price=typed("265", "money/t"),
            unit_cost=typed("14", "money/t"),
        ),
    )
