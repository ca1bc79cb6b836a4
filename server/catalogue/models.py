"""A team's own machines, over the shipped ones."""

from django.conf import settings
from django.db import models


class Machine(models.Model):
    """A data sheet on a team's shelf; the core has read it and found it to make sense."""

    TEAM_PATH = "team"

    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="machines")
    key = models.CharField(max_length=40)
    sheet = models.JSONField()
    put_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    put_at = models.DateTimeField(auto_now=True)

    class Meta:
        """One sheet a key within a team."""

        constraints = [models.UniqueConstraint(fields=["team", "key"], name="one_machine_a_key")]
        ordering = ["key"]


class Vessel(models.Model):
    """A vessel a team owns, as it is stamped; the core has read its sheet. One given away is kept: its moves name it."""

    TEAM_PATH = "team"

    team = models.ForeignKey("teams.Team", models.PROTECT, related_name="vessels")
    key = models.CharField(max_length=40)
    sheet = models.JSONField()
    off = models.BooleanField(default=False)
    put_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    put_at = models.DateTimeField(auto_now=True)

    class Meta:
        """One sheet a key within a team."""

        constraints = [models.UniqueConstraint(fields=["team", "key"], name="one_vessel_a_key")]
        ordering = ["key"]


class Move(models.Model):
    """Where a vessel went and what it weighed. It only grows; the id is made on the device."""

    TEAM_PATH = "vessel__team"

    id = models.UUIDField(primary_key=True, editable=False)
    vessel = models.ForeignKey(Vessel, models.PROTECT, related_name="moves")
    body = models.JSONField()
    device_at = models.DateTimeField()
    server_at = models.DateTimeField(auto_now_add=True)
    # Whether it was checked wholly as it came in.
    checked = models.BooleanField(default=False)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        """Read by vessel, in time."""

        indexes = [models.Index(fields=["vessel", "device_at"], name="moves_of_a_vessel")]
