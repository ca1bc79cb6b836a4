"""What bounds every request: a host that is ours, a time to compute in, answers that nobody keeps, refusals in one shape."""

import ctypes
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.conf import settings
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse

from .errors import response

API = "/api/"
# What may take longer: many records at once, and a password, whose digest is slow on purpose.
LONGER = ("/api/outbox", "/api/jobs/import", "/api/sign-in")
# And a file of readings, at whichever job: seen, looked through, brought in piece by piece; all of a job at once.
LONGER_ENDS = ("/imports", "/preview", "/go", "/undo", "/whole.zip", "/handing-over", "/log.xlsx")
# Pages outside the API that compute.
COMPUTED = "/shared/"
JSON_LIKE = ("application/json", "application/problem+json")

Answer = Callable[[HttpRequest], HttpResponse]


class TookTooLong(BaseException):
    """A request has computed for longer than it may; nothing on the way takes it for a fault of its own."""


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """Raise TookTooLong in this thread once it has been at it for so long."""
    thread, lock, done = threading.get_ident(), threading.Lock(), False

    def end() -> None:
        with lock:
            if not done:
                ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), ctypes.py_object(TookTooLong))

    timer = threading.Timer(seconds, end)
    timer.daemon = True
    timer.start()
    try:
        yield
    finally:
        with lock:
            done = True
        timer.cancel()


class BoundsMiddleware:
    """Refuse hosts that are not ours; let no answer of the API be kept on the way; every refusal of it is a problem."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer within the bounds."""
        try:
            request.get_host()
        except DisallowedHost:
            return response(400, "This host is not served here", "Whoever runs Ofen for you names its hosts in OFEN_HOSTS.")
        # No text that is kept may hold it, and the database refuses even to be asked for it.
        if "\0" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return response(400, *_words(400))
        answer = self.get_response(request)
        if request.path.startswith(API):
            if answer.status_code >= 400 and not answer.get("Content-Type", "").startswith(JSON_LIKE):
                allow = answer.get("Allow")
                answer = response(answer.status_code, *_words(answer.status_code))
                if allow:
                    answer["Allow"] = allow
            answer["Cache-Control"] = "no-store"
        return answer


def _words(status: int) -> tuple[str, str]:
    if status == 405:
        return "This cannot be done here", "The address is right; the method is not."
    return "This could not be read", "Correct what was sent and send it again."


class DeadlineMiddleware:
    """End a request to the API that computes for too long, and let its thread go on with others."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, or say that it took too long."""
        if not request.path.startswith((API, COMPUTED)) or request.path.endswith(".pdf"):
            return self.get_response(request)
        try:
            with at_most(
                settings.LONGEST_BATCH_S
                if request.path in LONGER or request.path.endswith(LONGER_ENDS) or request.path.startswith(COMPUTED)
                else settings.LONGEST_REQUEST_S
            ):
                return self.get_response(request)
        except TookTooLong:
            return too_long()


def too_long() -> HttpResponse:
    """Return the refusal of what would take too long."""
    return response(503, "This takes too long to compute", "Nothing was kept. Make it smaller, or send it in parts.")
