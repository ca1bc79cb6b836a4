"""The jobs app."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs and their revisions."""

    name = "jobs"

    def ready(self) -> None:
        """Follow what changes a job."""
        from . import attention  # noqa: F401  connects itself
