"""Make the reports that are asked for, one after the other, until ended; what a press left when it ended is begun again."""

import asyncio
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from procrastinate.contrib.django import app

from handover.reports import QUEUE, left_behind, put_in_queue


class Command(BaseCommand):
    """Run the press."""

    help = __doc__
    # They would load every page of the application, of which the press needs none.
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """Take whether to end once nothing waits."""
        parser.add_argument("--once", action="store_true", help="end once nothing waits")

    def handle(self, *args: Any, **options: Any) -> None:
        """Work off the queue."""
        for made_id in left_behind():
            put_in_queue(made_id)
        connector: Any = app.connector
        with app.replace_connector(connector.get_worker_connector()):
            asyncio.run(self._work(wait=not options["once"]))

    async def _work(self, wait: bool) -> None:
        async with app.open_async():
            await app.run_worker_async(
                queues=[QUEUE], concurrency=1, wait=wait, fetch_job_polling_interval=2.0, delete_jobs="successful"
            )
