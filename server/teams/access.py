"""Who may see and do what: the one door through which every query goes."""

from collections.abc import Sequence
from enum import StrEnum
from typing import Any, TypeVar

from django.db import models
from django.http import Http404, HttpRequest
from structlog.contextvars import bind_contextvars

from ofen_server.errors import Problem

from .models import Membership, Person, Team

M = TypeVar("M", bound=models.Model)


class Act(StrEnum):
    """What can be done with what a team owns."""

    READ = "read"
    WORK = "work"
    SIGN_OFF = "sign_off"
    KEEP_SHELF = "keep_shelf"
    KEEP_PEOPLE = "keep_people"


# Guests read, technicians work, leads also sign off, keep the shelf and the people.
MAY: dict[str, frozenset[Act]] = {
    "guest": frozenset({Act.READ}),
    "technician": frozenset({Act.READ, Act.WORK}),
    "lead": frozenset(Act),
}
REFUSED = {
    Act.WORK: "You are a guest in this team. You can read, but not change. A lead of the team can let you work.",
    Act.SIGN_OFF: "A lead of the team signs off.",
    Act.KEEP_SHELF: "A lead of the team manages its machines and instruments.",
    Act.KEEP_PEOPLE: "A lead of the team manages its people.",
}


def person_of(request: HttpRequest) -> Person:
    """Return the person signed in; the API has refused everyone else before."""
    assert isinstance(request.user, Person)
    return request.user


def visible(model: type[M], person: Person) -> models.QuerySet[M]:
    """Return the rows of a model that belong to a team of this person, and no others."""
    team_path: str = model.TEAM_PATH  # type: ignore[attr-defined]  # declared by every owned model, see the check in tests
    own = Membership.objects.filter(person=person).values("team")
    return model._default_manager.filter(**{f"{team_path}__in": own})


def here(model: type[M], person: Person) -> models.QuerySet[M]:
    """Return the rows that belong to the team in which this person works now."""
    team_path: str = model.TEAM_PATH  # type: ignore[attr-defined]  # as there
    return visible(model, person).filter(**{team_path: home_team(person)})


def team_of(row: models.Model) -> Team:
    """Return the team that owns a row."""
    own_team: Any = row
    if not isinstance(row, Team):
        for step in row.TEAM_PATH.split("__"):  # type: ignore[attr-defined]  # as there
            own_team = getattr(own_team, step)
    assert isinstance(own_team, Team)
    return own_team


def _team_id_of(row: models.Model) -> Any:
    # Most rows hold the id of their team: it need not be fetched.
    return row.team_id if getattr(row, "TEAM_PATH", "") == "team" else team_of(row).pk  # type: ignore[attr-defined]  # as there


def role_in(person: Person, row: models.Model) -> str | None:
    """Return the role a person has in the team that owns a row, or that a row is; None for a stranger."""
    return Membership.objects.filter(person=person, team=_team_id_of(row)).values_list("role", flat=True).first()


def may(person: Person, act: Act, row: models.Model) -> bool:
    """Return whether a person may do an act with what a team owns, or with the team itself."""
    return act in MAY.get(role_in(person, row) or "", frozenset())


def check(person: Person, act: Act, row: models.Model) -> None:
    """Refuse what a person may not do: 404 for a stranger, 403 with the reason for one of the team."""
    allowed = MAY.get(role_in(person, row) or "", frozenset())
    if Act.READ not in allowed:
        raise Http404
    if act not in allowed:
        raise Problem(403, "You are not allowed to do this", REFUSED[act])


def the(model: type[M], person: Person, act: Act = Act.READ, *, lock: bool = False, **lookup: Any) -> M:
    """Return one row for an act; 404 where it does not exist or belongs to another team, 403 where the role is not enough."""
    rows = visible(model, person)
    if lock:
        rows = rows.select_for_update(of=("self",))
    row = rows.filter(**lookup).first()
    if row is None:
        raise Http404
    if act is not Act.READ:
        check(person, act, row)
    if (team := getattr(row, "team_id", None)) is not None:
        bind_contextvars(team=team)
    return row


def at_work(person: Person, rows: Sequence[Membership]) -> Membership | None:
    """Return the membership by which a person works now; None where they have several and have chosen none of them."""
    return next((m for m in rows if m.team_id == person.works_in_id), rows[0] if len(rows) == 1 else None)


def home_team(person: Person, act: Act = Act.READ) -> Team:
    """Return the team in which a person works now: the one they have chosen, or their only one."""
    rows = list(Membership.objects.filter(person=person).select_related("team"))
    mine = at_work(person, rows)
    if mine is None and rows:
        raise Problem(409, "Choose the team you work in", "You belong to more than one team. New jobs go to the one you work in.")
    if mine is None:
        raise Http404
    if act not in MAY[mine.role]:
        raise Problem(403, "You are not allowed to do this", REFUSED[act])
    bind_contextvars(team=mine.team_id)
    return mine.team


def check_same(person: Person, told: int) -> None:
    """Refuse what a device kept for somebody else than whoever is signed in now."""
    if told != person.pk:
        raise Problem(403, "Someone else is signed in here", "These records stay on the device until their own person signs in.")
