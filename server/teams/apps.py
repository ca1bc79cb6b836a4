"""The teams app."""

from django.apps import AppConfig


class TeamsConfig(AppConfig):
    """People, teams, sign-in."""

    name = "teams"
