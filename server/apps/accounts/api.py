"""One's session, account, password, second factor and devices."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Status
from ninja.utils import check_csrf

from apps.accounts import (
    devices,
    first_start,
    links,
    passwords,
    queries,
    second_factor,
    services,
)
from apps.accounts.credentials import MustWait
from apps.accounts.models import User
from apps.accounts.output import session_out, welcome_out
from apps.accounts.schemas import (
    AcceptIn,
    CodeIn,
    DeviceOut,
    FaultOut,
    FirstStartIn,
    OwnPasswordIn,
    PasswordIn,
    PreferencesIn,
    RecoveryCodesOut,
    SecondFactorOut,
    SecondFactorSetupOut,
    SessionOut,
    SignInIn,
    TokenIn,
    WelcomeOut,
)
from apps.accounts.throttle import begin_try, forgive, remember_device
from apps.base.errors import OutOfDate

router = Router(tags=["accounts"])
FIRST = "first start"  # counted like a name, so that codes are not tried out


@router.get("/session", auth=None, response=SessionOut, operation_id="session")
def session(request: HttpRequest):
    get_token(request)
    return session_out(request.user)


@router.post(
    "/session", auth=None, response={200: SessionOut, 401: FaultOut, 403: FaultOut, 429: FaultOut}, operation_id="sign_in"
)
def sign_in(request: HttpRequest, response: HttpResponse, body: SignInIn):
    if check_csrf(request) is not None:
        return Status(403, FaultOut(code="csrf", message="This page is out of date. Load it again, then sign in.", field=None))
    try:
        user = services.sign_in(request, username=body.username, password=body.password, code=body.code, shared=body.shared)
    except services.CodeNeeded:
        words = "Type the six figures that your authenticator app shows, or a recovery code."
        return Status(401, FaultOut(code="code_needed", field="code", message=words))
    if user is None:
        return Status(
            401, FaultOut(code="wrong_sign_in", field="password", message="This name and password do not belong together.")
        )
    return _entered(request, response, user)


def _entered(request: HttpRequest, response: HttpResponse, user: User) -> SessionOut:
    remember_device(request, response, user.username)
    get_token(request)
    return session_out(user)


def _require_own_page(request: HttpRequest) -> None:
    if check_csrf(request) is not None:
        raise OutOfDate


@router.post("/first-start", auth=None, response=SessionOut, operation_id="begin_installation")
def begin_installation(request: HttpRequest, response: HttpResponse, body: FirstStartIn):
    _require_own_page(request)
    seconds = begin_try(request, FIRST)
    if seconds:
        raise MustWait(seconds)
    first_start.require_code(body.code)
    forgive(request, FIRST)
    user, _ = first_start.begin(**body.dict())
    services.enter(request, user)
    return _entered(request, response, user)


@router.post("/account-links/look", auth=None, response=WelcomeOut, operation_id="look_at_link")
def look_at_link(request: HttpRequest, body: TokenIn):
    _require_own_page(request)
    return welcome_out(links.look(body.token))


@router.post("/account-links/accept", auth=None, response=SessionOut, operation_id="accept_link")
def accept_link(request: HttpRequest, response: HttpResponse, body: AcceptIn):
    """A new account that is signed in at once, or a new password to sign in with."""
    _require_own_page(request)
    if links.look(body.token).kind == "reset":
        links.accept_reset(body.token, password=body.password)
        return session_out(None)
    user = links.accept_as_new(body.token, username=body.username, name=body.name, password=body.password)
    services.enter(request, user)
    return _entered(request, response, user)


@router.post("/account-links/join", response=SessionOut, operation_id="join_by_link")
def join_by_link(request: HttpRequest, body: TokenIn):
    user = queries.actor(request)
    links.accept_as(body.token, user)
    return session_out(user)


@router.delete("/session", response={204: None}, operation_id="sign_out")
def sign_out(request: HttpRequest):
    services.sign_out(request)
    return Status(204, None)


@router.patch("/session", response=SessionOut, operation_id="set_preferences")
def set_preferences(request: HttpRequest, body: PreferencesIn):
    user = services.set_preferences(
        queries.actor(request), unit_system=body.unit_system, theme=body.theme, single_keys=body.single_keys
    )
    return session_out(user)


@router.patch("/password", response=SessionOut, operation_id="change_password")
def change_password(request: HttpRequest, body: PasswordIn):
    user = passwords.change_password(request, queries.actor(request), current=body.current, new=body.new)
    get_token(request)
    return session_out(user)


@router.get("/second-factor", response=SecondFactorOut, operation_id="second_factor")
def read_second_factor(request: HttpRequest):
    return _second_factor(queries.actor(request))


def _second_factor(user: User) -> SecondFactorOut:
    return SecondFactorOut(on=second_factor.is_on(user), recovery_codes_left=second_factor.recovery_codes_left(user))


@router.post("/second-factor", response=SecondFactorSetupOut, operation_id="begin_second_factor")
def begin_second_factor(request: HttpRequest):
    setup = second_factor.begin(queries.actor(request))
    return SecondFactorSetupOut(svg=setup.svg, uri=setup.uri, secret=setup.secret)


@router.post("/second-factor/confirm", response=RecoveryCodesOut, operation_id="confirm_second_factor")
def confirm_second_factor(request: HttpRequest, body: CodeIn):
    return RecoveryCodesOut(codes=second_factor.confirm(request, queries.actor(request), body.code))


@router.post("/second-factor/recovery-codes", response=RecoveryCodesOut, operation_id="renew_recovery_codes")
def renew_recovery_codes(request: HttpRequest, body: OwnPasswordIn):
    return RecoveryCodesOut(codes=second_factor.renew_recovery_codes(request, queries.actor(request), body.password))


@router.post("/second-factor/off", response=SecondFactorOut, operation_id="turn_second_factor_off")
def turn_second_factor_off(request: HttpRequest, body: OwnPasswordIn):
    user = queries.actor(request)
    second_factor.turn_off(request, user, body.password)
    return _second_factor(user)


@router.get("/sessions", response=list[DeviceOut], operation_id="sessions")
def sessions(request: HttpRequest):
    here = request.session.session_key
    return [
        DeviceOut(
            id=device.id,
            name=device.name,
            shared=device.shared,
            signed_in_at=device.signed_in_at,
            last_contact=device.last_contact,
            here=device.session_key == here,
        )
        for device in devices.devices_of(queries.actor(request))
    ]


@router.delete("/sessions/{device_id}", response={204: None}, operation_id="end_session")
def end_session(request: HttpRequest, device_id: UUID):
    devices.end(queries.actor(request), device_id)
    return Status(204, None)


@router.delete("/sessions", response={204: None}, operation_id="end_other_sessions")
def end_other_sessions(request: HttpRequest):
    devices.end_others(queries.actor(request), but=request.session.session_key)
    return Status(204, None)
