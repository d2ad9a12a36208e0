"""What the slow paths cost, as counts and ratios that mean the same on any machine: ``make bench``.

Ratios compare with a plain piece of work done in the same process (a sort of random numbers), so that a
slower machine slows both. Nothing here is asserted; numbers go into notes and change-logs.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


def _seconds(work: Callable[[], object], times: int = 5) -> float:
    """Best of several runs."""
    best = float("inf")
    for _ in range(times):
        start = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - start)
    return best


def _core(yardstick: float) -> None:
    import numpy as np
    from cultrix_core.design.randomise import complete_blocks
    from cultrix_core.stats.call import settle
    from cultrix_core.stats.compare import StripResponse, compare

    draw = np.random.default_rng(1)

    def strips(treatments: int, blocks: int) -> list[StripResponse]:
        return [
            StripResponse(treatment=f"T{t}", block=str(b), response=float(6500 + 150 * draw.normal()))
            for b in range(blocks)
            for t in range(treatments)
        ]

    works: list[tuple[str, Callable[[], object]]] = []
    for treatments, blocks in ((2, 4), (4, 5), (6, 8), (12, 6)):
        rows = strips(treatments, blocks)
        works.append((f"compare {treatments} treatments in {blocks} blocks", lambda rows=rows: compare(rows, control="T0")))
    works.append(("draw 12 treatments in 40 blocks", lambda: complete_blocks(list("ABCDEFGHIJKL"), blocks=40, seed=1)))
    number = iter(range(1, 10_000))
    works.append(
        (
            "settle, nothing remembered",
            lambda: settle(margin=80 + next(number) / 7, sigma=150, treatments=4, alpha=0.1, comparisons=3),
        )
    )
    for name, work in works:
        print(f"{name:45} {_seconds(work) / yardstick:9.2f} × yardstick")


def _server(yardstick: float) -> None:
    os.environ["CULTRIX_VAR"] = tempfile.mkdtemp(prefix="cultrix-bench-")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    sys.path[:0] = [str(ROOT / "server")]
    import django

    django.setup()
    from apps.accounts.models import User
    from apps.demo.scenario import load
    from apps.trials.models import Trial
    from apps.verdicts.models import Verdict
    from django.core.management import call_command
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext

    call_command("migrate", verbosity=0)
    workspace = load()
    client = Client(HTTP_HOST="localhost")
    client.force_login(User.objects.get(username="ilse"), backend="django.contrib.auth.backends.ModelBackend")
    trial = Trial.objects.get(title="Sorghum seeding rate")

    def get(path: str) -> Callable[[], object]:
        return lambda: client.get(f"/api{path}")

    for name, path in (
        ("today", f"/workspaces/{workspace.id}/today"),
        ("shelf", f"/workspaces/{workspace.id}/trials"),
        ("trial", f"/trials/{trial.id}"),
        ("stand", f"/trials/{trial.id}/stand"),
        ("harvest", f"/trials/{trial.id}/harvest"),
        ("verdict, stored", f"/trials/{trial.id}/verdict"),
    ):
        get(path)()
        with CaptureQueriesContext(connection) as queries:
            response = client.get(f"/api{path}")
        asked = len(queries)
        cost = _seconds(get(path)) / yardstick
        print(f"{name:45} {cost:9.2f} × yardstick {asked:4} queries {len(response.content) / 1000:7.1f} kB")

    def anew() -> None:
        Verdict.objects.all().delete()
        client.get(f"/api/trials/{trial.id}/verdict")

    print(f"{'verdict, computed':45} {_seconds(anew) / yardstick:9.2f} × yardstick")


def main() -> None:
    import numpy as np

    numbers = np.random.default_rng(0).random(400_000)
    yardstick = _seconds(lambda: np.sort(numbers))
    print(f"{'yardstick: a sort of 400 000 numbers':45} {1000 * yardstick:9.2f} ms here")
    _core(yardstick)
    _server(yardstick)
    for name in ("*.js", "*.css"):
        size = sum(path.stat().st_size for path in (ROOT / "web" / "dist" / "assets").glob(name))
        print(f"{'built ' + name:45} {size / 1000:9.1f} kB")


if __name__ == "__main__":
    main()
