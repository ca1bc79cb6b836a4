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

    class Meta:
        """A log is read by job, in time."""

        indexes = [
            models.Index(fields=["job", "device_at"], name="log_of_a_job"),
            models.Index(fields=["job", "kind", "-device_at", "-id"], name="log_of_a_kind"),
            models.Index(fields=["job", "server_at"], name="log_since"),
            models.Index(fields=["job", "corrects"], name="log_corrections", condition=models.Q(corrects__isnull=False)),
            models.Index(fields=["job", "batch"], name="log_batches", condition=models.Q(batch__isnull=False)),
        ]
