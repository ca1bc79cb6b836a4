"""Save the database, its counts and its files as of one moment into a folder, while everybody goes on working."""

import json
import shutil
import subprocess
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection, transaction

from ofen_server.holding import counted, files


class Command(BaseCommand):
    """Save it."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Take the folder and the program that dumps."""
        parser.add_argument("folder", type=Path)
        parser.add_argument("--pg-dump", default="pg_dump")

    def handle(self, *args: Any, **options: Any) -> None:
        """Let the dump, the counts and the list of files see the same moment."""
        folder: Path = options["folder"]
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
            cursor.execute("SELECT pg_export_snapshot()")
            (snapshot,) = cursor.fetchone()
            there, counts = files(), counted()
            self._dumped(options["pg_dump"], snapshot, folder / "database.dump")
        for path, for_ever in there:
            to = folder / "files" / path
            to.parent.mkdir(parents=True, exist_ok=True)
            try:
                shutil.copy2(Path(settings.FILES_ROOT) / path, to)
            except FileNotFoundError:
                # A report that made room for a newer one meanwhile, a file that has come in.
                if for_ever:
                    raise CommandError(f"{path} is gone") from None
        (folder / "files").mkdir(exist_ok=True)
        (folder / "counts.json").write_text(json.dumps(counts, indent=1), encoding="utf-8")

    def _dumped(self, program: str, snapshot: str, to: Path) -> None:
        database = connection.settings_dict
        where = ["-h", database["HOST"], "-p", str(database["PORT"]), "-U", database["USER"]]
        command = [
            program,
            *where,
            "-Fc",
            "--no-owner",
            "--no-privileges",
            f"--snapshot={snapshot}",
            "-f",
            str(to),
            database["NAME"],
        ]
        if subprocess.run(command, check=False).returncode:
            raise CommandError("the database was not saved: pg_dump failed")
