"""Shared by all tests: the application's own database stays untouched, the keys of a test are its own."""

from __future__ import annotations

import os
import tempfile

from hypothesis import HealthCheck, settings

# Before settings are read: a folder of its own for database and secret key, another for each of several workers.
if "PYTEST_XDIST_WORKER" in os.environ:
    os.environ["CULTRIX_VAR"] = tempfile.mkdtemp(prefix="cultrix-test-")
    os.environ["OPENBLAS_NUM_THREADS"] = "1"  # as many workers as cores already
os.environ.setdefault("CULTRIX_VAR", tempfile.mkdtemp(prefix="cultrix-test-"))
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

# No timed assertions: a busy machine makes an example slow, not wrong. The same examples on every run, so that a change is
# judged by what it changes; HYPOTHESIS_EXPLORE=1 draws new ones.
settings.register_profile(
    "untimed",
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
    derandomize="HYPOTHESIS_EXPLORE" not in os.environ,
)
settings.load_profile("untimed")
