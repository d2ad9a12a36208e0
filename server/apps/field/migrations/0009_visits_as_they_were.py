"""Until now days that followed each other closely were one visit by themselves. What was so is written down as joined by
hand, so that no table of a trial that stands changes; anybody may take it back."""

from __future__ import annotations

import uuid
from datetime import date, timedelta

from django.db import migrations
from django.utils import timezone

GAP_DAYS = {"yield": 10}
NOTE = "Joined as it was before days were joined by hand"


def chained(days: dict[date, set], gap: int) -> list[list[date]]:
    """Days as they were put together: no more than the gap between them, no strip on two of them."""
    visits: list[list[date]] = []
    seen: set = set()
    for day in sorted(days):
        if visits and (day - visits[-1][-1]).days <= gap and not seen & days[day]:
            visits[-1].append(day)
            seen |= days[day]
        else:
            visits.append([day])
            seen = set(days[day])
    return visits


def merged(spans: list[tuple[date, date]]) -> list[tuple[date, date]]:
    result: list[tuple[date, date]] = []
    for first, last in sorted(spans):
        if result and first <= result[-1][1]:
            result[-1] = (result[-1][0], max(last, result[-1][1]))
        else:
            result.append((first, last))
    return [span for span in result if span[1] - span[0] < timedelta(days=31)]


def write_down(apps, schema_editor) -> None:
    joined, history = apps.get_model("records", "JoinedVisit"), apps.get_model("records", "HistoricalJoinedVisit")
    sources = [
        ("count", "records", "StandCount", ()),
        ("tape", "scouting", "TapeRun", ()),
        ("dug", "scouting", "DugPlant", ()),
        ("measure", "scouting", "PlantMeasure", ("trait", "subject")),
        ("rating", "scouting", "Rating", ("trait",)),
        ("reading", "records", "PenetrometerReading", ("depth_m",)),
        ("yield", "estimates", "YieldSample", ("method",)),
    ]
    trials = apps.get_model("trials", "Trial").objects.in_bulk()
    now = timezone.now()
    for task, label, name, parts in sources:
        groups: dict[tuple, dict[date, set]] = {}
        rows = apps.get_model(label, name).objects.filter(voided=False)
        for trial_id, strip_id, at, *rest in rows.values_list("strip__trial_id", "strip_id", "recorded_at", *parts):
            groups.setdefault((trial_id, *rest), {}).setdefault(at.date(), set()).add(strip_id)
        spans: dict = {}
        for (trial_id, *_), days in groups.items():
            of_trial = spans.setdefault(trial_id, [])
            of_trial += [(visit[0], visit[-1]) for visit in chained(days, GAP_DAYS.get(task, 3)) if len(visit) > 1]
        for trial_id, of_trial in spans.items():
            for first, last in merged(of_trial):
                columns = {
                    "id": uuid.uuid4(),
                    "trial_id": trial_id,
                    "task": task,
                    "first_on": first,
                    "last_on": last,
                    "note": NOTE,
                    "recorded_at": now,
                    "recorded_by_id": trials[trial_id].created_by_id,
                }
                joined.objects.create(**columns)
                history.objects.create(
                    **columns, received_at=now, history_date=now, history_type="+", history_change_reason="recorded"
                )


class Migration(migrations.Migration):
    dependencies = [
        ("records", "0008_joined_visits"),
        ("scouting", "0004_own_crops"),
        ("estimates", "0004_own_crops"),
    ]
    operations = [migrations.RunPython(write_down, migrations.RunPython.noop)]
