"""A job and its immutable revisions."""

import uuid

from django.conf import settings
from django.contrib.postgres.functions import RandomUUID
from django.db import models


class Job(models.Model):
    """A job of a team; what it says is its newest revision.

    The columns from `name` on are what the list shows: computed by `attention` whenever something changes, never typed.
    """

    TEAM_PATH = "team"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="jobs")
    made_at = models.DateTimeField(auto_now_add=True)
    # Filed away: out of the list, nothing of it lost.
    filed_at = models.DateTimeField(null=True)
    name = models.CharField(max_length=200, blank=True, default="")
    note = models.CharField(max_length=500, blank=True, default="")
    place = models.CharField(max_length=300, blank=True, default="")
    saved_at = models.DateTimeField(null=True)
    next_code = models.CharField(max_length=40, blank=True, default="")
    next_words = models.CharField(max_length=300, blank=True, default="")
    next_stage = models.CharField(max_length=20, blank=True, default="need")
    next_rank = models.IntegerField(default=9)
    # When the vessels are likely to want changing, the soonest.
    change_over_at = models.DateTimeField(null=True)
    # When the next visit is due, and the soonest safety test; all that is due, as the core lists it.
    visit_at = models.DateTimeField(null=True)
    test_at = models.DateTimeField(null=True)
    due = models.JSONField(default=list)
    # When something was logged last, None for a job that does not run yet; how many machines have a bypass open.
    logged_at = models.DateTimeField(null=True)
    bypasses = models.IntegerField(default=0)
    # What the list is searched in: names, places, machines, serials, people, in lower case; who worked at it, by sign-in name.
    found_by = models.TextField(blank=True, default="")
    people = models.JSONField(default=list)
    # Brought in from a file: what of it belongs to where it came from, so that the file comes out again as it was.
    origin = models.JSONField(null=True)
    # The version of the core that computed them.
    next_by = models.CharField(max_length=20, blank=True, default="")


class Revision(models.Model):
    """One saved state of a job document; never changed."""

    TEAM_PATH = "job__team"

    uid = models.UUIDField(unique=True, editable=False, default=uuid.uuid4, db_default=RandomUUID())
    job = models.ForeignKey(Job, models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)
    core_version = models.CharField(max_length=20)
    # What the device that made it said: its version of the rules, and whether its plan was the one made here.
    device_version = models.CharField(max_length=20, blank=True, default="", db_default="")
    device_agrees = models.BooleanField(null=True, default=None)

    class Meta:
        """Numbers count up from 1 within a job."""

        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="one_revision_number"),
            models.CheckConstraint(condition=models.Q(number__gte=1), name="revision_from_1"),
        ]
        ordering = ["job", "number"]


class OwnStart(models.Model):
    """A job a team has kept to begin others from: its document as it was."""

    TEAM_PATH = "team"

    id = models.UUIDField(primary_key=True, editable=False)
    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="starts")
    title = models.CharField(max_length=120)
    document = models.JSONField()
    kept_at = models.DateTimeField(auto_now=True)
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)


class Paper(models.Model):
    """A permit, drawing or photo kept with a job: the file lies on disk under its id there, never changed.

    Within its job it is told by `uid`, which the device made; a job brought in twice has the same ones.
    """

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    uid = models.UUIDField(editable=False)
    job = models.ForeignKey(Job, models.PROTECT, related_name="papers")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=40)
    size = models.PositiveIntegerField()
    digest = models.CharField(max_length=64)
    kept_at = models.DateTimeField(auto_now_add=True)
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    # Who kept it when, where it came from.
    origin = models.JSONField(null=True)

    class Meta:
        """One paper of an id in a job."""

        constraints = [models.UniqueConstraint(fields=["job", "uid"], name="one_paper_of_an_id")]
