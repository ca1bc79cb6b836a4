"""Say that the database has gone back to an older moment: every device then offers again what it holds of the time after."""

from typing import Any

from django.core.management.base import BaseCommand

from ofen_server.models import Epoch


class Command(BaseCommand):
    """Begin a new life of the database."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Begin it."""
        Epoch.objects.create()
        self.stdout.write("devices will offer again what they hold")
