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
