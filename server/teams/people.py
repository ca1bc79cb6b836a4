"""The people of a team: who they are, who comes in with which role, who goes."""

from typing import Any

from django.db import transaction
from django.http import Http404

from ofen.figures.errors import Fault, JobFaults
from ofen_server.errors import Problem

from . import access
from .access import Act
from .models import Invitation, Membership, Person, Team


def the_team(person: Person, team_id: int) -> Team:
    """Return a team of this person; 404 for any other."""
    own_team = person.teams.filter(pk=team_id).first()
    if own_team is None:
        raise Http404
    return own_team


# So many may be asked into a team and not have answered.
MOST_ASKED = 50
LONGEST_NAME = 150
# Somebody whom many teams ask answers these first.
MOST_TOLD = 20


def joined(person: Person, team: Team, role: str) -> None:
    """Let somebody be of a team. The one they have worked in stays the one they work in; their first is it by itself."""
    before = list(Membership.objects.filter(person=person).select_related("team"))
    Membership.objects.get_or_create(person=person, team=team, defaults={"role": role})
    worked = access.at_work(person, before)
    if worked is None or person.works_in_id != worked.team_id:
        person.works_in = worked.team if worked else team
        person.save(update_fields=["works_in"])


def of_team(team: Team) -> list[dict[str, Any]]:
    """Return the people of a team, by name, and those who are asked into it."""
    rows = Membership.objects.filter(team=team).select_related("person").order_by("person__username")
    here = [{"name": m.person.username, "full_name": m.person.get_full_name(), "role": m.role, "asked": False} for m in rows]
    return here + [{"name": i.name, "full_name": "", "role": i.role, "asked": True} for i in Invitation.objects.filter(team=team)]


@transaction.atomic
def put(person: Person, name: str, role: str) -> list[dict[str, Any]]:
    """Give somebody of the team another role, never the last lead; ask anybody else to join, whether there is such a name or not."""
    team = _kept_by(person)
    if Membership.objects.filter(team=team, person__username=name).update(role=role):
        _still_led(team)
        return of_team(team)
    if not name.strip() or len(name) > LONGEST_NAME or not name.isprintable():
        raise JobFaults([Fault("name", f"is no sign-in name: that is up to {LONGEST_NAME} letters and digits")])
    asked = Invitation.objects.filter(team=team)
    if asked.exclude(name=name).count() >= MOST_ASKED:
        raise Problem(
            422,
            "Too many people are invited already",
            f"At most {MOST_ASKED} people can be invited at a time. Withdraw one invitation first.",
        )
    Invitation.objects.update_or_create(team=team, name=name, defaults={"role": role, "by": person})
    return of_team(team)


@transaction.atomic
def take_out(person: Person, name: str) -> list[dict[str, Any]]:
    """Take someone out of the team, or take back that they are asked; never the last lead."""
    team = _kept_by(person)
    gone, _ = Membership.objects.filter(team=team, person__username=name).delete()
    back, _ = Invitation.objects.filter(team=team, name=name).delete()
    if not gone and not back:
        raise Http404
    _still_led(team)
    return of_team(team)


def asked_into(person: Person) -> list[dict[str, Any]]:
    """Return the teams that ask this person to join; one that was asked by somebody who may not any more asks no more."""
    rows = Invitation.objects.filter(name=person.username).select_related("team", "by").order_by("made_at")[:MOST_TOLD]
    return [
        {"team_id": i.team_id, "team": i.team.name, "role": i.role, "by": i.by.called}
        for i in rows
        if access.may(i.by, Act.KEEP_PEOPLE, i.team)
    ]


@transaction.atomic
def answer(person: Person, team_id: int, yes: bool) -> None:
    """Join a team that asks, or say no; either way it asks no more. What one works in stays as it was chosen."""
    invitations = Invitation.objects.select_for_update(of=("self",)).select_related("team", "by")
    asks = invitations.filter(name=person.username, team=team_id).first()
    if asks is None or not access.may(asks.by, Act.KEEP_PEOPLE, asks.team):
        raise Http404
    asks.delete()
    if yes:
        joined(person, asks.team, asks.role)


def _kept_by(person: Person) -> Team:
    # One change of a team's people at a time: two leads must not each take the other out.
    team = access.home_team(person, Act.KEEP_PEOPLE)
    return Team.objects.select_for_update().get(pk=team.pk)


def _still_led(team: Team) -> None:
    if not Membership.objects.filter(team=team, role="lead").exists():
        raise Problem(409, "A team needs a lead", "Make someone else a lead first.")
