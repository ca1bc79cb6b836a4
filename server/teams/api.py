"""Signing in and out, and who is signed in."""

from typing import Annotated, Any, Literal

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import CsrfViewMiddleware, get_token
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from ofen_server.errors import Problem
from ofen_server.models import Epoch
from ofen_server.schemas import REFUSALS

from . import access, people
from .access import person_of
from .models import Membership
from .people import the_team
from .tries import Tries

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


class AskedOut(Schema):
    """A team that asks the person to join: as what, and who asks."""

    team_id: int
    team: str
    role: Role
    by: str


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
    asked_into: list[AskedOut]
    units: Literal["metric", "us"]
    english: Literal["", "british", "american"]
    theme: Literal["auto", "light", "dark", "contrast"]
    csrf: str
    now: float
    epoch: str


class PersonChange(Schema):
    """How a person likes to see things, and the team they work in."""

    units: Literal["metric", "us"] | None = None
    english: Literal["", "british", "american"] | None = None
    theme: Literal["auto", "light", "dark", "contrast"] | None = None
    team_id: int | None = None


def _person(request: HttpRequest) -> dict[str, object]:
    # A stranger needs no database.
    epoch = Epoch.now() if request.user.is_authenticated else ""
    here = {"csrf": get_token(request), "now": timezone.now().timestamp(), "epoch": epoch}
    nobody: dict[str, object] = {
        "id": None,
        "name": None,
        "team": None,
        "team_id": None,
        "role": None,
        "teams": [],
        "asked_into": [],
    }
    if not request.user.is_authenticated:
        return nobody | {"units": "metric", "english": "", "theme": "auto", **here}
    person = person_of(request)
    rows = list(Membership.objects.filter(person=person).select_related("team").order_by("team__name"))
    teams = [{"id": m.team_id, "name": m.team.name, "role": m.role} for m in rows]
    mine = access.at_work(person, rows)
    return {
        "id": person.pk,
        "name": person.called,
        "team": mine.team.name if mine else None,
        "team_id": mine.team_id if mine else None,
        "role": mine.role if mine else None,
        "teams": teams,
        "asked_into": people.asked_into(person),
        "units": person.units,
        "english": person.english,
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
    wished = change.dict(exclude_none=True)
    if "team_id" in wished:
        wished["works_in"] = the_team(person, wished.pop("team_id"))
    for name, value in wished.items():
        setattr(person, name, value)
    # Just what was changed: of two changes at once neither takes the other back.
    person.save(update_fields=list(wished))
    return _person(request)


@router.post(
    "/sign-in",
    auth=None,
    operation_id="sign_in",
    response={200: PersonOut, **REFUSALS},
)
def sign_in(request: HttpRequest, response: HttpResponse, given: SignIn) -> dict[str, object]:
    """Sign in with name and password."""
    _check_csrf(request)
    tries = Tries(request, given.name)
    tries.check()
    clean = (given.name + given.password).isprintable()
    person = authenticate(request, username=given.name, password=given.password) if clean else None
    if person is None:
        tries.failed()
        raise Problem(403, "Name or password is not right", "Check both. Capital letters matter.")
    login(request, person)
    tries.succeeded(response)
    return _person(request)


@router.post("/sign-out", response={200: PersonOut, **REFUSALS}, operation_id="sign_out")
def sign_out(request: HttpRequest) -> dict[str, object]:
    """End the session."""
    logout(request)
    return _person(request)


class MemberOut(Schema):
    """Someone of the team, or `asked` to join it."""

    name: str
    full_name: str
    role: Role
    asked: bool


class RoleIn(Schema):
    """The role someone has in the team."""

    role: Role


@router.get("/people", response={200: list[MemberOut], **REFUSALS}, operation_id="people")
def people_here(request: HttpRequest) -> list[dict[str, Any]]:
    """The people of the team one works in."""
    return people.of_team(access.home_team(person_of(request)))


@router.put("/people/{name}", response={200: list[MemberOut], **REFUSALS}, operation_id="put_person")
def put_person(request: HttpRequest, name: str, given: RoleIn) -> list[dict[str, Any]]:
    """Ask someone to join the team, by the name they sign in with; give one of the team another role."""
    return people.put(person_of(request), name, given.role)


@router.delete("/people/{name}", response={200: list[MemberOut], **REFUSALS}, operation_id="take_person_out")
def take_person_out(request: HttpRequest, name: str) -> list[dict[str, Any]]:
    """Take someone out of the team, or take back that they are asked; what they recorded stays."""
    return people.take_out(person_of(request), name)


class YesIn(Schema):
    """Whether one joins."""

    yes: bool


@router.post("/invitations/{team_id}", response={200: PersonOut, **REFUSALS}, operation_id="answer_invitation")
def answer_invitation(request: HttpRequest, team_id: Annotated[int, Field(ge=1, le=2**63 - 1)], given: YesIn) -> dict[str, object]:
    """Join a team that asks, or say no."""
    people.answer(person_of(request), team_id, given.yes)
    return _person(request)
