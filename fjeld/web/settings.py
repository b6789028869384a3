"""Settings, all from the environment, each with a default fit for one machine."""

from __future__ import annotations

import os
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.management.utils import get_random_secret_key

PACKAGE = Path(__file__).resolve().parent
VAR = Path(os.environ.get("FJELD_VAR", PACKAGE.parent.parent / "var"))

DEMO = os.environ.get("FJELD_DEMO") == "1"
DEBUG = os.environ.get("FJELD_DEBUG") == "1"
TLS = os.environ.get("FJELD_TLS") == "1"


def _secret_key() -> str:
    """From the environment, else made once and kept beside the database."""
    if key := os.environ.get("FJELD_SECRET_KEY"):
        return key
    VAR.mkdir(parents=True, exist_ok=True)
    kept = VAR / "secret-key"
    if not kept.exists() or not kept.read_text().strip():
        # Written beside and put in place whole: a process that starts at the same time reads one key or the
        # other.
        part = kept.with_name(f"secret-key.{os.getpid()}")
        part.touch(mode=0o600)
        part.write_text(get_random_secret_key())
        part.replace(kept)
    return kept.read_text().strip()


SECRET_KEY = _secret_key()
ALLOWED_HOSTS = os.environ.get("FJELD_HOSTS", "localhost,127.0.0.1,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "fjeld.web.accounts",
    "fjeld.web.jobs",
    "fjeld.web.desk",
    "fjeld.web.ui",
    "fjeld.web.http",
]

MIDDLEWARE = [
    "fjeld.web.middleware.Logged",
    "fjeld.web.middleware.TooLarge",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "fjeld.web.middleware.Private",
    "csp.middleware.CSPMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "fjeld.web.middleware.LocalTime",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
]

ROOT_URLCONF = "fjeld.web.urls"
WSGI_APPLICATION = "fjeld.web.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [PACKAGE / "templates"],
        "APP_DIRS": False,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "fjeld.web.ui.context.frame",
            ],
            "builtins": ["fjeld.web.ui.templatetags.figures"],
        },
    }
]

# Parts of pages that are the same for as long as nothing on them changes, by what is on them.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.locmem.LocMemCache",
        "TIMEOUT": 3600,
        "OPTIONS": {"MAX_ENTRIES": 2000},
    }
}

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": os.environ.get("FJELD_DATABASE", VAR / "fjeld.sqlite3"),
        # A thread keeps its connection: opening one reads the schema anew. A restore goes through SQLite
        # itself.
        "CONN_MAX_AGE": 600,
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            # Synchronous FULL: an acknowledged edit outlives a loss of power.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.Argon2PasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "fjeld.web.accounts.passwords.NoBlanks"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "jobs"
LOGOUT_REDIRECT_URL = "sign-in"

LANGUAGE_CODE = "en"
TIME_ZONE = os.environ.get("FJELD_TIME_ZONE", "UTC")
USE_TZ = True

STATIC_URL = "/static/"
STATICFILES_DIRS = [PACKAGE / "static"]
# Ours alone: what packages bring along is asked for by no page, and would be compressed at each start.
STATICFILES_FINDERS = ["django.contrib.staticfiles.finders.FileSystemFinder"]
STATIC_ROOT = VAR / "static"
# As they lie in the source, for tests; served for people they are collected and compressed first.
WHITENOISE_USE_FINDERS = True
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
WHITENOISE_MAX_AGE = 3600 if not DEBUG else 0

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "manifest-src": [SELF],
    }
}
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = TLS
SECURE_HSTS_SECONDS = 31_536_000 if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = TLS
SESSION_COOKIE_SAMESITE = "Lax"
#: No request's body is larger, bytes.
LARGEST_BODY = 9_000_000
LARGEST_PHOTO = 32_000_000
DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 5_000_000

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s [%(process)d] %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"fjeld": {"level": os.environ.get("FJELD_LOG", "WARNING")}},
}


def _number(name: str, usual: int) -> int:
    """A limit from the environment; what is no number is told at once."""
    text = os.environ.get(name, str(usual))
    if not text.isascii() or not text.isdigit():
        raise ValueError(f"{name} is “{text}”; it is to be a whole number")
    return int(text)


#: What each process keeps in memory, bytes: results of derive's stages, plans, drawings, screens.
MEMO_BYTES = 1_000_000 * _number("FJELD_MEMO_MB", 96)
PLANS_BYTES = 1_000_000 * _number("FJELD_PLANS_MB", 48)
DRAWINGS_BYTES = 1_000_000 * _number("FJELD_DRAWINGS_MB", 24)
SCREENS_BYTES = 1_000_000 * _number("FJELD_SCREENS_MB", 24)
#: Processes and their threads. The database is one file: more processes than cores gain nothing.
WORKERS = _number("FJELD_WORKERS", min(4, os.cpu_count() or 1))
THREADS = _number("FJELD_THREADS", 4)
#: Reading a stranger's file: seconds and bytes of a process of its own.
READER_SECONDS = _number("FJELD_READER_SECONDS", 20)
READER_BYTES = 1_000_000 * _number("FJELD_READER_MB", 1024)
#: Proxies in front that are trusted to say where a request came from, and whether by TLS.
PROXIES = _number("FJELD_PROXIES", 0)
if PROXIES:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
#: Whether strangers may make an account, and how many an hour from one address.
SIGN_UP = os.environ.get("FJELD_SIGN_UP", "1") == "1"
SIGN_UPS_AN_HOUR = _number("FJELD_SIGN_UPS_AN_HOUR", 20)
