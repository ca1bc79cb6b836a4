"""Addresses: the API under /api/, everything else the application's shell."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponseBase
from django.urls import path, re_path

from handover import feeds, sharing

from . import errors, health
from .api import api


def shell(request: HttpRequest) -> HttpResponseBase:
    """Serve the application; its router reads the rest of the address."""
    index = settings.WHITENOISE_ROOT / "index.html"
    if not index.exists():
        return errors.response(503, "The front end is not built", "Run bin/demo, which builds it.")
    response = FileResponse(index.open("rb"), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/.*$", errors.not_found),
    path("health", health.health),
    path("ready", health.ready),
    path("calendar/<str:secret>.ics", feeds.read),
    path("shared/<str:secret>", sharing.read),
    path("shared.css", sharing.sheet),
    re_path(r"^(?!assets/|static/).*$", shell),
]
handler404 = "ofen_server.errors.not_found"
handler500 = "ofen_server.errors.failed"
