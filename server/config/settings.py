"""Settings. Everything that differs between machines comes from the environment; nothing secret is in here.

CULTRIX_VAR     folder for the database, the secret key and uploads (default: var/ beside the sources)
CULTRIX_HOSTS   comma-separated host names served (default: localhost only)
CULTRIX_HTTPS   1 when served behind HTTPS: cookies are then sent over HTTPS only
CULTRIX_PROXY   1 when a web server in front sets X-Forwarded-For: its word on where a request comes from is then believed
CULTRIX_BACKUPS folder for backups (default: backups/ in CULTRIX_VAR); one on another disk outlives this one
CULTRIX_BACKUP_PASSPHRASE_FILE   file with a passphrase: the daily backups are encrypted with it
CULTRIX_MAIL_HOST, _PORT, _USER, _PASSWORD, _FROM   a mail server, where invitations are to be sent by mail
CULTRIX_SPACE_GB, CULTRIX_UPLOADS_AN_HOUR, CULTRIX_RESERVE_MB   limits of a workspace's uploads; room kept free on the disk
"""

import os
import secrets
from datetime import timedelta
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("CULTRIX_VAR", ROOT / "var"))
VAR.mkdir(mode=0o700, parents=True, exist_ok=True)
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
BEHIND_PROXY = os.environ.get("CULTRIX_PROXY") == "1"
ALLOWED_HOSTS = [*filter(None, os.environ.get("CULTRIX_HOSTS", "").split(",")), "localhost", "127.0.0.1"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "simple_history",
    "csp",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "apps.audit",
    "apps.accounts",
    "apps.intake",
    "apps.health",
    "apps.farms",
    "apps.trials",
    "apps.field",
    "apps.jobs",
    "apps.field.logs",
    "apps.field.planting",
    "apps.field.season",
    "apps.field.samples",
    "apps.field.weather",
    "apps.field.attachments",
    "apps.field.tasks",
    "apps.trial_state",
    "apps.analysis.verdict",
    "apps.analysis.economics",
    "apps.pages",
    "apps.report",
    "apps.demo",
    "apps.backup",
]
MIDDLEWARE = [
    "config.headers.PrivateMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "apps.accounts.workspaces.TimeZoneMiddleware",
    "apps.accounts.devices.DeviceMiddleware",
    "apps.base.device_clock.ClockMiddleware",
    "apps.base.read_once.ReadOnceMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES: list[dict[str, object]] = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "server" / "apps" / "report" / "templates"],
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "cultrix.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": VAR / f"test-{os.environ.get('PYTEST_XDIST_WORKER', 'main')}.sqlite3"},
    }
}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator",
        "OPTIONS": {"user_attributes": ("username", "first_name", "last_name")},
    },
]
OTP_TOTP_ISSUER = "Cultrix"
OTP_TOTP_THROTTLE_FACTOR = 1

# Mail is sent where a server for it is named, and nowhere else.
EMAIL_HOST = os.environ.get("CULTRIX_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("CULTRIX_MAIL_PORT", "587"))
EMAIL_HOST_USER = os.environ.get("CULTRIX_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("CULTRIX_MAIL_PASSWORD", "")
EMAIL_USE_TLS = EMAIL_PORT != 25
EMAIL_TIMEOUT = 15
DEFAULT_FROM_EMAIL = os.environ.get("CULTRIX_MAIL_FROM", EMAIL_HOST_USER or "cultrix@localhost")

# A device of one's own may be left alone for two weeks in the field; one that is shared is signed out soon.
DEVICE_IDLE, DEVICE_LIFE = timedelta(days=14), timedelta(days=60)
SHARED_IDLE, SHARED_LIFE = timedelta(minutes=30), timedelta(hours=12)
SESSION_COOKIE_AGE = int(DEVICE_LIFE.total_seconds())
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_SSL_REDIRECT = HTTPS  # the server says https for every request then: the proxy in front takes nothing else
SECURE_HSTS_SECONDS = 60 * 60 * 24 * 365 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = HTTPS
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
ATTACHMENTS = VAR / "attachments"
ATTACHMENT_LIMIT_BYTES = 12_000_000
PHOTOS = VAR / "photos"
LOG_LIMIT_BYTES = 120_000_000
PACKAGE_LOG_BYTES = 20_000_000  # raw logs that a data package takes along
PACKAGE_LIMIT_BYTES = 25_000_000
LOGS = VAR / "logs"
BACKUPS = Path(os.environ.get("CULTRIX_BACKUPS", VAR / "backups"))
BACKUP_PASSPHRASE_FILE = os.environ.get("CULTRIX_BACKUP_PASSPHRASE_FILE", "")
WORKSPACE_SPACE_BYTES = int(float(os.environ.get("CULTRIX_SPACE_GB", "5")) * 1e9)
WORKSPACE_UPLOADS_AN_HOUR = int(os.environ.get("CULTRIX_UPLOADS_AN_HOUR", "600"))
DISK_RESERVE_BYTES = int(float(os.environ.get("CULTRIX_RESERVE_MB", "200")) * 1e6)
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 1_000_000

LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True
STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATIC_ROOT.mkdir(exist_ok=True)
(VAR / "log").mkdir(exist_ok=True)
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.exists() else None
WHITENOISE_INDEX_FILE = False
# built files carry a hash of their content in their name: whoever has one need never ask for it again
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.\w+$"
WHITENOISE_ALLOW_ALL_ORIGINS = False
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
SILENCED_SYSTEM_CHECKS = ["ninja.W001"]
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s %(message)s"}},
    "handlers": {
        "console": {"class": "logging.StreamHandler"},
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "filename": VAR / "log" / f"{os.environ.get('CULTRIX_PROCESS', 'manage')}.log",
            "maxBytes": 2_000_000,
            "backupCount": 5,
            "delay": True,
            "encoding": "utf-8",
            "formatter": "line",
        },
    },
    "loggers": {
        "django.request": {"handlers": ["console", "file"], "level": "ERROR", "propagate": False},
        "django.security": {"handlers": ["file"], "level": "WARNING", "propagate": False},
        "cultrix": {"handlers": ["console", "file"], "level": "INFO", "propagate": False},
    },
}
