"""HTML to PDF."""

from __future__ import annotations

from cultrix_core.errors import Refusal


def pdf_of(html: str) -> bytes:
    """A page as PDF; nothing is fetched, whatever the page names.

    Raises
    ------
    Refusal : ``missing`` when the machine lacks the text library that printing needs.
    """
    try:
        from weasyprint import HTML  # noqa: PLC0415 - slow to import, and needs Pango on the machine
        from weasyprint.urls import URLFetcher  # noqa: PLC0415
    except OSError as error:
        raise Refusal(
            "missing",
            field="pdf",
            label="Pango, which prints need,",
            remedy="Install libpango-1.0-0, libpangoft2-1.0-0 and libharfbuzz-subset0, or print the page from the browser.",
        ) from error

    pdf: bytes = HTML(string=html, url_fetcher=URLFetcher(allowed_protocols=["data"])).write_pdf()
    return pdf
