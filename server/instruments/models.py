"""A team's instruments, what was tried of each, and what they show now."""

from django.conf import settings
from django.db import models


class Instrument(models.Model):
    """An instrument on a team's shelf; the core has read its sheet. One taken off is kept: readings name it."""

    TEAM_PATH = "team"

    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="instruments")
    key = models.CharField(max_length=40)
    sheet = models.JSONField()
    off = models.BooleanField(default=False)
    put_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    put_at = models.DateTimeField(auto_now=True)

    class Meta:
        """One sheet a key within a team."""

        constraints = [models.UniqueConstraint(fields=["team", "key"], name="one_instrument_a_key")]
        ordering = ["key"]


class Trial(models.Model):
    """What was tried of an instrument: zeroed, bump-tested, calibrated. It only grows; the id is made on the device."""

    TEAM_PATH = "instrument__team"

    id = models.UUIDField(primary_key=True, editable=False)
    instrument = models.ForeignKey(Instrument, models.PROTECT, related_name="trials")
    body = models.JSONField()
    device_at = models.DateTimeField()
    server_at = models.DateTimeField(auto_now_add=True)
    # Whether it was checked wholly as it came in.
    checked = models.BooleanField(default=False)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        """Read by instrument, newest first."""

        indexes = [models.Index(fields=["instrument", "-device_at"], name="trials_of_an_instrument")]


class Watch(models.Model):
    """What the instruments of a team show, while somebody looks: one row a team, written anew each second."""

    TEAM_PATH = "team"

    team = models.OneToOneField("teams.Team", models.CASCADE, primary_key=True, related_name="watch")
    watched_at = models.DateTimeField()
    read_at = models.DateTimeField(null=True)
    values = models.JSONField(default=dict)
