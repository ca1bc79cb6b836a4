"""What is handed over: sign-offs of a job, reports that are made, and secret addresses that somebody made and may take back."""

import uuid

from django.conf import settings
from django.db import models


class Feed(models.Model):
    """A secret address under which a calendar reads what is due: on one job, on all of a team, or on all that a person sees.

    Only the digest of the secret is kept. What it shows is what whoever made it may read now.
    """

    TEAM_PATH = "team"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="feeds")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="feeds")
    scope = models.CharField(max_length=10, choices=[("job", "one job"), ("team", "the team"), ("person", "all I see")])
    job = models.ForeignKey("jobs.Job", models.PROTECT, null=True, related_name="feeds")
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    read_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        """A feed of one job names it, another one names none."""

        constraints = [
            models.CheckConstraint(
                condition=models.Q(scope="job", job__isnull=False) | (~models.Q(scope="job") & models.Q(job__isnull=True)),
                name="feed_of_what",
            )
        ]
        ordering = ["-made_at"]


class HandedOver(models.Model):
    """A job signed off as it stood: who, by which name or hand, and the chain over all of it; never changed.

    The whole job as it was signed lies on disk under this id.
    """

    TEAM_PATH = "job__team"

    # Made on the device: sent twice it is one.
    id = models.UUIDField(primary_key=True, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="handed_over")
    revision = models.ForeignKey("jobs.Revision", models.PROTECT, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    # The name as it was typed; the strokes of a hand, each a list of points from 0 to 1000, where it was drawn.
    name = models.CharField(max_length=120)
    strokes = models.JSONField(default=list)
    at = models.DateTimeField(auto_now_add=True)
    head = models.CharField(max_length=64)
    # The links of the chain: name, digest, link of each file.
    files = models.JSONField()
    # What stood open and was signed over all the same, in words.
    over = models.JSONField(default=list)

    class Meta:
        """The newest first."""

        ordering = ["-at"]


class Made(models.Model):
    """A report that was asked for: for whom, how far it is, and where it is made of which state of the job."""

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="reports")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    audience = models.CharField(max_length=12)
    paper = models.CharField(max_length=8)
    units = models.CharField(max_length=8)
    english = models.CharField(max_length=8, default="british", db_default="british")
    zone = models.CharField(max_length=60)
    # The address of the job, which the code on it opens.
    address = models.CharField(max_length=300)
    state = models.CharField(max_length=10, default="asked")
    # In words what is done now, and which part of the whole that is, from 0 to 100.
    doing = models.CharField(max_length=80, blank=True, default="Waiting for the press")
    done = models.PositiveSmallIntegerField(default=0)
    asked_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)
    revision = models.PositiveIntegerField(null=True)
    head = models.CharField(max_length=64, blank=True, default="")
    digest = models.CharField(max_length=64, blank=True, default="", db_index=True)
    pages = models.PositiveIntegerField(null=True)
    size = models.PositiveIntegerField(null=True)
    why = models.CharField(max_length=300, blank=True, default="")
    # How often it was begun.
    tries = models.PositiveSmallIntegerField(default=0, db_default=0)

    class Meta:
        """The newest first; one of a few states."""

        indexes = [models.Index(fields=["ended_at"], name="reports_ended")]

        ordering = ["-asked_at"]
        constraints = [
            models.CheckConstraint(condition=models.Q(state__in=["asked", "making", "made", "failed"]), name="report_state")
        ]


class Share(models.Model):
    """A secret address of a job, until a day: to read what a report for its audience shows, or to take the job into another team.

    Only the digest of the secret is kept.
    """

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="shares")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    what = models.CharField(max_length=10)
    audience = models.CharField(max_length=12, blank=True, default="")
    units = models.CharField(max_length=8)
    english = models.CharField(max_length=8, default="british", db_default="british")
    zone = models.CharField(max_length=60)
    # Whom it is for, as whoever made it said.
    given_to = models.CharField(max_length=120, blank=True, default="")
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField()
    read_at = models.DateTimeField(null=True)
    reads = models.PositiveIntegerField(default=0)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        """The newest first; to read or to take."""

        ordering = ["-made_at"]
        constraints = [models.CheckConstraint(condition=models.Q(what__in=["read", "take"]), name="share_what")]
