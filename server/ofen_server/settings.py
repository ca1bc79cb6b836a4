"""Settings; what differs from place to place comes from the environment."""

import os
from pathlib import Path

from . import logs

ROOT = Path(__file__).resolve().parents[2]
LOOPBACK = ["127.0.0.1", "localhost"]

# "demo" serves plain HTTP on loopback; anything else is production behind TLS.
DEMO = os.environ.get("OFEN_MODE", "production") == "demo"

SECRET_KEY = os.environ.get("OFEN_SECRET_KEY", "")
DEBUG = False
ALLOWED_HOSTS = LOOPBACK if DEMO else [h for h in os.environ.get("OFEN_HOSTS", "").split(",") if h]
CSRF_TRUSTED_ORIGINS = [] if DEMO else [f"https://{h}" for h in ALLOWED_HOSTS if h]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "ofen_server",
    "teams",
    "catalogue",
    "instruments",
    "weather",
    "jobs",
    "fieldwork",
    "logbook",
    "outbox",
    "handover",
]
MIDDLEWARE = [
    "ofen_server.logs.RequestLogMiddleware",
    "ofen_server.bounds.BoundsMiddleware",
    "ofen_server.packing.PackedMiddleware",
    "csp.middleware.CSPMiddleware",
    "ofen_server.engine.EnginePolicyMiddleware",
    "ofen_server.errors.TooLargeMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "ofen_server.urls"
WSGI_APPLICATION = "ofen_server.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("OFEN_DB_NAME", "ofen"),
        "USER": os.environ.get("OFEN_DB_USER", "ofen"),
        "PASSWORD": os.environ.get("OFEN_DB_PASSWORD", ""),
        "HOST": os.environ.get("OFEN_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("OFEN_DB_PORT", "5432"),
        "CONN_HEALTH_CHECKS": True,
        # One connection a thread and some to spare; where the database does not answer, whoever asks is told soon.
        "OPTIONS": {
            "pool": {"min_size": 1, "max_size": 12, "timeout": 2, "reconnect_timeout": 2},
            "connect_timeout": 2,
            # Making a program of a query takes longer than any query here.
            # And what serves requests waits for no query longer than this; a command may (0 is for ever).
            "options": f"-c jit=off -c statement_timeout={int(os.environ.get('OFEN_STATEMENT_TIMEOUT_MS', '0'))}",
        },
    }
}
# Large enough that a flood of made-up names pushes no count of tries out.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.db.DatabaseCache",
        "LOCATION": "cache",
        "OPTIONS": {"MAX_ENTRIES": 100_000},
    }
}
SESSION_ENGINE = "django.contrib.sessions.backends.db"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "teams.Person"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
# How many proxies stand before the application: of X-Forwarded-For only what they wrote counts.
NINJA_NUM_PROXIES = int(os.environ.get("OFEN_PROXIES", "0" if DEMO else "1"))
SIGN_IN_TRIES = os.environ.get("OFEN_SIGN_IN_TRIES", "20/m")

# Where the API shows its own pages under /api, None nowhere.
API_PAGES: str | None = None
# How many reports a person may ask for.
REPORTS = os.environ.get("OFEN_REPORTS", "12/m")
# At so many desks, processes beside each of the server's own, the core computes for requests: none for longer than this, and each
# desk is renewed after so many turns.
DESKS, DESK_TURNS = int(os.environ.get("OFEN_DESKS", "2")), 2_000
LONGEST_REQUEST_S = 5.0

# Which instruments may be read: networks with ports, serial ports. None unless whoever runs the server names them.
INSTRUMENTS = [r for r in os.environ.get("OFEN_INSTRUMENTS", "127.0.0.0/8:5100-5199" if DEMO else "").split(",") if r]

# The service that forecasts are fetched from, as an address of HTTP; none unless whoever runs the server names it.
WEATHER = os.environ.get("OFEN_WEATHER", "http://127.0.0.1:5290/" if DEMO else "")

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-us"

STATIC_URL = "/static/"
WHITENOISE_ROOT = Path(os.environ.get("OFEN_WEB_DIST", ROOT / "web" / "dist"))
WHITENOISE_INDEX_FILE = False
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/(assets|engine)/"
WHITENOISE_MIMETYPES = {".webmanifest": "application/manifest+json", ".mjs": "text/javascript", ".wasm": "application/wasm"}
# A new version of the application is found by asking for these again.
WHITENOISE_MAX_AGE = 0

LARGEST_BODY_BYTES = 5 * 1024 * 1024
# A permit, a photo: kept on disk beside the database, under one root.
LARGEST_PAPER_BYTES = 10 * 1024 * 1024
# A whole job with its pictures.
LARGEST_WHOLE_JOB_BYTES = 64 * 1024 * 1024
FILES_ROOT = Path(os.environ.get("OFEN_FILES", ROOT / ".run" / "files"))
DATA_UPLOAD_MAX_MEMORY_SIZE = LARGEST_PAPER_BYTES + 64 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = LARGEST_BODY_BYTES

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        "img-src": ["'self'", "data:"],
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
        "form-action": ["'self'"],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = not DEMO
SECURE_HSTS_SECONDS = 0 if DEMO else 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = not DEMO
SECURE_PROXY_SSL_HEADER = None if DEMO else ("HTTP_X_FORWARDED_PROTO", "https")

LOGGING = logs.configured(os.environ.get("OFEN_LOG_LEVEL", "WARNING" if DEMO else "INFO"))
SECURE_REDIRECT_EXEMPT = [r"^health$", r"^ready$"]
