"""The log of a job, and the files that were brought into it."""

import uuid

from django.conf import settings
from django.db import models


class Entry(models.Model):
    """One reading logged; the id is made on the device. `body` is as it was sent, the columns say the same for queries."""

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="entries")
    kind = models.CharField(max_length=20)
    subject = models.CharField(max_length=40, blank=True, default="")
    value = models.FloatField(null=True)
    vessel = models.IntegerField(null=True)
    place = models.CharField(max_length=20, blank=True, default="")
    corrects = models.UUIDField(null=True)
    # What it was brought in with, by one file.
    batch = models.UUIDField(null=True)
    body = models.JSONField()
    device_at = models.DateTimeField()
    server_at = models.DateTimeField(auto_now_add=True)
    # Whether it was checked wholly as it came in; what an older server let in is read with care.
    checked = models.BooleanField(default=False)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    # What of it read otherwise in the file that brought it in.
    origin = models.JSONField(null=True)

    class Meta:
        """A log is read by job, in time."""

        indexes = [
            models.Index(fields=["job", "device_at"], name="log_of_a_job"),
            models.Index(fields=["job", "kind", "-device_at", "-id"], name="log_of_a_kind"),
            models.Index(fields=["job", "server_at"], name="log_since"),
            models.Index(fields=["job", "corrects"], name="log_corrections", condition=models.Q(corrects__isnull=False)),
            models.Index(fields=["job", "batch"], name="log_batches", condition=models.Q(batch__isnull=False)),
        ]


class Import(models.Model):
    """A file of entries: how it is read, how far it has come in; its id is the batch of its entries, by which it is taken back."""

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="imports")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    name = models.CharField(max_length=200)
    encoding = models.CharField(max_length=20)
    reading = models.JSONField(default=dict)
    rows = models.IntegerField(default=0)
    row = models.IntegerField(default=0)
    kept = models.IntegerField(default=0)
    wrong = models.IntegerField(default=0)
    state = models.CharField(max_length=10, default="seen")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        """The newest first."""

        ordering = ["-made_at"]


class Headings(models.Model):
    """How a team reads columns of these headings: the next file with them is understood at once."""

    TEAM_PATH = "team"

    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="headings")
    digest = models.CharField(max_length=64)
    reading = models.JSONField()
    kept_at = models.DateTimeField(auto_now=True)

    class Meta:
        """One way to read a set of headings."""

        constraints = [models.UniqueConstraint(fields=["team", "digest"], name="one_reading_of_headings")]
