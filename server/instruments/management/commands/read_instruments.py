"""Read the connected instruments of those teams that look, for ever: a service of its own beside the application."""

import signal
import sys
from typing import Any

from django.core.management.base import BaseCommand

from instruments import reader


class Command(BaseCommand):
    """Run the reader."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Read until it is ended."""
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        reader.run()
