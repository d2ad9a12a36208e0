"""Reports of a trial, and links to them."""

from typing import Literal
from uuid import UUID

from csp.decorators import csp_replace
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.clickjacking import xframe_options_sameorigin
from ninja import Router, Status
from ninja.decorators import decorate_view

from apps.accounts.queries import actor
from apps.report.models import ReportShare
from apps.report.pdf import pdf_of
from apps.report.schemas import ReportShareIn, ReportShareOut
from apps.report.shares import add_share, revoke_share
from apps.report.trial_report import STYLE_HASHES, report_html
from apps.trial_state.view import view
from apps.trials.queries import trial_for

router = Router(tags=["reports"])
REPORT_CSP = {
    "default-src": ["'none'"],
    "style-src": STYLE_HASHES,
    "base-uri": ["'none'"],
    "form-action": ["'none'"],
    "frame-ancestors": ["'self'"],
}


def share_out(share: ReportShare, token: str = "") -> ReportShareOut:
    """A link for an answer."""
    now = timezone.now()
    state = "revoked" if share.revoked_at else "expired" if share.expires_at <= now else "open"
    return ReportShareOut(
        id=share.id,
        title=share.title,
        places=share.places,
        record=share.record,
        created_at=share.created_at,
        expires_at=share.expires_at,
        state=state,
        opened=share.opened,
        path=f"/shared/{token}" if token else "",
    )


@router.get("/trials/{trial_id}/report", operation_id="report", response={200: bytes})
@decorate_view(csp_replace(REPORT_CSP), xframe_options_sameorigin)
def report(
    request: HttpRequest,
    trial_id: UUID,
    format: Literal["html", "pdf"] = "html",  # noqa: A002 - the word people use
    record: bool = False,
    places: bool = True,
):
    user = actor(request)
    result = view(user, trial_for(user, trial_id))
    html = report_html(user, result, record=record, places=places, title=result.trial.title, names=True)
    if format == "html":
        return HttpResponse(html, content_type="text/html; charset=utf-8")
    name = f"{slugify(result.trial.title)[:60] or 'trial'}-{'record' if record else 'report'}.pdf"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(pdf_of(html), content_type="application/pdf", headers=headers)


@router.get("/trials/{trial_id}/shares", response=list[ReportShareOut], operation_id="shares")
def shares(request: HttpRequest, trial_id: UUID):
    return [share_out(share) for share in trial_for(actor(request), trial_id).shares.all()]


@router.post("/trials/{trial_id}/shares", response={201: ReportShareOut}, operation_id="add_share")
def post_share(request: HttpRequest, trial_id: UUID, body: ReportShareIn):
    report_share, token = add_share(
        actor(request), trial_id, days=body.days, title=body.title, places=body.places, record=body.record
    )
    return Status(201, share_out(report_share, token))


@router.post("/shares/{share_id}/revoke", response=ReportShareOut, operation_id="revoke_share")
def revoke(request: HttpRequest, share_id: UUID):
    return share_out(revoke_share(actor(request), share_id))
