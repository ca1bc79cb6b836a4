"""The newest forecast of each job."""

from django.db import models


class Forecast(models.Model):
    """The newest forecast that was fetched for a job, with the hours of older ones before it. It is no record: a newer one replaces it."""

    TEAM_PATH = "job__team"

    job = models.OneToOneField("jobs.Job", models.CASCADE, related_name="weather")
    body = models.JSONField()
    # The clock that its hours are told in: that of the device on which it was asked for.
    zone = models.CharField(max_length=60, default="UTC")
    fetched_at = models.DateTimeField(auto_now=True)
