"""Serve made-up weather on loopback, as a provider of forecasts does: --port, --seed, --colder by how many kelvin what comes is colder."""

import contextlib
from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from weather.stand_in import HOST, PORT, StandIn, server


class Command(BaseCommand):
    """Run the stand-in."""

    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take where to listen, and which weather."""
        parser.add_argument("--port", type=int, default=PORT)
        parser.add_argument("--seed", type=int, default=1)
        parser.add_argument("--colder", type=float, default=0.0)

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve until it is ended."""
        with server(StandIn(options["seed"], options["colder"]), options["port"]) as serving:
            self.stdout.write(f"made-up weather at http://{HOST}:{options['port']}")
            self.stdout.flush()
            with contextlib.suppress(KeyboardInterrupt):
                serving.serve_forever()
