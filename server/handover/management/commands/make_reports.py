"""Make the reports that are asked for, one after the other, until ended; what a press left when it ended is begun again."""

import signal
import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from handover import press, turns


class Command(BaseCommand):
    """Run the press."""

    help = __doc__
    # They would load every page of the application, of which the press needs none.
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """Take whether to end once nothing waits."""
        parser.add_argument("--once", action="store_true", help="end once nothing waits")

    def handle(self, *args: Any, **options: Any) -> None:
        """Work off what waits."""
        if not options["once"]:
            signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        try:
            turns.work(options["once"])
        finally:
            press.stop()
