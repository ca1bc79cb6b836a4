"""The log of a job."""

from django.conf import settings
from django.db import models


class Entry(models.Model):
    """One reading logged; the id is made on the device."""

    TEAM_PATH = "job__team"

    id = models.UUIDField(primary_key=True, editable=False)
    job = models.ForeignKey("jobs.Job", models.PROTECT, related_name="entries")
    body = models.JSONField()
    device_at = models.DateTimeField()
    server_at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
