"""Shared by all tests: the application's own database stays untouched, the keys of a test are its own."""

from __future__ import annotations

import os
import tempfile

# Before settings are read: a folder of its own for database and secret key.
os.environ.setdefault("CULTRIX_VAR", tempfile.mkdtemp(prefix="cultrix-test-"))
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
