"""The jobs app."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs and their revisions."""

    name = "jobs"
