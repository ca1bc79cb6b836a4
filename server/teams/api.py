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
from ofen_server.models import Epoch
from ofen_server.schemas import REFUSALS

from . import people
from .access import person_of
from .models import Membership
from .people import the_team

router = Router(tags=["teams"])


class SignIn(Schema):
    """Name and password."""

    name: str
    password: str


Role = Literal["lead", "technician", "guest"]


class TeamOut(Schema):
    """A team of the person, and the role there."""

    id: int
    name: str
    role: Role


class PersonOut(Schema):
    """The person signed in; `csrf` goes back in the X-CSRFToken header of every change, `now` is the server's clock.

    `epoch` is another after the database has gone back to an older moment: then a device offers again what it holds.
    """

    id: int | None
    name: str | None
    team: str | None
    team_id: int | None
    role: Role | None
    teams: list[TeamOut]
    units: Literal["metric", "us"]
    theme: Literal["auto", "light", "dark", "contrast"]
    csrf: str
    now: float
    epoch: str


class PersonChange(Schema):
    """How a person likes to see things, and the team they work in."""

    units: Literal["metric", "us"] | None = None
    theme: Literal["auto", "light", "dark", "contrast"] | None = None
    team_id: int | None = None


def _person(request: HttpRequest) -> dict[str, object]:
    # A stranger needs no database.
    epoch = Epoch.now() if request.user.is_authenticated else ""
    here = {"csrf": get_token(request), "now": timezone.now().timestamp(), "epoch": epoch}
    nobody: dict[str, object] = {"id": None, "name": None, "team": None, "team_id": None, "role": None, "teams": []}
    if not request.user.is_authenticated:
        return nobody | {"units": "metric", "theme": "auto", **here}
    person = person_of(request)
    rows = Membership.objects.filter(person=person).select_related("team").order_by("team_id")
    teams = [{"id": m.team_id, "name": m.team.name, "role": m.role} for m in rows]
    mine = next((t for t in teams if t["id"] == person.works_in_id), teams[0] if teams else None)
    return {
        "id": person.pk,
        "name": person.called,
        "team": mine["name"] if mine else None,
        "team_id": mine["id"] if mine else None,
        "role": mine["role"] if mine else None,
        "teams": teams,
        "units": person.units,
        "theme": person.theme,
        **here,
    }


def _check_csrf(request: HttpRequest) -> None:
    # Endpoints without a session are not checked by the framework; signing in must be.
    if CsrfViewMiddleware(lambda r: None).process_view(request, lambda r: None, (), {}):  # type: ignore[arg-type,return-value]
        raise Problem(403, "This page is out of date", "Load it again, then sign in.")


@router.get("/me", auth=None, response={200: PersonOut, **REFUSALS}, operation_id="me")
def me(request: HttpRequest) -> dict[str, object]:
    """Who is signed in, if anyone."""
    return _person(request)


@router.patch("/me", response={200: PersonOut, **REFUSALS}, operation_id="change_me")
def change_me(request: HttpRequest, change: PersonChange) -> dict[str, object]:
    """Change how the person likes to see things, or the team they work in."""
    person = person_of(request)
    told = change.dict(exclude_none=True)
    if "team_id" in told:
        told["works_in"] = the_team(person, told.pop("team_id"))
    for name, value in told.items():
        setattr(person, name, value)
    # Just what was changed: of two changes at once neither takes the other back.
    person.save(update_fields=list(told))
    return _person(request)


@router.post(
    "/sign-in",
    auth=None,
    throttle=[AnonRateThrottle(settings.SIGN_IN_TRIES)],
    operation_id="sign_in",
    response={200: PersonOut, **REFUSALS},
)
def sign_in(request: HttpRequest, given: SignIn) -> dict[str, object]:
    """Sign in with name and password."""
    _check_csrf(request)
    clean = (given.name + given.password).isprintable()
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


class MemberOut(Schema):
    """Someone of the team."""

    name: str
    full_name: str
    role: Role


class RoleIn(Schema):
    """The role someone has in the team."""

    role: Role


@router.get("/people", response={200: list[MemberOut], **REFUSALS}, operation_id="people")
def people_here(request: HttpRequest) -> list[dict[str, str]]:
    """The people of the team one works in."""
    return people.of_team(person_of(request))


@router.put("/people/{name}", response={200: list[MemberOut], **REFUSALS}, operation_id="put_person")
def put_person(request: HttpRequest, name: str, given: RoleIn) -> list[dict[str, str]]:
    """Take someone who has a sign-in into the team, or give them another role."""
    return people.put(person_of(request), name, given.role)


@router.delete("/people/{name}", response={200: list[MemberOut], **REFUSALS}, operation_id="take_person_out")
def take_person_out(request: HttpRequest, name: str) -> list[dict[str, str]]:
    """Take someone out of the team; what they recorded stays."""
    return people.take_out(person_of(request), name)
