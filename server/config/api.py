"""The API object: routers of the apps, one shape for every error."""

from apps.accounts.api import router as accounts
from apps.accounts.credentials import MustWait
from apps.accounts.people_api import router as people
from apps.backup.api import router as backup
from apps.base.errors import (
    Busy,
    Conflict,
    Forbidden,
    NoRoom,
    NotFound,
    OutOfDate,
    RowProblems,
    SecondFactorNeeded,
    TooLarge,
)
from apps.base.typed_values import as_typed
from apps.calculators.api import router as bench
from apps.demo.api import router as practice
from apps.exchange.api import router as exchange
from apps.farms.api import router as farms
from apps.health.api import router as health
from apps.pages.attachments.api import router as attachments
from apps.pages.estimate.api import router as estimates
from apps.pages.harvest.api import router as harvest
from apps.pages.history.api import router as history
from apps.pages.ledger.api import router as ledger
from apps.pages.merging.api import router as merging
from apps.pages.money.api import router as money
from apps.pages.planting.api import router as planting
from apps.pages.power.api import router as planning
from apps.pages.readings.api import router as readings
from apps.pages.records.api import router as records
from apps.pages.season.api import router as scouting
from apps.pages.season.own_traits import router as variables
from apps.pages.stand.api import router as stand
from apps.pages.tasks.api import router as tasks
from apps.pages.trial.api import router as trials
from apps.pages.trial.life_api import router as life
from apps.pages.verdict.api import router as verdicts
from apps.pages.weather.api import router as weather
from apps.pages.yield_logs.api import router as yieldlogs
from apps.report.api import router as reports
from cultrix_core.errors import Refusal
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError

from config.edge import Edge
from config.faults import answer_of
from config.guard import Guard

api = NinjaAPI(title="Cultrix", version="1", auth=Guard(), parser=Edge(), docs_url=None, openapi_url=None)
for router in (
    accounts,
    people,
    backup,
    practice,
    farms,
    trials,
    life,
    history,
    attachments,
    merging,
    tasks,
    records,
    readings,
    stand,
    harvest,
    planting,
    scouting,
    variables,
    estimates,
    yieldlogs,
    weather,
    verdicts,
    money,
    planning,
    exchange,
    bench,
    reports,
    ledger,
    health,
):
    api.add_router("", router)


def _error(
    request: HttpRequest, status: int, code: str, message: str, field: str | None = None, **more: object
) -> HttpResponse:
    return api.create_response(request, {"code": code, "message": message, "field": field, **more}, status=status)


@api.exception_handler(Refusal)
def refusal(request: HttpRequest, error: Refusal) -> HttpResponse:
    error = as_typed(error)
    return _error(request, 422, error.code, error.message, error.field)


@api.exception_handler(ValidationError)
def malformed(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first = error.errors[0]
    field = str(first["loc"][-1])
    return _error(request, 422, "malformed", f"{field}: {first['msg']}.", field)


@api.exception_handler(Conflict)
def conflict(request: HttpRequest, error: Conflict) -> HttpResponse:
    return _error(request, 409, error.code, error.message, None, current=error.current)


@api.exception_handler(RowProblems)
def row_problems(request: HttpRequest, error: RowProblems) -> HttpResponse:
    count = len(error.problems)
    message = f"Nothing was taken in: {count} {'entries need' if count != 1 else 'entry needs'} mending first."
    return _error(request, 422, "rows", message, None, problems=error.problems)


@api.exception_handler(NotFound)
@api.exception_handler(Http404)
def not_here(request: HttpRequest, _: Exception) -> HttpResponse:
    return _error(
        request, 404, "not_here", "There is nothing here that you can see. It may have been removed, or belong to others."
    )


@api.exception_handler(Forbidden)
def forbidden(request: HttpRequest, error: Forbidden) -> HttpResponse:
    return _error(request, 403, "forbidden", error.message)


@api.exception_handler(SecondFactorNeeded)
def second_factor_needed(request: HttpRequest, _: Exception) -> HttpResponse:
    message = "The leads of this workspace sign in with a second factor. Set yours up on your account's page, then go on."
    return _error(request, 403, "second_factor", message)


@api.exception_handler(MustWait)
def must_wait(request: HttpRequest, wait: MustWait) -> HttpResponse:
    unit = "second" if wait.seconds == 1 else "seconds"
    answer = _error(
        request, 429, "too_many_tries", f"Too many wrong tries. Wait {wait.seconds} {unit}, then try again.", "password"
    )
    answer["Retry-After"] = str(wait.seconds)
    return answer


@api.exception_handler(AuthenticationError)
def signed_out(request: HttpRequest, _: AuthenticationError) -> HttpResponse:
    return _error(request, 401, "signed_out", "You are signed out. Sign in again; what you typed is kept.")


@api.exception_handler(OutOfDate)
def out_of_date(request: HttpRequest, _: Exception) -> HttpResponse:
    return _error(request, 403, "csrf", "This page is out of date. Load it again; what you typed is kept.")


@api.exception_handler(TooLarge)
def too_large(request: HttpRequest, error: TooLarge) -> HttpResponse:
    message = f"This is {error.size / 1e6:.1f} MB, and at most {error.limit / 1e6:.1f} MB are taken here. Send less at a time."
    return _error(request, 413, "too_large", message, "file")


@api.exception_handler(Busy)
def busy(request: HttpRequest, error: Busy) -> HttpResponse:
    answer = _error(request, 503, "busy", error.message)
    answer["Retry-After"] = "10"
    return answer


@api.exception_handler(NoRoom)
def no_room(request: HttpRequest, error: NoRoom) -> HttpResponse:
    return _error(request, 507, "no_room", error.message)


@api.exception_handler(Exception)
def fault(request: HttpRequest, error: Exception) -> HttpResponse:
    status, body = answer_of(request, error)
    return api.create_response(request, body, status=status)


@api.exception_handler(HttpError)
def http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
    if isinstance(error.__cause__, Refusal):  # of the edge, which reads bodies
        return refusal(request, error.__cause__)
    code = "csrf" if error.status_code == 403 else "http"
    return _error(request, error.status_code, code, str(error))
