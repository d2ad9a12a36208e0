"""Wheels of later passes: which rows they run over, and what that costs.

Geometry. Rows stand at multiples of the row spacing from the machine's centre line, which lies on a row or midway
between two. Each of the two wheels covers its tyre width and a little on either side for the plant's own width; a row
inside is run over. Tracks repeat every working width of the pass (tramlines), so rows lost = rows run over ÷ rows in
that width. Neighbours make up for part of a lost row; what they make up is asked, not assumed.

Loss of yield = rows lost × (1 − made up); loss of money = that × expected yield × (price − cost per unit of yield).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor
from typing import Literal

from cultrix_core.errors import require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

Centre = Literal["between", "on_row"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pass:
    """A pass between standing rows: wheel centres ``track_m`` apart, ``tyre_m`` wide, every ``width_m``."""

    track_m: float
    tyre_m: float
    width_m: float
    plant_half_m: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tracks:
    """What the wheels of a pass do to rows at one spacing. Shares are of the rows, and of the ground, in a working width.

    ``clear``: whether tyre and plants would fit between two rows at all, wherever the wheels run.
    """

    row_spacing_m: float
    centre: Centre
    rows_hit: int
    rows_in_width: float
    rows_lost_frac: float
    ground_frac: float
    yield_lost_frac: float
    clear: bool


def wheel_tracks(driven: Pass, *, row_spacing_m: float, centre: Centre, made_up_pct: float = 0.0) -> Tracks:
    """Rows run over by one tramlined pass.

    Raises
    ------
    Refusal : ``not_positive`` lengths, limits of widths, ``too_large`` share made up.
    """
    require_positive(row_spacing_m, "row_spacing", label="Row spacing")
    require_positive(driven.track_m, "track", label="Track, wheel centre to wheel centre")
    require_between(driven.tyre_m, 0.02, 2, "tyre", label="Tyre width", unit=" m")
    require_between(
        driven.width_m, driven.track_m + driven.tyre_m, 80, "pass_width", label="Working width of the pass", unit=" m"
    )
    require_between(driven.plant_half_m, 0, 0.5, "plant_half", label="Half the width of a plant", unit=" m")
    require_between(made_up_pct, 0, 100, "made_up", label="Made up by neighbours", unit=" %")
    reach = driven.tyre_m / 2 + driven.plant_half_m
    start = 0.0 if centre == "on_row" else row_spacing_m / 2
    hit: set[int] = set()
    for wheel in (-driven.track_m / 2, driven.track_m / 2):
        low = (wheel - reach - start) / row_spacing_m
        high = (wheel + reach - start) / row_spacing_m
        hit |= set(range(ceil(low - 1e-9), floor(high + 1e-9) + 1))
    in_width = driven.width_m / row_spacing_m
    lost = len(hit) / in_width
    return Tracks(
        row_spacing_m=row_spacing_m,
        centre=centre,
        rows_hit=len(hit),
        rows_in_width=in_width,
        rows_lost_frac=lost,
        ground_frac=2 * driven.tyre_m / driven.width_m,
        yield_lost_frac=lost * (1 - made_up_pct / 100),
        clear=2 * reach < row_spacing_m,
    )


def better_centre(driven: Pass, *, row_spacing_m: float, made_up_pct: float = 0.0) -> Tracks:
    """The centring that runs over fewer rows; between rows when both are equal."""
    between, on_row = (
        wheel_tracks(driven, row_spacing_m=row_spacing_m, centre=centre, made_up_pct=made_up_pct)
        for centre in ("between", "on_row")
    )
    return on_row if on_row.rows_hit < between.rows_hit else between


def loss_per_ha(tracks: Tracks, *, yield_kg_per_ha: float, worth_per_t: float) -> float:
    """Money lost to the wheels per hectare at an expected yield; ``worth_per_t`` is price less cost per unit."""
    require_positive(yield_kg_per_ha, "expected_yield", label="Expected yield")
    require_positive(worth_per_t, "price", label="Price less its costs")
    return tracks.yield_lost_frac * yield_kg_per_ha / 1000 * worth_per_t


def tracks_working(
    tracks: Tracks, driven: Pass, show: UnitFormatter, *, made_up_pct: float = 0.0, loss: float | None = None
) -> Working:
    """The working of ``wheel_tracks`` with its money, where known."""
    where = "on a row" if tracks.centre == "on_row" else "midway between two rows"
    lost = f"{format_number(100 * tracks.rows_lost_frac, 1)} %"
    steps = [
        Step(
            label="Rows under the wheels",
            formula="rows within half a tyre (and half a plant) of a wheel's centre, both wheels",
            numbers=f"track {show.text(driven.track_m, 'strip_width')}, tyre {show.text(driven.tyre_m, 'row_spacing')}, "
            f"rows at {show.text(tracks.row_spacing_m, 'row_spacing')}, centre {where}",
            outcome=str(tracks.rows_hit),
            source="geometry",
        ),
        Step(
            label="Rows lost",
            formula="rows under the wheels ÷ rows in the working width",
            numbers=f"{tracks.rows_hit} ÷ {format_number(tracks.rows_in_width, 1)}",
            outcome=lost,
            source="definition",
        ),
        Step(
            label="Yield lost",
            formula="rows lost × (100 % − made up by neighbours)",
            numbers=f"{lost} × (100 % − {made_up_pct:g} %)",
            outcome=f"{format_number(100 * tracks.yield_lost_frac, 1)} %",
            source="definition",
        ),
    ]
    if loss is not None:
        steps.append(
            Step(
                label="Money lost",
                formula="yield lost × expected yield × (price − cost per unit)",
                numbers=f"{format_number(100 * tracks.yield_lost_frac, 1)} % of the expected yield",
                outcome=show.text(loss, "money_per_area"),
                source="definition",
            )
        )
    return Working(
        title="Wheels of later passes",
        outcome=f"{tracks.rows_hit} rows run over, {format_number(100 * tracks.yield_lost_frac, 1)} % of the yield",
        steps=tuple(steps),
        assumption="What neighbouring rows make up: little late in the season, more in crops that branch or tiller.",
    )
