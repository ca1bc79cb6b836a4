"""Say which migrations the database has had that this version does not know: a newer one made it."""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    """Print the migrations of the database that are unknown here; nothing where it fits."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Compare what was applied with what lies on disk."""
        loader = MigrationLoader(connection)
        unknown = {key for key in loader.applied_migrations if key[0] in loader.migrated_apps} - set(loader.disk_migrations)
        replaced = {key for migration in loader.replacements.values() for key in migration.replaces}
        self.stdout.write(", ".join(sorted(f"{app}.{name}" for app, name in unknown - replaced)), ending="")
