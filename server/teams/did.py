"""What was done that leaves no other record: told once, where it is done."""

from typing import Any
from uuid import UUID

from . import access
from .models import Did, Person

MOST_WORDS = 300


def did(person: Person, row: Any, act: str, words: str, job: UUID | None = None) -> Did:
    """Keep that somebody did something with what a team owns, in words; of a job where it is one, or where it is named."""
    team = access.team_of(row)
    at = job or (row.pk if row._meta.label == "jobs.Job" else getattr(row, "job_id", None))
    return Did.objects.create(team=team, person=person, job=at, act=act, words=words[:MOST_WORDS])
