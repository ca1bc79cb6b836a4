"""Commissioning runs, their events, and sign-offs."""

import uuid

from django.conf import settings
from django.db import models


class Run(models.Model):
    """One commissioning of one machine, by the procedure that the plan of one revision gave."""

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="runs")
    revision = models.ForeignKey("jobs.Revision", models.PROTECT, related_name="+")
    unit = models.CharField(max_length=40)
    # The procedure it was begun with, sealed: a newer shipped one never changes it.
    procedure = models.JSONField(null=True)
    begun_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    begun_at = models.DateTimeField(auto_now_add=True)
    # The clock of the device on which it was begun; None where it was begun here.
    device_at = models.DateTimeField(null=True)
    # Of a run that a file brought in: its id there, when it was begun, who signed it off.
    origin = models.JSONField(null=True)


class Event(models.Model):
    """One thing done or seen; the id is made on the device."""

    TEAM_PATH = "run__job__team"

    id = models.UUIDField(primary_key=True, editable=False)
    run = models.ForeignKey(Run, models.PROTECT, related_name="events")
    body = models.JSONField()
    device_at = models.DateTimeField()
    server_at = models.DateTimeField(auto_now_add=True)
    # Whether it was checked wholly as it came in; what an older server let in is read with care.
    checked = models.BooleanField(default=False)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    # What of it read otherwise in the file that brought it in.
    origin = models.JSONField(null=True)


class SignOff(models.Model):
    """A run signed off, with the evidence sealed as it stood."""

    TEAM_PATH = "run__job__team"

    run = models.OneToOneField(Run, models.PROTECT, related_name="sign_off")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)
    # The clock of the device on which it was signed; None where it was signed here.
    device_at = models.DateTimeField(null=True)
    sealed = models.JSONField()
