"""The API under /api/, the built interface everywhere else."""

from apps.report.shared import shared
from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.urls import path, re_path
from django.views.decorators.cache import never_cache

from config.api import api


@never_cache
def interface(_request: HttpRequest, path: str = "") -> HttpResponseBase:  # noqa: ARG001 - every place is one page
    """The single page of the interface, whatever place was asked for."""
    page = settings.WEB_BUILD / "index.html"
    if not page.exists():
        return HttpResponse("The interface is not built yet. Run: make setup", status=503, content_type="text/plain")
    return FileResponse(page.open("rb"), content_type="text/html")


handler400 = "config.faults.bad_request"
handler403 = "config.faults.forbidden"
handler404 = "config.faults.missing"
handler500 = "config.faults.fault"

urlpatterns = [
    path("api/", api.urls),
    path("shared/<str:token>", shared),
    path("shared/<str:token>/pdf", shared, {"form": "pdf"}),
    re_path(r"^(?!api/|static/|assets/)(?P<path>.*)$", interface),
]
