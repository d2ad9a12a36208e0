"""The report behind a link: read-only, for nobody in particular, and gone when it is revoked or out of date."""

from __future__ import annotations

from csp.decorators import csp_replace
from django.core.cache import cache
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.views.decorators.http import require_safe

from apps.base.errors import NotFound
from apps.report.api import REPORT_CSP
from apps.report.pdf import pdf_of
from apps.report.shares import opened
from apps.report.trial_report import STYLE, report_html

HEADERS = {
    "Cache-Control": "no-store",
    "Referrer-Policy": "no-referrer",
    "X-Robots-Tag": "noindex, nofollow",
}
KEEP_S = 3600


@require_safe
@csp_replace({**REPORT_CSP, "frame-ancestors": ["'none'"]})  # type: ignore[arg-type]  # views take their path's parameters
def shared(_request: HttpRequest, token: str, form: str = "html") -> HttpResponse:
    """The page or the PDF."""
    try:
        share, view = opened(token)
    except NotFound:
        page = render_to_string("shared_gone.html", {"style": STYLE})
        return HttpResponse(page, status=404, headers=HEADERS)
    title = share.title or view.trial.title
    html = report_html(
        share.created_by,
        view,
        record=share.record,
        places=share.places,
        title=title,
        names=False,
        link=token,
    )
    if form == "html":
        return HttpResponse(html, content_type="text/html; charset=utf-8", headers=HEADERS)
    key = f"shared/{share.id}/{hash(html)}"  # the page names its day, not its minute
    content: bytes | None = cache.get(key)
    if content is None:
        content = pdf_of(html)
        cache.set(key, content, KEEP_S)
    headers = {**HEADERS, "Content-Disposition": 'attachment; filename="trial-report.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=headers)
