"""Setting the weather station of a workspace and reading daily weather from a file."""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from cultrix_core.errors import require_between
from cultrix_core.season.heat_units import Day
from cultrix_core.season.weather import read_weather
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.audit.services import note
from apps.base.errors import Conflict
from apps.field.weather.models import Station, WeatherDay
from apps.field.weather.schemas import StationIn
from apps.intake.quota import admit
from apps.intake.services import name_of, text_in


def set_station(user: User, workspace_id: UUID, body: StationIn) -> Workspace:
    """Say where weather comes from; days already read from files stay."""
    with transaction.atomic():
        workspace = workspace_for(user, workspace_id)
        require(user, workspace, "design")
        station = Station.objects.filter(workspace=workspace).first() or Station(workspace=workspace, version=0)
        if body.version != station.version:
            raise Conflict(
                "stale", "The station was changed elsewhere meanwhile. Look at it again.", {"version": station.version}
            )
        station.kind = body.kind
        station.name = body.name.strip()[:80] or dict(Station.KINDS)[body.kind]
        station.seed = int(require_between(body.seed, 0, 2**31 - 1, "seed", label="Number of the station"))
        station.southern = body.southern
        station.version += 1
        save_as(station, user, "station set")
        return workspace


def put_weather_file(user: User, workspace_id: UUID, file: UploadedFile) -> Workspace:
    """Take in a file of daily weather, all of it or nothing; days that are there already are replaced."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "record")
    admit(user, workspace, "weather", file.size or 0)
    text = text_in(file, remedy="Twenty years of days are far smaller; is it the right file?")
    days = read_weather(text)
    with transaction.atomic():
        station, _ = Station.objects.get_or_create(
            workspace=workspace, defaults={"kind": "file", "name": name_of(file, "File")}
        )
        station.kind = "file"
        station.version += 1
        save_as(station, user, f"{len(days)} days read")
        note(
            user,
            "weather",
            f"read {len(days)} days of weather from {name_of(file, 'a file')}",
            workspace=workspace,
            before=_days(station.days.filter(on__gte=days[0].on, on__lte=days[-1].on) if days else ()),
            after=_days(days),
        )
        keep_days(station, days)
    return workspace


def _days(days: Iterable[WeatherDay | Day]) -> dict[str, str]:
    """Span, heat and rain of days, by month: what a file changed, without a line for each of them."""
    months: dict[str, list[WeatherDay | Day]] = {}
    for day in days:
        months.setdefault(f"{day.on:%Y-%m}", []).append(day)
    return {
        month: f"{len(rows)} days, {sum(row.min_c + row.max_c for row in rows) / 2 / len(rows):.1f} °C, "
        f"{sum(row.rain_mm for row in rows):.1f} mm"
        for month, rows in months.items()
    }


def keep_days(station: Station, days: tuple[Day, ...]) -> None:
    """Store days, replacing those of the same date."""
    WeatherDay.objects.bulk_create(
        [
            WeatherDay(station=station, on=day.on, min_c=day.min_c, max_c=day.max_c, rain_mm=day.rain_mm, soil_c=day.soil_c)
            for day in days
        ],
        update_conflicts=True,
        unique_fields=["station", "on"],
        update_fields=["min_c", "max_c", "rain_mm", "soil_c"],
    )
