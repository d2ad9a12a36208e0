"""What the slow paths cost, as counts and ratios that mean the same on any machine: ``make bench``.

Ratios compare with a plain piece of work done in the same process (a sort of random numbers), so that a
slower machine slows both. Nothing here is asserted; numbers go into notes and change-logs.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from copy import copy
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import UUID, uuid4

if TYPE_CHECKING:
    from apps.accounts.models import Workspace
    from apps.trial_state.models import TrialSummary
    from apps.trials.models import Trial
    from django.test import Client

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
    from cultrix_core.stats.compare import StripResponse, compare
    from cultrix_core.stats.decision_rule import settle_design
    from cultrix_core.stats.multiplicity import family_critical

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
    works += _planning()
    works += _scouting()
    works += _estimates()
    works.append(("draw 10 treatments in 40 blocks", lambda: complete_blocks(list("ABCDEFGHIJ"), blocks=40, seed=1)))
    number = iter(range(1, 10_000))
    works.append(
        (
            "settle, nothing remembered",
            lambda: settle_design(
                margin=80 + next(number) / 7,
                se=150,
                df=3,
                blocks=2,
                critical=lambda df: family_critical("dunnett", 0.1, df, 4, 3),
            ),
        )
    )
    for name, work in works:
        print(f"{name:45} {_seconds(work) / yardstick:9.2f} × yardstick")
    _mixed()


def _mixed() -> None:
    """REML, Kenward–Roger, all means and pairs against a bare MixedLM fit of the same blocks; cost by number of site-years."""
    import warnings
    from itertools import combinations

    import numpy as np
    import statsmodels.api as sm
    from cultrix_core.stats.environments import analyse_environments
    from cultrix_core.stats.linear_model import Factor
    from cultrix_core.stats.mixed_model import cell_row, contrast, fit_mixed, term_test

    warnings.simplefilter("ignore")
    draw = np.random.default_rng(1)
    for strips in (60, 400):
        treatment = [str(place % 10) for place in range(strips)]
        block = [str(place // 10) for place in range(strips)]
        y = list(draw.normal(0, 1, strips) + np.repeat(draw.normal(0, 1, strips // 10), 10))
        factors = [Factor.of("treatment", treatment), Factor.of("block", block)]
        design = fit_mixed(y, factors, [("treatment",)], [("block",)]).x

        def ours(y: list[float] = y, factors: list[Factor] = factors) -> None:
            fit = fit_mixed(y, factors, [("treatment",)], [("block",)])
            rows = {level: cell_row(fit, {"treatment": level}) for level in factors[0].levels}
            for row in rows.values():
                contrast(fit, row)
            for name, other in combinations(rows, 2):
                contrast(fit, rows[name] - rows[other])
            term_test(fit, ("treatment",))

        theirs = _seconds(lambda y=y, x=design, block=block: sm.MixedLM(y, x, groups=block).fit(reml=True))
        print(f"mixed model of {strips} strips, means and all pairs    {_seconds(ours) / theirs:9.2f} × a bare MixedLM fit")
    base = 0.0
    for sites in (5, 10, 20, 40):
        rows = sites * 24
        columns = {
            "treatment": [str(place % 6) for place in range(rows)],
            "block": [str(place // 6 % 4) for place in range(rows)],
            "site": [str(place // 24) for place in range(rows)],
        }
        y = list(draw.normal(0, 1, rows) + np.repeat(draw.normal(0, 1, sites), 24))
        took = _seconds(
            lambda y=y, columns=columns: analyse_environments(
                y, columns, treatment="treatment", environment="site", block="block"
            )
        )
        base = base or took
        print(f"{sites} site-years of 24 strips                       {took / base:9.2f} × 5 site-years")


def _scouting() -> list[tuple[str, Callable[[], object]]]:
    from datetime import date

    from cultrix_core.season.weather import read_weather, write_weather
    from cultrix_core.simulate.weather import station
    from cultrix_core.stand.places import CountGround, draw_places
    from cultrix_core.stand.tape import spacings_of

    ground = CountGround(length_m=320, width_m=6, sample_m=1, row_spacing_m=0.15, rows=4, wheel_rows=(12, 13, 28, 29))
    positions = [0.17 * place + 0.02 * (place % 7) for place in range(300)]
    text = write_weather(station(3, until=date(2026, 12, 31)))
    return [
        (
            "places of 6 counts on 200 strips",
            lambda: [draw_places(ground, planned=6, extra=6, seed=(1, 1, n)) for n in range(200)],
        ),
        ("tape of 300 plants", lambda: spacings_of(positions, reference_m=0.17)),
        ("four years of simulated weather", lambda: station(3, until=date(2026, 12, 31))),
        ("four years of weather read from text", lambda: read_weather(text)),
    ]


def _estimates() -> list[tuple[str, Callable[[], object]]]:
    import numpy as np
    from cultrix_core.estimate.propagate import strip_estimate, variation_of
    from cultrix_core.simulate.picking import simulate_picking

    from tests.core.test_estimates import KNOWN, sampled_field

    spots, _ = sampled_field(np.random.default_rng(4), strips=60, places=3, pieces=5)

    def trial() -> object:
        variation = variation_of(spots)
        return [strip_estimate(own, variation, KNOWN) for own in spots.values()]

    return [
        ("estimates of 60 strips, 3 places of 5", trial),
        ("picking, 2000 simulated samples", lambda: simulate_picking(piece_cv=0.2, seed=1, samples=2_000)),
    ]


def _coverage() -> None:
    """How often 90 % intervals of estimates hold the true yield of their strip, over simulated trials."""
    from math import exp, inf

    import numpy as np
    from cultrix_core.estimate.grain_weight import GrainWeight
    from cultrix_core.estimate.propagate import strip_estimate, variation_of
    from cultrix_core.simulate.picking import simulate_picking

    from tests.core.test_estimates import sampled_field

    for strips, places, pieces in ((12, 2, 5), (12, 3, 5), (8, 2, 3), (20, 4, 8)):
        rng = np.random.default_rng([strips, places, pieces])
        hits = total = 0
        for _ in range(1_000):
            spots, truth = sampled_field(rng, strips=strips, places=places, pieces=pieces)
            variation, guess = variation_of(spots), 280 * exp(rng.normal(0, 0.04))
            weight = GrainWeight(mean_g=guess, relative_sd=0.04, df=inf, low_g=250, high_g=310, known="weighed", words="")
            for key, own in spots.items():
                estimate = strip_estimate(own, variation, weight)
                hits += estimate.lower <= truth[key] * 2.8 <= estimate.upper
                total += 1
        name = f"90 % intervals, {strips} strips, {places} places of {pieces}"
        print(f"{name:45} {100 * hits / total:9.1f} % hold the truth ({total} strips)")
    for cv in (0.1, 0.2, 0.3):
        estimate = simulate_picking(piece_cv=cv, seed=9, samples=20_000)
        print(
            f"{f'pieces that vary by {100 * cv:.0f} %':45} drawn {100 * (estimate.drawn_mean - 1):+.1f} % "
            f"(± {100 * estimate.drawn_se:.1f}), best looking {100 * (estimate.picked_mean - 1):+.1f} %"
        )


def _logs() -> None:
    """Half a million readings cleaned and put to strips, beside the same steps in plain GeoPandas; memory at its most."""
    import resource

    from cultrix_core.harvest.cleaning import Settings, clean
    from cultrix_core.harvest.strip_points import inside, strip_of_points
    from cultrix_core.harvest.yield_log import read_log
    from cultrix_core.simulate.yield_monitor import Combine, TrueStrip, drive

    from tests.core.test_yield_log import COLUMNS, ring
    from tests.plain_geopandas import clean_plainly

    strips = [
        TrueStrip(left_m=12.0 * n, right_m=12.0 * n + 12, near_m=0.0, far_m=1_500.0, yield_kg_per_ha=7_000.0) for n in range(60)
    ]
    text = drive(strips, Combine(interval_s=0.2), seed=1)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    log = read_log(text, COLUMNS)
    cleaned = clean(log, Settings())
    points = [
        strip_of_points(log, cleaned, inside(log, ring(strip), margin_m=1), standard_moisture_pct=None) for strip in strips
    ]
    ours = time.perf_counter() - start
    after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    plain = clean_plainly(text, [ring(strip) for strip in strips], delay_s=cleaned.delay_s, reach_m=2.2)
    theirs = time.perf_counter() - start
    apart = max(abs((strip_points.yield_kg_per_ha or 0) / plain[n] - 1) for n, strip_points in enumerate(points))
    print(f"{'log: readings read, cleaned, on strips':45} {len(log):9} in {ours:.1f} s, {(after - before) / 1e3:.0f} MB more")
    print(f"{'the same steps in plain GeoPandas':45} {theirs / ours:9.1f} × ours; strips at most {100 * apart:.2f} % apart")


def _recovery() -> None:
    """The truth the simulated combine was given, before and after cleaning, and the lag, over lags and seeds."""
    import numpy as np
    from cultrix_core.harvest.cleaning import Settings, clean
    from cultrix_core.harvest.yield_log import read_log
    from cultrix_core.simulate.yield_monitor import Combine, drive

    from tests.core.test_yield_log import ALL_OFF, COLUMNS, errors, field

    for lag in (0.0, 5.0, 10.0, 15.0):
        rough, fine, late = [], np.array([]), []
        for seed in range(12):
            strips = field(seed)
            log = read_log(drive(strips, Combine(lag_s=lag, noise=0.04, smear_s=min(lag, 1.5)), seed=seed), COLUMNS)
            rough.append(np.abs(errors(log, clean(log, Settings(off=ALL_OFF)), strips)).max())
            cleaned = clean(log, Settings())
            fine = np.append(fine, errors(log, cleaned, strips))
            late.append(cleaned.delay_s - lag)
        print(
            f"{f'log, grain {lag:.0f} s late: 144 strips':45} worst {100 * max(rough):4.1f} % off before; after: "
            f"{100 * np.mean(np.abs(fine) < 0.01):.1f} % of them within 1 %, worst {100 * np.abs(fine).max():.2f} %, "
            f"on average {100 * fine.mean():+.2f} %; lag {min(late):+.1f} to {max(late):+.1f} s off"
        )


def _planning() -> list[tuple[str, Callable[[], object]]]:
    """The planner's work on 24 and 200 strips."""
    from cultrix_core.design.detectable_difference import DesignSize
    from cultrix_core.design.geometry import Ground, Placing, place_strips
    from cultrix_core.design.power_simulation import Rehearsed, rehearse
    from cultrix_core.design.randomise import Cell, Constraints, lay_out
    from cultrix_core.simulate.variation import FieldVariation

    works: list[tuple[str, Callable[[], object]]] = []
    ring = ((0.0, 0.0), (1700.0, 20.0), (1650.0, 480.0), (30.0, 430.0))
    for treatments, blocks in ((4, 6), (10, 20)):
        cells = tuple(Cell(name=f"T{number}") for number in range(treatments))
        name = f"{treatments * blocks} strips"
        plan = lay_out("rcbd", cells, blocks=blocks, seed=1).strips
        placing = Placing(heading_deg=0, strip_width_m=6, headland_m=12, guards=1)
        works.append((f"place {name}", lambda plan=plan, placing=placing: place_strips(Ground(boundary=ring), plan, placing)))
        size = DesignSize(design="rcbd", treatments=treatments, blocks=blocks)
        rehearsed = Rehearsed(size=size, cells=cells, control="T0", alpha=0.1, margin_pct=5, constraints=Constraints())
        ground = FieldVariation(cv_pct=8)
        works.append((f"rehearse 100 fields, {name}", lambda it=rehearsed, on=ground: rehearse(it, on, fields=100, seed=1)))
    balanced = Constraints(balance_neighbours=True, no_equal_neighbours=True)
    four = [Cell(name=name) for name in "abcd"]
    works.append(("draw 24 strips, neighbours balanced", lambda: lay_out("rcbd", four, blocks=6, seed=1, constraints=balanced)))
    return works


def _large(client: object, workspace: str) -> str:
    """A trial of 200 strips on a field of its own; returns its id."""

    def post(method: str, path: str, body: dict[str, object]) -> dict[str, object]:
        answer = getattr(client, method)(f"/api{path}", json.dumps(body), content_type="application/json").json()
        assert "id" in answer, answer
        return dict(answer)

    corners = "0 0\n1700 20\n1650 480\n30 430"
    field = post("post", f"/workspaces/{workspace}/fields", {"name": "Long plain", "corners": corners, "corners_in": "m"})
    trial = post("post", f"/workspaces/{workspace}/trials", {"title": "Two hundred", "crop": "maize", "season": 2027})
    path = f"/trials/{trial['id']}"
    facts = {"field_id": field["id"], "expected_yield": {"text": "10", "unit": "t/ha"}}
    trial = post("patch", path, {"version": trial["version"], **facts})
    rows = [{"levels": [{"text": str(60 + 4 * n), "unit": "k/ha"}], "is_control": n == 0} for n in range(10)]
    body = {"version": trial["version"], "factors": [{"kind": "seeding_rate"}], "treatments": rows}
    trial = post("put", f"{path}/treatments", body)
    layout = {
        "version": trial["version"],
        "design": "rcbd",
        "blocks": 20,
        "strip_width": {"text": "6", "unit": "m"},
        "heading": "0",
    }
    return str(post("post", f"{path}/layout", layout)["id"])


def _server(yardstick: float) -> None:
    os.environ["CULTRIX_VAR"] = tempfile.mkdtemp(prefix="cultrix-bench-")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    sys.path[:0] = [str(ROOT / "server")]
    import django

    django.setup()
    from apps.accounts.models import User
    from apps.analysis.verdict.models import Verdict
    from apps.demo.scenario import load
    from apps.trials.models import Trial
    from django.core.management import call_command
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext

    call_command("migrate", verbosity=0)
    workspace = load()
    client = Client(HTTP_HOST="localhost", HTTP_X_PERSON="ilse", HTTP_X_WORKSPACE=str(workspace.id))
    client.force_login(User.objects.get(username="ilse"), backend="django.contrib.auth.backends.ModelBackend")
    trial = Trial.objects.get(title="Sorghum seeding rate")
    large = _large(client, str(workspace.id))

    def get(path: str) -> Callable[[], object]:
        return lambda: client.get(f"/api{path}")

    for name, path in (
        ("today", f"/workspaces/{workspace.id}/today"),
        ("shelf", f"/workspaces/{workspace.id}/trials"),
        ("trial", f"/trials/{trial.id}"),
        ("seed", f"/trials/{trial.id}/seed"),
        ("planting", f"/trials/{trial.id}/planting"),
        ("stand", f"/trials/{trial.id}/stand"),
        ("harvest", f"/trials/{trial.id}/harvest"),
        ("verdict, stored", f"/trials/{trial.id}/verdict"),
        ("map", f"/trials/{trial.id}/map"),
        ("pass card", f"/trials/{trial.id}/pass-card"),
        ("trial of 200 strips", f"/trials/{large}"),
        ("map of 200 strips", f"/trials/{large}/map"),
        ("pass card of 200 strips", f"/trials/{large}/pass-card"),
    ):
        get(path)()
        with CaptureQueriesContext(connection) as queries:
            response = client.get(f"/api{path}")
        asked = len(queries)
        cost = _seconds(get(path)) / yardstick
        print(f"{name:45} {cost:9.2f} × yardstick {asked:4} queries {len(response.content) / 1000:7.1f} kB")

    for name, which in (("margin, 20 strips", trial.id), ("margin, 200 strips", large)):
        work = lambda which=which: client.post(f"/api/trials/{which}/margin", "{}", content_type="application/json")  # noqa: E731
        work()
        with CaptureQueriesContext(connection) as queries:
            size = len(work().content)
        asked = len(queries)
        print(f"{name:45} {_seconds(work) / yardstick:9.2f} × yardstick {asked:4} queries {size / 1000:7.1f} kB")

    _counts(client, trial)
    _lists(client, workspace)

    def anew() -> None:
        Verdict.objects.all().delete()
        client.get(f"/api/trials/{trial.id}/verdict")

    print(f"{'verdict, computed':45} {_seconds(anew) / yardstick:9.2f} × yardstick")


def _counts(client: Client, trial: Trial) -> None:
    """What the pages of a trial cost with the counts it has and with ten thousand."""
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    from tests.server.test_many_counts import MANY, PAGES, many_counts

    for name in ("its own", f"{MANY}"):
        if name != "its own":
            many_counts(str(trial.id), MANY)
        for page in (*PAGES, "/report"):
            path = f"/api/trials/{trial.id}{page}"
            client.get(path)
            with CaptureQueriesContext(connection) as queries:
                size = len(client.get(path).content)
            asked, before = len(queries), time.process_time()
            client.get(path)
            spent = 1000 * (time.process_time() - before)
            label = f"{page or '/trial'}, {name} counts"
            print(f"{label:45} {spent:9.0f} ms of processor {asked:4} queries {size / 1000:7.1f} kB")


def _of_copy(pk: UUID, summary: TrialSummary) -> TrialSummary:
    """The summary of a copied trial: that of the trial it is a copy of, under its own id."""
    copied = copy(summary)
    copied.trial_id, copied.revision, copied.made_of = pk, 1, 1
    for name in ("dues", "comparisons"):
        text = json.dumps(getattr(summary, name)).replace(str(summary.trial_id), str(pk))
        setattr(copied, name, json.loads(text))
    return copied


def _lists(client: Client, workspace: Workspace) -> None:
    """What lists cost at more and more trials: queries, processor time, bytes."""
    from apps.trial_state.listing import make_old_ones_anew
    from apps.trial_state.models import TrialSummary
    from apps.trials.models import Trial
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    while make_old_ones_anew(most=50):
        pass
    own = list(TrialSummary.objects.filter(trial__workspace=workspace).select_related("trial"))
    for wanted in (len(own), 200, 1_000):
        more = range(Trial.objects.filter(workspace=workspace).count(), wanted)
        copies = [(uuid4(), own[number % len(own)]) for number in more]
        for pk, trial_summary in copies:
            trial_summary.trial.pk, trial_summary.trial.title = pk, f"{trial_summary.trial.title[:60]} {str(pk)[:6]}"
            Trial.objects.bulk_create([trial_summary.trial])
        TrialSummary.objects.bulk_create(_of_copy(pk, summary) for pk, summary in copies)
        for page in ("today", "trials", "ledger"):
            path = f"/api/workspaces/{workspace.id}/{page}"
            client.get(path)
            with CaptureQueriesContext(connection) as queries:
                size = len(client.get(path).content)
            asked, before = len(queries), time.process_time()
            client.get(path)
            spent = 1000 * (time.process_time() - before)
            print(f"{f'{page}, {wanted} trials':45} {spent:9.0f} ms of processor {asked:4} queries {size / 1000:7.1f} kB")


def _processor(*command: str) -> float:
    """Seconds of processor that a command takes, best of five."""
    best = float("inf")
    for _ in range(5):
        before = os.times()
        subprocess.run([sys.executable, *command], cwd=ROOT / "core", capture_output=True, check=True)
        after = os.times()
        spent = after.children_user + after.children_system - before.children_user - before.children_system
        best = min(best, spent)
    return best


def _command() -> None:
    """The command line: help, and an analysis against the import of what it needs."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "strips.csv"
        rows = [f"{block},{t},{6500 + 90 * block + 150 * t + 40 * ((block * t) % 3)}" for block in range(5) for t in range(4)]
        path.write_text("\n".join(["b,t,yield", *rows]))
        design = ("--response", "yield", "--design", "rcbd", "--treatment", "t", "--block", "b", "--json")
        analysis = _processor("-m", "cultrix_core.cli", "analyse", str(path), *design)
    imports = _processor("-c", "import cultrix_core.cli_work, scipy.stats, scipy.optimize, scipy.integrate")
    print(f"{'cultrix --help':45} {1000 * _processor('-m', 'cultrix_core.cli', '--help'):9.0f} ms of processor")
    print(f"{'cultrix analyse, blocks':45} {analysis / imports:9.2f} × the import of what it needs")


def main() -> None:
    import numpy as np

    numbers = np.random.default_rng(0).random(400_000)
    yardstick = _seconds(lambda: np.sort(numbers))
    print(f"{'yardstick: a sort of 400 000 numbers':45} {1000 * yardstick:9.2f} ms here")
    _core(yardstick)
    _command()
    _coverage()
    _logs()
    _recovery()
    _server(yardstick)
    counted = subprocess.run(
        ["npx", "vitest", "run", "src/ui/rerenders.test.tsx"], cwd=ROOT / "web", capture_output=True, text=True, check=False
    )
    print(*(line[line.index("selecting") :] for line in counted.stdout.splitlines() if "selecting" in line), sep="\n")
    for name in ("*.js", "*.css"):
        size = sum(path.stat().st_size for path in (ROOT / "web" / "dist" / "assets").glob(name))
        print(f"{'built ' + name:45} {size / 1000:9.1f} kB")


if __name__ == "__main__":
    main()
