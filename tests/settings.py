"""The server's settings, with a password hash that costs nothing."""

from ofen_server.settings import *  # noqa: F403  these are the settings, less one cost

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
