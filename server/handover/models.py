"""Feeds of a calendar: secret addresses that somebody made, and may take back."""

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
