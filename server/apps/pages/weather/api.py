"""Weather of a workspace: station, file, visits due, calendar."""

from typing import Any, cast
from uuid import UUID

from cultrix_core.season.heat_units import WAYS, Day, heat_profile, heat_sum
from cultrix_core.season.schedule import WET_MM, Due, wet_mm
from cultrix_core.season.weather import write_weather
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.writing import written_day, written_strips
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import File, Router
from ninja.files import UploadedFile

from apps.accounts.models import Workspace
from apps.accounts.queries import actor, formatter_for, workspace_for
from apps.base.formatting import shown, shown_value
from apps.field.tasks.services import open_tasks
from apps.field.weather import queries as weather_queries
from apps.field.weather import services
from apps.field.weather.schemas import DayOut, ScheduleOut, StationIn, StationOut, VisitDueOut
from apps.pages.weather import calendar
from apps.trial_state import visits
from apps.trial_state.listing import listed
from apps.trial_state.progress import with_days_done
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["weather"])
RECENT = 14


def _rain(mm: float, show: UnitFormatter) -> str:
    return show.text(mm / 1000, "rain")


def _station_out(request: HttpRequest, workspace: Workspace) -> StationOut:
    show = formatter_for(actor(request), workspace)
    station = weather_queries.station_of(workspace)
    today = timezone.localdate()
    days = weather_queries.days_of(workspace, today=today)
    wet = wet_mm(days, today)
    return StationOut(
        kind=cast(Any, station.kind) if station else None,
        name=station.name if station else "",
        seed=station.seed if station else 1,
        southern=bool(station and station.southern),
        version=station.version if station else 0,
        days=len(days),
        first=days[0].on if days else None,
        last=days[-1].on if days else None,
        recent=[_day_out(day, show) for day in days[-RECENT:]],
        wet=f"{_rain(wet, show)} since yesterday: too wet to enter" if wet > WET_MM else "",
    )


def _day_out(day: Day, show: UnitFormatter) -> DayOut:
    return DayOut(
        on=day.on,
        min=shown_value(day.min_c, "temperature", show),
        max=shown_value(day.max_c, "temperature", show),
        rain=_rain(day.rain_mm, show),
        soil=shown(day.soil_c, "temperature", show),
    )


@router.get("/workspaces/{workspace_id}/station", response=StationOut, operation_id="station")
def station(request: HttpRequest, workspace_id: UUID):
    return _station_out(request, workspace_for(actor(request), workspace_id))


@router.put("/workspaces/{workspace_id}/station", response=StationOut, operation_id="set_station")
def set_station(request: HttpRequest, workspace_id: UUID, body: StationIn):
    return _station_out(request, services.set_station(actor(request), workspace_id, body))


@router.post("/workspaces/{workspace_id}/weather-file", response=StationOut, operation_id="put_weather_file")
def put_weather_file(request: HttpRequest, workspace_id: UUID, file: File[UploadedFile]):
    return _station_out(request, services.put_weather_file(actor(request), workspace_id, file))


@router.get("/workspaces/{workspace_id}/weather.csv", operation_id="weather_csv", response={200: None})
def weather_csv(request: HttpRequest, workspace_id: UUID):
    days = weather_queries.days_of(workspace_for(actor(request), workspace_id), today=timezone.localdate())
    answer = HttpResponse(write_weather(days), content_type="text/csv")
    answer["Content-Disposition"] = 'attachment; filename="weather.csv"'
    return answer


@router.get("/workspaces/{workspace_id}/visits.ics", operation_id="visits_calendar", response={200: None})
def visits_calendar(request: HttpRequest, workspace_id: UUID, mine: bool = False):  # noqa: FBT001, FBT002 - asked for by name
    user, today = actor(request), timezone.localdate()
    workspace = workspace_for(user, workspace_id)
    days = weather_queries.days_of(workspace, today=today)
    dues = [
        (item.trial, due)
        for item in listed(user, workspace)
        for due in visits.visits_due(item.trial, item.profile, item.progress, days, show=item.show, today=today)
    ]
    tasks = open_tasks(user, workspace)
    if mine:
        tasks = [task for task in tasks if task.given_to_id == user.pk]
        own = {(task.trial_id, task.ref) for task in tasks}
        dues = [(trial, due) for trial, due in dues if (trial.pk, visits.ref_of(due)) in own]
    content = calendar.calendar_of(workspace.name, dues, tasks, stamp=timezone.now())
    answer = HttpResponse(content, content_type="text/calendar")
    answer["Content-Disposition"] = 'attachment; filename="visits.ics"'
    return answer


@router.get("/trials/{trial_id}/schedule", response=ScheduleOut, operation_id="schedule")
def schedule(request: HttpRequest, trial_id: UUID):
    user, today = actor(request), timezone.localdate()
    result = view(user, trial_for(user, trial_id))
    days = weather_queries.days_of(result.trial.workspace, today=today)
    progress = with_days_done(result.progress, result.trial)
    return ScheduleOut(
        trial_id=result.trial.id,
        visits=[
            visit_out(due)
            for due in visits.visits_due(result.trial, result.profile, progress, days, show=result.show, today=today)
        ],
        heat_words=_heat_words(result, days),
        cautions=visits.reentry_words(progress),
    )


def visit_out(due: Due) -> VisitDueOut:
    """A visit for the API."""
    return VisitDueOut(
        key=due.visit.key,
        ref=visits.ref_of(due),
        task=due.visit.task,
        trait=due.visit.trait,
        what=due.visit.what,
        why=due.visit.why,
        on=due.on,
        state=due.state,
        reason=due.reason,
        where=written_strips(due.strips) if due.strips else "",
    )


def _heat_words(result: TrialView, days: tuple[Day, ...]) -> str:
    sown, profile = result.progress.sown_together, heat_profile(result.trial.crop)
    way = dict(WAYS)[profile.way]
    base = result.show.text(profile.base_c, "temperature")
    upper = "" if profile.upper_c is None else f" to {result.show.text(profile.upper_c, 'temperature')}"
    if not sown or not days:
        return f"Heat units over {base}{upper}, {way}; no weather known yet: days decide."
    told = []
    for group in sown:
        total = heat_sum(days, profile, after=group.day, until=timezone.localdate())
        on = f" on {written_day(group.day)} ({written_strips(group.strips)})" if len(sown) > 1 else ""
        told.append(f"{result.show.text(total, 'heat')} since sowing{on}")
    return f"{'; '.join(told)}, over {base}{upper}, {way}."
