"""The people of a team: who they are, who comes in with which role, who goes."""

from django.db import transaction
from django.http import Http404

from ofen_server.errors import Problem

from . import access
from .access import Act
from .models import Membership, Person, Team


def the_team(person: Person, team_id: int) -> Team:
    """Return a team of this person; 404 for any other."""
    found = person.teams.filter(pk=team_id).first()
    if found is None:
        raise Http404
    return found


def of_team(person: Person) -> list[dict[str, str]]:
    """Return the people of the team this person works in, by name."""
    rows = Membership.objects.filter(team=access.home_team(person)).select_related("person").order_by("person__username")
    return [{"name": m.person.username, "full_name": m.person.get_full_name(), "role": m.role} for m in rows]


@transaction.atomic
def put(person: Person, name: str, role: str) -> list[dict[str, str]]:
    """Take someone who has a sign-in into the team, or give them another role; never the last lead."""
    team = _kept_by(person)
    someone = Person.objects.filter(username=name).first() if "\x00" not in name else None
    if someone is None:
        raise Problem(404, "Nobody has this name", "Whoever runs Ofen for you can add a sign-in first.")
    Membership.objects.update_or_create(person=someone, team=team, defaults={"role": role})
    _still_led(team)
    return of_team(person)


@transaction.atomic
def take_out(person: Person, name: str) -> list[dict[str, str]]:
    """Take someone out of the team; never the last lead."""
    team = _kept_by(person)
    gone, _ = Membership.objects.filter(team=team, person__username=name.replace("\x00", "")).delete()
    if not gone:
        raise Http404
    _still_led(team)
    return of_team(person)


def _kept_by(person: Person) -> Team:
    # One change of a team's people at a time: two leads must not each take the other out.
    team = access.home_team(person, Act.KEEP_PEOPLE)
    return Team.objects.select_for_update().get(pk=team.pk)


def _still_led(team: Team) -> None:
    if not Membership.objects.filter(team=team, role="lead").exists():
        raise Problem(409, "A team needs a lead", "Make someone else a lead first.")
