"""Settings. Secrets come from the state folder or the environment, never from the repository."""

from __future__ import annotations

import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF

from launch.state import Role, open_state, state_folder

_folder = state_folder()
_here = Path(__file__).resolve().parent
#: The guide's documents, which ship with the program.
DOCS_DIR = _here.parents[1] / "docs"

SECRET_KEY = os.environ.get("KIZAMI_SECRET_KEY") or open_state().secret_key
DEBUG = False
ALLOWED_HOSTS = os.environ.get("KIZAMI_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.humanize",
    "axes",
    "django_htmx",
    "csp",
    "procrastinate.contrib.django",
    # Each uses only those above it; see docs/architecture.md.
    "workshop.people",
    "workshop.files",
    "workshop.drawing",
    "workshop.jobs",
    "workshop.words",
    "workshop.standards",
    "workshop.guide",
    "workshop.catalogue",
    "workshop.sources",
    "workshop.stations",
    "workshop.artwork",
    "workshop.orders",
    "workshop.making",
    "workshop.intake",
    "workshop.feeds",
    "workshop.book",
    "workshop.runs",
    "workshop.curing",
    "workshop.bench",
    "workshop.retention",
    "workshop.opening",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    # Before the forms' token is looked for, which reads the whole body.
    "workshop.people.bodies.BodyLimitMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "workshop.people.nul.NoNulMiddleware",
    # Around the sign-in below, whose answer it turns where a part of a page was asked for.
    "workshop.people.parts.PartsMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    # Every page asks for sign-in unless it says otherwise.
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "workshop.people.caching.NoStoreMiddleware",
    # What a place of the shop may not reach is refused before anything else looks at it.
    "workshop.people.rights.RightsMiddleware",
    "workshop.people.first_password.FirstPasswordMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    # Last, so that it sees every failed sign-in.
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "workshop.urls"
WSGI_APPLICATION = "workshop.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [_here / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
        },
    },
]

_database_user = os.environ.get("KIZAMI_DB_USER", Role.APPLICATION.value)
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": os.environ.get("KIZAMI_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("KIZAMI_DB_PORT", "5432"),
        "NAME": os.environ.get("KIZAMI_DB_NAME", "kizami"),
        "USER": _database_user,
        "PASSWORD": os.environ.get("KIZAMI_DB_PASSWORD") or open_state().passwords[_database_user],
        # No request waits for ever: neither a statement, nor one that holds its rows and does nothing.
        "OPTIONS": {
            "options": "-c statement_timeout=60s -c idle_in_transaction_session_timeout=300s"
            if _database_user == Role.APPLICATION.value
            else ""
        },
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"


def _file_store() -> dict[str, object]:
    """The folder of this machine; or a store that several machines share, by anything that speaks S3."""
    bucket = os.environ.get("KIZAMI_S3_BUCKET", "")
    if not bucket:
        return {
            "BACKEND": "django.core.files.storage.FileSystemStorage",
            "OPTIONS": {
                "location": str(_folder / "files"),
                "allow_overwrite": True,
                "file_permissions_mode": 0o600,
                "directory_permissions_mode": 0o700,
            },
        }
    return {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": bucket,
            "endpoint_url": os.environ.get("KIZAMI_S3_ENDPOINT") or None,
            "region_name": os.environ.get("KIZAMI_S3_REGION") or None,
            # Left out, they are looked for where such stores' programs look for them.
            "access_key": os.environ.get("KIZAMI_S3_KEY") or None,
            "secret_key": os.environ.get("KIZAMI_S3_SECRET") or None,
            "addressing_style": "path",
            # Files are named by what is in them: writing one again changes nothing.
            "file_overwrite": True,
        },
    }


STORAGES = {
    "default": _file_store(),
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
# Nothing is served from here; left empty, test servers would serve the working folder instead.
MEDIA_URL = "media/"
MEDIA_ROOT = _folder / "files"
STATIC_URL = "static/"
STATIC_ROOT = _folder / "static"
STATICFILES_DIRS = [_here / "static"]

LANGUAGE_CODE = "en-gb"
TIME_ZONE = os.environ.get("KIZAMI_TIME_ZONE", "UTC")
USE_TZ = True

LOGIN_URL = "people:sign-in"
LOGIN_REDIRECT_URL = "book:book"
LOGOUT_REDIRECT_URL = "people:sign-in"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
# Guessing is slowed for one name from one address, and with wider bounds for one name from any address and
# for one address with any name (people/lockout.py).
KIZAMI_TRIES_OF_A_NAME = 40
KIZAMI_TRIES_OF_AN_ADDRESS = 60
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False
AXES_LOCKOUT_CALLABLE = "workshop.people.lockout.wait_a_while"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

# Uploads are refused above the stated size before they are read (see orders.views).
FILE_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 6 * 1024 * 1024
DATA_UPLOAD_MAX_NUMBER_FIELDS = 200
DATA_UPLOAD_MAX_NUMBER_FILES = 500

# Behind a proxy that speaks TLS: KIZAMI_TLS=1, and the header by which the proxy says so.
_tls = os.environ.get("KIZAMI_TLS", "") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = _tls
SECURE_SSL_REDIRECT = _tls
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if _tls else 0
if _tls:
    _header = os.environ.get("KIZAMI_PROXY_HEADER", "X-Forwarded-Proto")
    SECURE_PROXY_SSL_HEADER = (f"HTTP_{_header.upper().replace('-', '_')}", "https")
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
SECURE_REDIRECT_EXEMPT = [r"^alive/$"]
SECURE_REFERRER_POLICY = "same-origin"
SECURE_CROSS_ORIGIN_OPENER_POLICY = "same-origin"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
X_FRAME_OPTIONS = "DENY"
CSRF_FAILURE_VIEW = "workshop.people.errors.refused_form"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "data:"],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

PROCRASTINATE_WORKER_DEFAULTS = {
    # A killed worker's job is taken up again after this long without a sign of life.
    "update_heartbeat_interval": 3.0,
    "stalled_worker_timeout": 12.0,
    "fetch_job_polling_interval": 2.0,
    # What was done stands in the order book's own events; the queue keeps only what went wrong.
    "delete_jobs": "successful",
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
