"""Fetch the forecasts of all jobs that run: once, or with --every so many seconds for ever, a service beside the application."""

import signal
import sys
import time
from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from weather.actions import fetch_due

# Where a forecast did not come it is asked for again so soon.
SOON_S = 60.0


class Command(BaseCommand):
    """Fetch what is old."""

    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take how often."""
        parser.add_argument("--every", type=float, default=0.0)

    def handle(self, *args: Any, **options: Any) -> None:
        """Fetch until it is ended, or once."""
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        while True:
            done, failed = fetch_due()
            self.stdout.write(f"{done} forecasts fetched, {failed} did not come")
            self.stdout.flush()
            if not options["every"]:
                return
            time.sleep(min(options["every"], SOON_S) if failed else options["every"])
