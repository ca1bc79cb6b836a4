"""The settings of bin/dev: those of the demo, and the pages of the API beside it."""

from .settings import *  # noqa: F403  these are the settings, with the API's own pages
from .settings import CONTENT_SECURITY_POLICY, INSTALLED_APPS

INSTALLED_APPS = [*INSTALLED_APPS, "django.contrib.staticfiles"]
API_PAGES = "/docs"
# The pages of the API style themselves; nothing else is served from here while developing.
CONTENT_SECURITY_POLICY["DIRECTIVES"] |= {"style-src": ["'self'", "'unsafe-inline'"], "script-src": ["'self'", "'unsafe-inline'"]}
