"""Every error leaves in one shape, application/problem+json, made here (RFC 9457)."""

import logging
import re
import sys
from collections.abc import Callable
from typing import Any, TypeVar

from django.conf import settings
from django.core.exceptions import TooManyFieldsSent
from django.db import InterfaceError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.multipartparser import MultiPartParserError
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError

from ofen.figures.errors import Fault, JobFaults, some
from ofen.questions.asking import ROOMS, question

log = logging.getLogger("ofen")
# Where the core is asked, what is computed and not kept: each question says itself how large it may be.
ASK = "/api/ask/"


class Problem(Exception):
    """A refusal with its status, a title, what to do, and whatever else helps."""

    def __init__(self, status: int, title: str, detail: str = "", **more: Any) -> None:
        super().__init__(title)
        self.status, self.title, self.detail, self.more = status, title, detail, more

    def body(self) -> dict[str, Any]:
        """Return the refusal as it goes over the wire."""
        return {"type": "about:blank", "status": self.status, "title": self.title, "detail": self.detail, **self.more}


def faulty(faults: list[Fault], title: str = "Some values cannot be used") -> Problem:
    """Return the refusal of values that cannot be used, each fault at its path."""
    told = [{"path": f.path, "message": f.message} for f in some(faults)]
    return Problem(422, title, "Correct these values and send it again.", faults=told)


def response(status: int, title: str, detail: str = "", **more: Any) -> JsonResponse:
    """Return a problem as a response."""
    refusal = JsonResponse(
        Problem(status, title, detail, **more).body(),
        status=status,
        content_type="application/problem+json",
        json_dumps_params={"ensure_ascii": False},
    )
    if "retry_after_s" in more:
        refusal["Retry-After"] = str(more["retry_after_s"])
    return refusal


def install(api: NinjaAPI) -> None:
    """Give the API its error handlers."""
    from .models import Epoch  # the press reads this module without the database

    @api.exception_handler(Problem)
    def _(request: HttpRequest, exc: Problem) -> HttpResponse:
        return response(exc.status, exc.title, exc.detail, **exc.more)

    @api.exception_handler(JobFaults)
    def _(request: HttpRequest, exc: JobFaults) -> HttpResponse:
        p = faulty(exc.faults)
        return response(p.status, p.title, p.detail, **p.more)

    @api.exception_handler(ValidationError)
    def _(request: HttpRequest, exc: ValidationError) -> HttpResponse:
        faults = [{"path": ".".join(str(x) for x in e["loc"][2:]), "message": e["msg"]} for e in exc.errors]
        return response(422, "Some values cannot be used", "Correct these values and send it again.", faults=faults)

    @api.exception_handler(AuthenticationError)
    def _(request: HttpRequest, exc: AuthenticationError) -> HttpResponse:
        return response(401, "Sign in first", "What you typed is saved in this browser.")

    @api.exception_handler(Throttled)
    def _(request: HttpRequest, exc: Throttled) -> HttpResponse:
        return response(429, "Too many tries", "Wait a minute, then try again.")

    @api.exception_handler(HttpError)
    def _(request: HttpRequest, exc: HttpError) -> HttpResponse:
        unread = exc.__cause__ or exc.__context__
        if isinstance(unread, JobFaults):
            p = faulty(unread.faults)
            return response(p.status, p.title, p.detail, **p.more)
        return response(exc.status_code, str(exc), "")

    @api.exception_handler(Http404)
    def _(request: HttpRequest, exc: Http404) -> HttpResponse:
        return response(404, "Not found", "It does not exist or belongs to another team.", epoch=Epoch.now())

    @api.exception_handler(OperationalError)
    @api.exception_handler(InterfaceError)
    def _(request: HttpRequest, exc: Exception) -> HttpResponse:
        log.warning("the database does not answer at %s: %s", request.path, exc)
        return no_database()

    @api.exception_handler(TooManyFieldsSent)
    @api.exception_handler(MultiPartParserError)
    def _(request: HttpRequest, exc: Exception) -> HttpResponse:
        return response(400, "This cannot be read", "The upload is damaged. Choose the file again.")

    @api.exception_handler(Exception)
    def _(request: HttpRequest, exc: Exception) -> HttpResponse:
        log.exception("unexpected error at %s", request.path)
        return response(
            500,
            "Something went wrong on the server",
            "What you typed is saved in this browser. Try again. If it happens again, tell whoever runs Ofen for you.",
        )


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Return the 404 of addresses outside the API."""
    return response(404, "Not found", "There is no page at this address.")


def no_database() -> HttpResponse:
    """Return the refusal while the database does not answer."""
    return response(
        503, "The database does not answer", "What you typed is saved in this browser. It is sent when the database answers."
    )


def failed(request: HttpRequest) -> HttpResponse:
    """Return the 500 of requests outside the API; 503 where it is the database that does not answer."""
    if isinstance(sys.exc_info()[1], (OperationalError, InterfaceError)):
        return no_database()
    return response(500, "Something went wrong on the server", "Load the page again. What you typed is saved in this browser.")


PAPER = re.compile(r"/api/jobs/[0-9a-f-]{36}/((papers|photos)/[0-9a-f-]{36}|imports)")
WHOLE_JOB = "/api/jobs/import"
# What a form puts round the file it carries.
ROUND_A_PAPER_BYTES = 8 * 1024


class TooLargeMiddleware:
    """Refuse bodies over the limit before anything reads them."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer 413 for a body that says it is too large."""
        length = request.META.get("CONTENT_LENGTH") or "0"
        most = settings.LARGEST_BODY_BYTES
        key = request.path.removeprefix(ASK)
        if request.path.startswith(ASK) and key in ROOMS:
            most = min(most, question(key).most_bytes)
        if PAPER.fullmatch(request.path):
            most = settings.LARGEST_PAPER_BYTES + ROUND_A_PAPER_BYTES
        elif request.path == WHOLE_JOB:
            most = settings.LARGEST_WHOLE_JOB_BYTES
        if length.isdigit() and int(length) > most:
            return response(413, "This file is too large", f"At most {most // 1024 // 1024} MB are accepted here.")
        return self.get_response(request)


Sheet = TypeVar("Sheet")


def readable(load: Callable[[Any], Sheet], row: Any) -> Sheet | None:
    """Return the sheet of a row of a shelf; None for one kept by other rules than today's, which takes no other down."""
    try:
        return load(row.sheet)
    except JobFaults:
        log.exception("the sheet of %s %s cannot be read", type(row).__name__.lower(), row.key)
        return None
