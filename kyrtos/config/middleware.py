"""What every request and every answer goes through."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django.conf import settings
from django.contrib.auth.views import redirect_to_login
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import resolve_url

from kyrtos.shops.quota import NoMoreRoom, StoreFailed

_STORE_FAILED = (
    "The store of photos and files takes nothing at the moment: it is full, or may only be read."
    " Nothing was kept and nothing was lost. Go back: what you typed is there. Tell whoever runs"
    " this server; then send it again."
)
MOST_OF_A_FORM = 300_000  # bytes; deploy/nginx/server.inc says the same
View = TypeVar("View", bound=Callable[..., HttpResponse])


class AddressMiddleware:
    """Believes what is said of an address only where it can be known.

    ``X-Forwarded-...`` counts from our proxy alone. A ``Host`` with another port than ours is
    refused: links and guards against forged forms would follow it.
    """

    _SPOKEN = ("FOR", "PROTO", "HOST", "PORT")

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        peer = request.META.get("REMOTE_ADDR", "")
        if peer and peer not in settings.PROXIES:  # without a peer it is our own proxy's socket
            for one in self._SPOKEN:
                request.META.pop(f"HTTP_X_FORWARDED_{one}", None)
        port = _port_of(request.META.get("HTTP_HOST", ""))
        if port and port not in _our_ports(request):
            return _refused("This server does not answer by that port.", 400)
        return self.get_response(request)


def _port_of(host: str) -> str:
    return "" if host.endswith("]") else host.rpartition(":")[2] if ":" in host else ""


def _our_ports(request: HttpRequest) -> set[str]:
    """That of the public address, that of files, and that on which this very process listens."""
    told = (settings.PUBLIC_URL.partition("://")[2], settings.FILES_HOST)
    own = {_port_of(one.partition("/")[0]) for one in told}
    if settings.SECURE:
        return own | {"443"}
    # over a socket of our proxy it would be what the asker said
    listens = str(request.META.get("SERVER_PORT", "")) if request.META.get("REMOTE_ADDR") else ""
    return own | {"80", listens}


class NulMiddleware:
    """Takes U+0000 out of what was asked and typed: no database keeps it.

    It is shown as a replacement character instead of breaking a page.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.GET = _without(request.GET)  # type: ignore[assignment]
        return self.get_response(request)

    def process_view(self, request: HttpRequest, *_: Any) -> None:
        """What was sent is looked at where the address is known, and not before."""
        if request.method == "POST":
            request.POST = _without(request.POST)  # type: ignore[assignment]


class FilesHostMiddleware:
    """On the name for files there are files, and nothing that a session or a form could reach."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        here = settings.FILES_HOST and request.get_host() == settings.FILES_HOST
        if here and not request.path.startswith("/held/"):
            return _refused("Only files are kept under this name.", 404)
        return self.get_response(request)


class DoorMiddleware:
    """Reads nothing of what is sent until address, session and size are known.

    A view takes what a form can hold; more only if it says so by :func:`takes`. Where only members
    may go (``members_only``, set by the guard), who is not signed in is sent away unread.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """A quota that is full is told; what else went wrong goes on."""
        return _room(exception)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], *_: Any
    ) -> HttpResponse | None:
        """An answer where nothing is to be read, else None."""
        if request.method != "POST":
            return None
        sent = request.META.get("CONTENT_LENGTH") or "0"
        most = getattr(view, "most_bytes", MOST_OF_A_FORM)
        if not (sent.isascii() and sent.isdigit()) or "HTTP_TRANSFER_ENCODING" in request.META:
            return _refused("How long it is was not said: send it with its length.", 411)
        if len(sent) > 15 or int(sent) > most:
            return _refused(
                f"This is larger than the {most // 1000:,} kB that this place takes. Nothing was"
                " kept. Go back: what you typed is still there.",
                413,
            )
        if getattr(view, "members_only", False) and not request.user.is_authenticated:
            return signed_out(request)
        return None


def _room(problem: Exception) -> HttpResponse | None:
    """What is told where a shop keeps as much of a thing as it may, or the store takes nothing."""
    if isinstance(problem, NoMoreRoom):
        return _refused(f"Nothing was kept: {problem}. Go back: what you typed is there.", 409)
    if isinstance(problem, StoreFailed):
        return _refused(_STORE_FAILED, 503, {"Retry-After": "60"})
    return None


def takes(most_bytes: int) -> Callable[[View], View]:
    """Says that a view takes files, of so many bytes at most in one sending.

    Twice as much is let in, so that its form can say beside the field what is wrong.
    """

    def say(view: View) -> View:
        view.most_bytes = 2 * most_bytes + MOST_OF_A_FORM  # type: ignore[attr-defined]
        return view

    return say


def signed_out(request: HttpRequest) -> HttpResponse:
    """To a script whose session has run out a text (htmx goes to the sign-in), else the sign-in."""
    if "HX-Request" in request.headers:
        head = {"HX-Redirect": resolve_url(settings.LOGIN_URL)}
        return _refused("You are signed out.", 401, head)
    return redirect_to_login(request.get_full_path())


def _refused(text: str, status: int, head: dict[str, str] | None = None) -> HttpResponse:
    return HttpResponse(text, status=status, content_type="text/plain", headers=head)


class NoStoreMiddleware:
    """What somebody signed in sees is kept by no cache, unless a view says for how long."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if settings.SESSION_COOKIE_NAME in request.COOKIES:
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def _without(asked: QueryDict) -> QueryDict:
    if not any("\0" in value for _, values in asked.lists() for value in values):
        return asked
    clean = asked.copy()
    for key, values in asked.lists():
        clean.setlist(key, [value.replace("\0", "\ufffd") for value in values])
    return clean
