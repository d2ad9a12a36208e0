"""What the field book needs to reckon without a signal: a t table, and fixtures that hold both sides together.

The device computes the running mean, its interval and the number still needed from this table alone; the
fixtures are results of ``running_precision`` that the device's own code must reproduce.
"""

from __future__ import annotations

from cultrix_core.estimate.drawn import drawn_pieces
from cultrix_core.harvest.loads import strip_yield
from cultrix_core.stand.precision import LEVEL_ALPHA, MOST_COUNTS, WANTED_SHARE, running_precision
from cultrix_core.stand.row_lengths import count_in_quadrat, count_on_rows
from cultrix_core.stand.tape import spacings_of
from cultrix_core.stand.visits import likely_meant
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.units import units_of

FIXTURE_COUNTS: tuple[tuple[float, ...], ...] = (
    (212.0,),
    (212.0, 198.0),
    (212.0, 198.0, 230.5),
    (7.9, 8.1, 8.0, 8.05, 7.95),
    (0.0, 0.0, 0.0),
    (12.0, 0.0, 31.0, 4.0, 18.0),
    (5.25, 5.25, 5.25),
    (148.0, 163.0, 155.5, 171.0, 139.0, 160.25, 158.0, 152.75),
)
FIXTURE_ROWS: tuple[tuple[int, float, int, float], ...] = ((43, 5.33, 2, 0.125), (0, 1.0, 1, 0.75), (31, 5.334, 1, 0.762))
FIXTURE_TAPES: tuple[tuple[float, tuple[float, ...]], ...] = (
    (0.17, (0.0, 0.17, 0.33, 0.36, 0.68, 0.85, 1.01, 1.2, 1.34, 1.52)),
    (0.1, (0.0, 0.05, 0.2, 0.45)),
    (0.165, (0.0, 0.0, 0.16, 0.33, 1.9, 2.06)),
)
FIXTURE_SLIPS: tuple[tuple[int, tuple[int, ...]], ...] = (
    (310, (29, 33, 30)),
    (31, (29, 33, 30)),
    (3, (29, 33, 30)),
    (310, (30,)),
    (110, (10, 12, 11)),
)
FIXTURE_DRAWN: tuple[tuple[int, int, float], ...] = ((30, 5, 0.37), (7, 5, 0.9999), (5, 5, 0.5), (3, 5, 0.2), (0, 5, 0.1))
FIXTURE_QUADRATS: tuple[tuple[int, float], ...] = ((52, 0.25), (9, 1.0))
# net in kg, swath and length in m, moisture and standard in percent
FIXTURE_LOADS: tuple[tuple[float, float, float, float | None, float | None], ...] = (
    (1_180.0, 5.4, 300.0, 14.2, 13.5),
    (100.0, 1.0, 100.0, 18.2, 15.5),
    (2_000.0, 6.0, 250.0, None, None),
    (950.0, 9.14, 152.4, 68.0, 0.0),
)


def device_table() -> dict[str, object]:
    """The table and fixtures as plain data, ready for JSON."""
    fixtures = []
    for values in FIXTURE_COUNTS:
        precision = running_precision(values)
        fixtures.append(
            {
                "values": list(values),
                "n": precision.n,
                "mean": precision.mean,
                "half_width": precision.half_width,
                "share": precision.half_width_share,
                "needed": precision.needed,
                "more": precision.more,
            }
        )
    return {
        "alpha": LEVEL_ALPHA,
        "wanted_share": WANTED_SHARE,
        "most": MOST_COUNTS,
        "t": [t_critical(LEVEL_ALPHA, df) for df in range(1, MOST_COUNTS)],
        "length_m": {unit.code: unit.factor for unit in units_of("length")},
        "area_m2": {unit.code: unit.factor for unit in units_of("area")},
        "mass_kg": {unit.code: unit.factor for unit in units_of("mass")},
        "load_fixtures": [_load(*case) for case in FIXTURE_LOADS],
        "fixtures": fixtures,
        "tape_fixtures": [_tape(reference, positions) for reference, positions in FIXTURE_TAPES],
        "drawn_fixtures": [_drawn(*case) for case in FIXTURE_DRAWN],
        "slip_fixtures": [
            {"plants": plants, "others": list(others), "meant": likely_meant(plants, others)}
            for plants, others in FIXTURE_SLIPS
        ],
        "row_fixtures": [
            {
                "plants": plants,
                "length_m": length,
                "rows": rows,
                "row_spacing_m": spacing,
                "plants_per_m2": count_on_rows(plants, length_m=length, rows=rows, row_spacing_m=spacing).plants_per_m2,
            }
            for plants, length, rows, spacing in FIXTURE_ROWS
        ],
        "quadrat_fixtures": [
            {"plants": plants, "area_m2": area, "plants_per_m2": count_in_quadrat(plants, area_m2=area).plants_per_m2}
            for plants, area in FIXTURE_QUADRATS
        ],
    }


def _drawn(counted: int, wanted: int, start: float) -> dict[str, object]:
    pieces = list(drawn_pieces(counted=counted, wanted=wanted, start=start))
    return {"counted": counted, "wanted": wanted, "start": start, "pieces": pieces}


def _tape(reference_m: float, positions_m: tuple[float, ...]) -> dict[str, object]:
    run = spacings_of(positions_m, reference_m=reference_m)
    return {
        "reference_m": reference_m,
        "positions_m": list(positions_m),
        "mean_m": run.mean_m,
        "cv_frac": run.cv_frac,
        "doubles": run.doubles,
        "skips": run.skips,
        "singles": run.singles,
        "precision_frac": run.precision_frac,
        "histogram": [number for _, _, number in run.histogram],
    }


def _load(net: float, swath: float, length: float, moisture: float | None, standard: float | None) -> dict[str, object]:
    result = strip_yield(
        net_kg=net, swath_width_m=swath, length_m=length, moisture_pct=moisture, standard_moisture_pct=standard
    )
    return {
        "net_kg": net,
        "area_m2": swath * length,
        "moisture_pct": moisture,
        "standard_pct": standard,
        "yield_kg_per_ha": result.yield_kg_per_ha,
    }
