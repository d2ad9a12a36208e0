"""One place as numbers: units on an area, and the product of each piece measured among them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.estimate.components import disc_seeds
from cultrix_core.estimate.forage import dry_matter_frac
from cultrix_core.estimate.methods import Field, Method

Values = Mapping[str, float | None]
MOST_PIECES = 60
MOST_AREA_M2 = 200.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """One place as numbers. ``pieces``: seeds or kg of each piece; ``factors``: the factors of each of them.

    ``counted``: units found on the area, of which the pieces are a part; ``per_m2``: seeds or kg per m². ``companion``:
    kg of dry matter per m² of a companion crop cut from the same area. ``weighings``: how many pieces lay in each
    weighing, where several were weighed together; they then stand in ``pieces`` with their mean.
    """

    number_per_m2: float
    counted: int
    pieces: tuple[float, ...]
    factors: tuple[tuple[float, ...], ...] = ()
    companion: float | None = None
    by_eye: bool = False
    weighings: tuple[int, ...] = ()

    @property
    def piece_df(self) -> int:
        """Degrees of freedom from piece to piece: pieces weighed together tell only their mean."""
        return (len(self.weighings) or len(self.pieces)) - 1

    @property
    def per_piece(self) -> float:
        """Mean of the pieces' products."""
        return sum(self.pieces) / len(self.pieces)

    @property
    def per_m2(self) -> float:
        """Seeds or kg per m²."""
        return self.number_per_m2 * self.per_piece


def check_entry(field: Field, value: float | None) -> None:
    """Refuse an entry outside its hard limits, missing, or broken where a whole number is counted.

    Raises
    ------
    Refusal : ``missing``, ``not_a_count``, ``too_small``, ``too_large``.
    """
    if value is None:
        if not field.optional:
            raise Refusal("missing", field=field.key, label=field.label, remedy="Type what was counted or measured.")
        return
    if field.whole and value != int(value):
        raise Refusal("not_a_count", field=field.key, label=field.label, value=f"{value:g}")
    require_between(value, field.low, field.high, field.key, label=field.label)


def spot_of(
    method: Method,
    *,
    area_m2: float,
    number: int | None,
    pieces: Sequence[Values],
    place: Values,
    by_eye: bool = False,
) -> Spot:
    """One place as numbers, from canonical values (m, kg, percent, counts).

    Parameters
    ----------
    area_m2 : area on which the units were counted or which was cut.
    number : units counted on it; None for methods that weigh the whole area.
    pieces : one mapping of the method's piece fields for each piece. place : values of the place's own fields.

    Raises
    ------
    Refusal : ``missing``, ``not_a_count``, ``too_small``, ``too_large``, ``not_positive``, ``tare_over_gross``.
    """
    require_positive(area_m2, "area", label="Area of the place", unit=" m²")
    require_between(area_m2, 0, MOST_AREA_M2, "area", label="Area of the place", unit=" m²")
    for field in method.place_fields:
        if field.dimension != "choice":
            check_entry(field, place.get(field.key))
    if not method.counted:
        return _cut(area_m2, place, by_eye)
    if number is None:
        raise Refusal("missing", field="number", label=method.counted, remedy="Count them all, then measure the pieces drawn.")
    require_between(number, 0, 100_000, "number", label=method.counted)
    if number == 0 and not pieces:  # nothing left is a result too
        return Spot(number_per_m2=0.0, counted=0, pieces=(0.0,), factors=((0.0,),), by_eye=by_eye)
    _require_pieces(method, pieces)
    factors = tuple(_FACTORS[method.key](piece, place) for piece in pieces)
    # weighings of several pieces stand for as many of them
    weighings = tuple(int(piece.get("number_in") or 1) for piece in pieces) if method.key == "counted" else ()
    if weighings:
        factors = tuple(values for values, many in zip(factors, weighings, strict=True) for _ in range(many))
    if len(factors) > number:
        raise Refusal(
            "too_large",
            field="pieces",
            label=f"{method.pieces.capitalize()} measured",
            value=len(factors),
            limit=number,
            remedy="More were measured than counted on the area. Count again.",
        )
    return Spot(
        number_per_m2=number / area_m2,
        counted=number,
        pieces=tuple(_product(factor) for factor in factors),
        factors=factors,
        by_eye=by_eye,
        weighings=weighings,
    )


def _require_pieces(method: Method, pieces: Sequence[Values]) -> None:
    if not pieces:
        raise Refusal("missing", field="pieces", label=f"The {method.pieces}", remedy=f"Measure at least one {method.piece}.")
    require_between(len(pieces), 1, MOST_PIECES, "pieces", label=f"{method.pieces.capitalize()} measured")
    for piece in pieces:
        for field in method.piece_fields:
            check_entry(field, piece.get(field.key))


def _product(factors: Sequence[float]) -> float:
    product = 1.0
    for factor in factors:
        product *= factor
    return product


def _number(values: Values, key: str, default: float = 0.0) -> float:
    value = values.get(key)
    return default if value is None else value


def _disc(piece: Values, _: Values) -> tuple[float, ...]:
    seeds = disc_seeds(
        diameter_cm=100 * _number(piece, "diameter"),
        empty_centre_cm=100 * _number(piece, "empty_centre"),
        filled_per_cm2=_number(piece, "filled_per_cm2"),
    )
    filled = _number(piece, "filled_per_cm2")
    return (seeds / filled, filled)


def _weighing(piece: Values, place: Values) -> tuple[float, ...]:
    return (_net(_number(piece, "gross"), _number(place, "tare")) / _number(piece, "number_in", 1.0),)


def _net(gross: float, tare: float) -> float:
    if tare >= gross:
        raise Refusal("tare_over_gross", field="tare", value=f"{1000 * gross:g}", limit=f"{1000 * tare:g}", unit=" g")
    return gross - tare


_FACTORS: dict[str, Callable[[Values, Values], tuple[float, ...]]] = {
    "ears": lambda piece, _: (_number(piece, "kernel_rows"), _number(piece, "kernels_per_row")),
    "pods": lambda piece, place: (
        _number(piece, "pods"),
        _number(place, "seeds_in_pods") / _number(place, "pods_opened", 1.0),
    ),
    "heads": lambda piece, _: (_number(piece, "groups", 1.0), _number(piece, "seeds_each")),
    "discs": _disc,
    "pulses": lambda piece, _: (_number(piece, "pods"), _number(piece, "seeds_per_pod")),
    "counted": _weighing,
}


def _cut(area_m2: float, place: Values, by_eye: bool) -> Spot:
    weight, companion = 0.0, None
    if place.get("gross") is not None:
        weight = _net(_number(place, "gross"), _number(place, "tare")) * _dry_of(place) / area_m2
    elif place.get("companion_gross") is None:
        raise Refusal("missing", field="gross", label="The weight as cut", remedy="Weigh what was cut from the area.")
    if place.get("companion_gross") is not None:
        share = place.get("companion_dm_pct")
        if share is None:
            raise Refusal(
                "missing",
                field="companion_dm_pct",
                label="Dry matter of the companion crop",
                remedy="It dries out otherwise than the main crop; dry a sample of it apart.",
            )
        companion = _net(_number(place, "companion_gross"), _number(place, "tare")) * share / 100 / area_m2
    return Spot(number_per_m2=1.0, counted=1, pieces=(weight,), factors=((weight,),), companion=companion, by_eye=by_eye)


def _dry_of(place: Values) -> float:
    known = place.get("dm_pct")
    if known is not None:
        return known / 100
    if place.get("dm_wet") is None or place.get("dm_dry") is None:
        raise Refusal(
            "missing",
            field="dm_wet",
            label="Dry matter",
            remedy="Weigh a sub-sample before and after drying, or type the dry matter known.",
        )
    return dry_matter_frac(wet_kg=_number(place, "dm_wet"), dry_kg=_number(place, "dm_dry"))
