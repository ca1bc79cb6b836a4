"""The log of a job."""

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
    body = models.JSONField()
    device_at = models.DateTimeField()
    server_at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)

    class Meta:
        """A log is read by job, in time."""

        indexes = [models.Index(fields=["job", "device_at"], name="log_of_a_job")]
