"""Signing in and out, and who is signed in."""

from typing import Literal

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import CsrfViewMiddleware, get_token
from django.utils import timezone
from ninja import Router, Schema
from ninja.throttling import AnonRateThrottle

from ofen_server.errors import Problem
from ofen_server.schemas import REFUSALS, ProblemOut

from .access import person_of

router = Router(tags=["teams"])


class SignIn(Schema):
    """Name and password."""

    name: str
    password: str


class PersonOut(Schema):
    """The person signed in; `csrf` goes back in the X-CSRFToken header of every change, `now` is the server's clock."""

    id: int | None
    name: str | None
    team: str | None
    units: Literal["metric", "us"]
    theme: Literal["auto", "light", "dark", "contrast"]
    csrf: str
    now: float


class PersonChange(Schema):
    """How a person likes to see things."""

    units: Literal["metric", "us"] | None = None
    theme: Literal["auto", "light", "dark", "contrast"] | None = None


def _person(request: HttpRequest) -> dict[str, object]:
    csrf, now = get_token(request), timezone.now().timestamp()
    if not request.user.is_authenticated:
        return {"id": None, "name": None, "team": None, "units": "metric", "theme": "auto", "csrf": csrf, "now": now}
    person = person_of(request)
    team = person.teams.order_by("id").first()
    return {
        "id": person.pk,
        "name": person.get_full_name() or person.username,
        "team": team.name if team else None,
        "units": person.units,
        "theme": person.theme,
        "csrf": csrf,
        "now": now,
    }


def _check_csrf(request: HttpRequest) -> None:
    # Endpoints without a session are not checked by the framework; signing in must be.
    if CsrfViewMiddleware(lambda r: None).process_view(request, lambda r: None, (), {}):  # type: ignore[arg-type,return-value]
        raise Problem(403, "This page is out of date", "Load it again, then sign in.")


@router.get("/me", auth=None, response=PersonOut, operation_id="me")
def me(request: HttpRequest) -> dict[str, object]:
    """Who is signed in, if anyone."""
    return _person(request)


@router.patch("/me", response={200: PersonOut, **REFUSALS}, operation_id="change_me")
def change_me(request: HttpRequest, change: PersonChange) -> dict[str, object]:
    """Change how the person likes to see things."""
    person = person_of(request)
    for name, value in change.dict(exclude_none=True).items():
        setattr(person, name, value)
    person.save(update_fields=["units", "theme"])
    return _person(request)


@router.post(
    "/sign-in",
    auth=None,
    throttle=[AnonRateThrottle(settings.SIGN_IN_TRIES)],
    operation_id="sign_in",
    response={200: PersonOut, 403: ProblemOut, 422: ProblemOut, 429: ProblemOut},
)
def sign_in(request: HttpRequest, given: SignIn) -> dict[str, object]:
    """Sign in with name and password."""
    _check_csrf(request)
    clean = "\x00" not in given.name + given.password
    person = authenticate(request, username=given.name, password=given.password) if clean else None
    if person is None:
        raise Problem(403, "Name or password is not right", "Check both; capitals count.")
    login(request, person)
    return _person(request)


@router.post("/sign-out", response={200: PersonOut, **REFUSALS}, operation_id="sign_out")
def sign_out(request: HttpRequest) -> dict[str, object]:
    """End the session."""
    logout(request)
    return _person(request)
