"""What the database holds, as JSON: rows by table, triggers, digests of every sign-off and of the files; by it a restore is checked."""

import json
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from ofen_server.holding import counted


class Command(BaseCommand):
    """Print the counts, or hold them against those of a backup."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Take the counts to hold against."""
        parser.add_argument("--against", type=Path, help="the counts of a backup")

    def handle(self, *args: Any, **options: Any) -> None:
        """Count."""
        now = counted()
        if options["against"] is None:
            self.stdout.write(json.dumps(now, indent=1))
            return
        then = json.loads(options["against"].read_text(encoding="utf-8"))
        rows = sorted(set(now["rows"]) | set(then["rows"]))
        wrong = [
            f"{t}: {then['rows'].get(t)} rows saved, {now['rows'].get(t)} came back"
            for t in rows
            if then["rows"].get(t) != now["rows"].get(t)
        ]
        wrong += [f"{name} are not those that were saved" for name in then if name != "rows" and then[name] != now.get(name)]
        if wrong:
            raise CommandError("; ".join(wrong))
