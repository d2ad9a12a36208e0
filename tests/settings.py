"""Settings of the tests: those of the application, with a password hash and a disk that cost nothing."""

from config.settings import *  # noqa: F403 - all of them
from config.settings import DATABASES

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
DATABASES["default"]["OPTIONS"]["init_command"] = (  # type: ignore[index]
    "PRAGMA journal_mode=WAL; PRAGMA synchronous=OFF; PRAGMA foreign_keys=ON;"
)
