"""Settings. Everything that differs between machines comes from the environment; nothing secret is in here.

CULTRIX_VAR     folder for the database, the secret key and uploads (default: var/ beside the sources)
CULTRIX_HOSTS   comma-separated host names served (default: localhost only)
CULTRIX_HTTPS   1 when served behind HTTPS: cookies are then sent over HTTPS only
"""

import os
import secrets
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("CULTRIX_VAR", ROOT / "var"))
VAR.mkdir(parents=True, exist_ok=True)
WEB_BUILD = ROOT / "web" / "dist"


def _secret_key() -> str:
    """A key of this installation's own, made at first start and readable by its owner only."""
    path = VAR / "secret.key"
    if not path.exists():
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as handle:
            handle.write(secrets.token_urlsafe(64))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
HTTPS = os.environ.get("CULTRIX_HTTPS") == "1"
ALLOWED_HOSTS = [*filter(None, os.environ.get("CULTRIX_HOSTS", "").split(",")), "localhost", "127.0.0.1"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "simple_history",
    "axes",
    "csp",
    "apps.accounts",
    "apps.farms",
    "apps.trials",
    "apps.records",
    "apps.jobs",
    "apps.yieldlogs",
    "apps.planting",
    "apps.scouting",
    "apps.estimates",
    "apps.weather",
    "apps.verdicts",
    "apps.money",
    "apps.reports",
    "apps.demo",
]
MIDDLEWARE = [
    "csp.middleware.CSPMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES: list[dict[str, object]] = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "server" / "apps" / "reports" / "templates"],
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "cultrix.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": VAR / f"test-{os.environ.get('PYTEST_XDIST_WORKER', 'main')}.sqlite3"},
    }
}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
AXES_LOCKOUT_CALLABLE = "apps.accounts.services.keep_answer"

SESSION_COOKIE_AGE = 60 * 60 * 24 * 14
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        "img-src": ["'self'", "data:", "blob:"],
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "form-action": ["'self'"],
        "frame-ancestors": ["'none'"],
    }
}

UPLOAD_LIMIT_BYTES = 5_000_000
PHOTO_LIMIT_BYTES = 12_000_000
PHOTOS = VAR / "photos"
LOG_LIMIT_BYTES = 120_000_000
PACKAGE_LOG_BYTES = 20_000_000  # raw logs that a data package takes along
PACKAGE_LIMIT_BYTES = 25_000_000
LOGS = VAR / "logs"
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 1_000_000

LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True
STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATIC_ROOT.mkdir(exist_ok=True)
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.exists() else None
WHITENOISE_INDEX_FILE = False
WHITENOISE_ALLOW_ALL_ORIGINS = False
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
SILENCED_SYSTEM_CHECKS = ["ninja.W001"]
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "loggers": {"django.request": {"handlers": ["console"], "level": "ERROR", "propagate": False}},
}
