from django.conf import settings
from django.http import FileResponse, Http404, HttpRequest
from django.urls import include, path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView


def _built(name: str) -> FileResponse:
    """A page as it was built; its scripts read the rest of the address."""
    index = settings.PAGE_ROOT / name
    if not index.exists():
        raise Http404("The page is not built; run “make start”.")
    return FileResponse(index.open("rb"), headers={"Cache-Control": "no-cache"})


@ensure_csrf_cookie
def page(_request: HttpRequest) -> FileResponse:
    """The desk."""
    return _built("index.html")


def player_page(_request: HttpRequest, token: str) -> FileResponse:
    """The page of a player's link, a bundle of its own; nothing is set there."""
    return _built("player.html")


handler400 = "config.errors.bad_request"
handler404 = "config.errors.not_found"
handler500 = "config.errors.failed"
urlpatterns = [
    path("", include("jobs.health_urls")),
    path("api/schema", SpectacularAPIView.as_view()),
    path("api/", include("people.urls")),
    path("api/", include("library.urls")),
    path("api/", include("jobs.urls")),
    path("api/", include("arrangements.urls")),
    path("api/", include("findings.urls")),
    path("api/", include("charts.urls")),
    path("api/", include("shelf.urls")),
    path("api/", include("practice.urls")),
    path("api/", include("sharing.urls")),
    path("api/", include("planning.urls")),
    path("api/", include("keeping.urls")),
    path("p/<str:token>", player_page),
    path("l/<str:token>", player_page),
    path("r/<str:token>", player_page),
    re_path(r"^(?!api/|static/|assets/).*$", page),
]
