"""Who may see what: the one place through which every query goes."""

from typing import Any, Protocol, TypeVar

from django.db import models
from django.http import Http404, HttpRequest

from .models import Person, Team


class Owned(Protocol):
    """A model that says how it reaches its team."""

    TEAM_PATH: str


M = TypeVar("M", bound=models.Model)


def person_of(request: HttpRequest) -> Person:
    """Return the person signed in; the API has refused everyone else before."""
    assert isinstance(request.user, Person)
    return request.user


def visible(model: type[M], person: Person) -> models.QuerySet[M]:
    """Return the rows of a model that belong to a team of this person, and no others."""
    team_path: str = model.TEAM_PATH  # type: ignore[attr-defined]  # declared by every owned model, see the check in tests
    return model._default_manager.filter(**{f"{team_path}__membership__person": person})


def the(model: type[M], person: Person, *, lock: bool = False, **lookup: Any) -> M:
    """Return one visible row; 404 where it does not exist or belongs to another team."""
    rows = visible(model, person)
    if lock:
        rows = rows.select_for_update(of=("self",))
    found = rows.filter(**lookup).first()
    if found is None:
        raise Http404
    return found


def home_team(person: Person) -> Team:
    """Return the team in which a person makes new jobs: their first."""
    team = person.teams.order_by("id").first()
    if team is None:
        raise Http404
    return team
