"""Add a person to a team: add_person NAME TEAM, the password typed or in OFEN_PASSWORD."""

import os
from getpass import getpass
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from teams.models import Person, Team
from teams.people import joined


def add(name: str, team: str, password: str, full_name: str = "", role: str = "") -> Person:
    """Return the person of that name in that team, made where not there yet; a password and a role once set are kept.

    Without a role the first in a team leads it, those who come later are technicians.
    """
    first, _, last = full_name.partition(" ")
    person, made = Person.objects.get_or_create(username=name, defaults={"first_name": first, "last_name": last})
    if made:
        person.set_password(password)
        person.save()
    into, _ = Team.objects.get_or_create(name=team)
    usual = "technician" if into.people.exists() else "lead"
    joined(person, into, role or usual)
    return person


class Command(BaseCommand):
    """Add a person to a team; both are made where they are not there yet."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Take name, team and full name."""
        parser.add_argument("name")
        parser.add_argument("team")
        parser.add_argument("--full-name", default="")
        parser.add_argument("--role", default="", choices=["", "lead", "technician", "guest"])

    def handle(self, *args: Any, **options: Any) -> None:
        """Check the password and make what is not there yet."""
        name, team = options["name"], options["team"]
        if Person.objects.filter(username=name).exists():
            add(name, team, "", options["full_name"], options["role"])
            self.stdout.write(f"{name} is already known and keeps name, password and roles. Is in {team}")
            return
        password = os.environ.get("OFEN_PASSWORD") or getpass("Password: ")
        try:
            validate_password(password, Person(username=name, first_name=options["full_name"]))
        except ValidationError as weak:
            raise CommandError(" ".join(weak.messages)) from None
        add(name, team, password, options["full_name"], options["role"])
        self.stdout.write(f"{name} is in {team}")
