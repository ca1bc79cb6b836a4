"""Compute anew what the jobs need next, where another version of the core computed it: after an upgrade, in the background."""

from typing import Any

from django.core.management.base import BaseCommand

from jobs.attention import refresh_old
from jobs.models import Job


class Command(BaseCommand):
    """Bring the jobs' list up to date with this version."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Refresh every job that another version computed."""
        self.stdout.write(f"{refresh_old(Job.objects.all())} jobs brought up to date")
