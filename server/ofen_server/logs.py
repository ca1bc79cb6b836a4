"""The log of the server: one line of JSON for each answer and each fault, without anything that somebody typed."""

import logging
import re
import time
import uuid
from collections.abc import Callable
from typing import Any

import structlog
from django.http import HttpRequest
from django.http.response import HttpResponseBase

log = structlog.get_logger("ofen")
# Requests that a page or a monitor sends by itself, too many to log.
QUIET = ("/assets/", "/engine/", "/static/", "/health", "/ready")
# A proxy may have given the request an id. It is kept if it looks like one.
REQUEST_ID = re.compile(r"[0-9A-Za-z._-]{8,64}")

_SHARED: tuple[Any, ...] = (
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso", utc=True, key="time"),
    structlog.processors.format_exc_info,
)


def configured(level: str) -> dict[str, Any]:
    """Return Django's LOGGING: every line of every logger as JSON.

    Arguments: level, from which the application itself is heard; of others from WARNING.
    """
    structlog.configure(
        processors=[structlog.stdlib.filter_by_level, *_SHARED, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "json": {
                "()": structlog.stdlib.ProcessorFormatter,
                "foreign_pre_chain": [*_SHARED, structlog.stdlib.ExtraAdder(allow=())],
                "processors": [
                    structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                    structlog.processors.EventRenamer("event"),
                    structlog.processors.JSONRenderer(ensure_ascii=False),
                ],
            }
        },
        "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "json"}},
        "root": {"handlers": ["console"], "level": "WARNING"},
        # Each answer has its own line: that a refusal was one need not be said twice.
        "loggers": {"ofen": {"level": level}, "django.request": {"level": "ERROR"}},
    }


Answer = Callable[[HttpRequest], HttpResponseBase]


class RequestLogMiddleware:
    """Give each request an id, for its log lines and its answer, and write one line when it is answered."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Answer, and say so."""
        given = request.headers.get("X-Request-ID", "")
        request_id = given if REQUEST_ID.fullmatch(given) else uuid.uuid4().hex
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request_id=request_id, team=None)
        begun = time.monotonic()
        # What a view raises has become a response here.
        response = self.get_response(request)
        taken_ms = round((time.monotonic() - begun) * 1000, 1)
        response["X-Request-ID"] = request_id
        if not request.path.startswith(QUIET):
            level = logging.ERROR if response.status_code >= 500 else logging.INFO
            log.log(
                level,
                "answered",
                method=request.method,
                route=route_of(request),
                status=response.status_code,
                duration_ms=taken_ms,
            )
        structlog.contextvars.clear_contextvars()
        return response


def route_of(request: HttpRequest) -> str:
    """Return the address of a request as a pattern, without the ids and secrets in it."""
    match = getattr(request, "resolver_match", None)
    return f"/{match.route}" if match and match.route and not match.route.startswith("^") else "(a page)"
