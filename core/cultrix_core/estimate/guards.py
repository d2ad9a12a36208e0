"""What an honest colleague would ask about a sample. Questions only: nothing is dropped, changed or refused here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.crops.profile import EstimateDefaults
from cultrix_core.estimate.methods import Method
from cultrix_core.estimate.spots import Spot, Values
from cultrix_core.stand.visits import far_off
from cultrix_core.unit_formatting import UnitFormatter

LEAST_PLANTS_FOR_PODS = 8  # 8 to 15 usual: common practice, no source
SHORTEST_POD_M = 0.0254  # common practice, no source
LEAST_PODS_OPENED = 10  # common practice, no source
USUAL_CURING_DAYS = 14  # about two weeks: common practice, no source


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A question about one entry."""

    code: str
    field: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A sample as entered. ``wanted``: pieces that were drawn for the place; None for places taken by eye."""

    spot: Spot
    pieces: Sequence[Values]
    place: Values
    state: str = ""
    wanted: int | None = None


def questions_on(
    method: Method, entry: Entry, others: Sequence[Entry], defaults: EstimateDefaults, show: UnitFormatter
) -> tuple[Asked, ...]:
    """What to ask about one sample beside the other samples of its trial."""
    questions = [*_too_few(method, entry), *_unusual(method, entry, defaults, show), *_of_method(method, entry, others, show)]
    if far_off(entry.spot.per_m2, [other.spot.per_m2 for other in others]):
        questions.append(
            Asked(code="far_off", field="pieces", text="This place is far from the others of the trial. Is it right?")
        )
    return tuple(questions)


def _too_few(method: Method, entry: Entry) -> list[Asked]:
    spot, result = entry.spot, []
    if not method.counted or not spot.counted:
        return []
    given, wanted = len(spot.pieces), min(entry.wanted or 0, spot.counted)
    if given < wanted:
        result.append(
            Asked(
                code="not_all",
                field="pieces",
                text=f"{given} of {wanted} {method.pieces} entered. Was one lost, or left out for its looks?",
            )
        )
    if method.key == "pods" and spot.counted < LEAST_PLANTS_FOR_PODS:
        result.append(
            Asked(
                code="too_few_plants",
                field="number",
                text=f"Only {spot.counted} plants on the area; the pod method wants {LEAST_PLANTS_FOR_PODS} to 15. "
                "Take a larger area?",
            )
        )
    return result


def _unusual(method: Method, entry: Entry, defaults: EstimateDefaults, show: UnitFormatter) -> list[Asked]:
    usual, result = defaults.usual.get(method.key, {}), []
    if "number_per_m2" in usual and entry.spot.counted and _outside(entry.spot.number_per_m2, usual["number_per_m2"]):
        number = show.text(entry.spot.number_per_m2, "density")
        result.append(Asked(code="odd_number", field="number", text=f"{number} is unusual for this crop. Right area?"))
    for field in method.piece_fields:
        values = [piece[field.key] for piece in entry.pieces if piece.get(field.key) is not None]
        limits = usual.get(field.key)
        if field.key == "seeds_each" and any(piece.get("groups") is None for piece in entry.pieces):
            limits = usual.get("seeds")
        odd = [value for value in values if limits and value is not None and _outside(value, limits)]
        if odd:
            text = show.text(odd[0], field.kind, decimals=1 if field.dimension == "number" and odd[0] % 1 else None)
            result.append(
                Asked(code="odd_piece", field=field.key, text=f"{field.label} {text} is unusual for this crop. Right?")
            )
    if method.key == "ears":
        uneven = [int(piece["kernel_rows"] or 0) for piece in entry.pieces if (piece["kernel_rows"] or 0) % 2]
        if uneven:
            result.append(
                Asked(
                    code="uneven_rows",
                    field="kernel_rows",
                    text=f"{uneven[0]} kernel rows: rows come in pairs, so the number is even. Count again at mid-ear?",
                )
            )
    return result


def _outside(value: float, limits: tuple[float, float]) -> bool:
    return not limits[0] <= value <= limits[1]


def _of_method(method: Method, entry: Entry, others: Sequence[Entry], show: UnitFormatter) -> list[Asked]:
    place, result = entry.place, []
    if method.key == "pods":
        shortest = place.get("shortest_pod")
        if shortest is not None and shortest < SHORTEST_POD_M:
            text = f"Pods of {show.text(shortest, 'row_spacing')} were counted; those under "
            text += f"{show.text(SHORTEST_POD_M, 'row_spacing')} seldom fill. Leave them out?"
            result.append(Asked(code="short_pods", field="shortest_pod", text=text))
        opened = place.get("pods_opened") or 0
        if opened < LEAST_PODS_OPENED:
            text = f"Seeds per pod rest on {opened:g} pods; open at least {LEAST_PODS_OPENED}."
            result.append(Asked(code="few_pods", field="pods_opened", text=text))
        elif not 1 <= (place.get("seeds_in_pods") or 0) / opened <= 4:
            result.append(Asked(code="odd_piece", field="seeds_in_pods", text="That many seeds a pod is unusual. Right?"))
    if any(field.key == "tare" for field in method.place_fields) and not place.get("tare"):
        result.append(Asked(code="no_tare", field="tare", text="No tare: was the scale set to zero with the bowl on it?"))
    if method.key == "counted":
        result += _curing(entry, others)
    return result


def _curing(entry: Entry, others: Sequence[Entry]) -> list[Asked]:
    result = []
    states = {other.state for other in others if other.state}
    if not entry.state:
        text = "Weighed fresh or cured? Fresh bulbs weigh far more."
        result.append(Asked(code="which_state", field="state", text=text))
    elif states - {entry.state}:
        text = f"This one was weighed {entry.state}, others {', '.join(sorted(states - {entry.state}))}: they cannot be mixed."
        result.append(Asked(code="mixed_states", field="state", text=text))
    days, theirs = entry.place.get("cured_days"), [other.place.get("cured_days") for other in others]
    known = [cured for cured in theirs if cured is not None]
    if entry.state == "cured" and days is not None and days < USUAL_CURING_DAYS:
        text = f"Cured {days:g} days; about {USUAL_CURING_DAYS} is usual, and water still leaves."
        result.append(Asked(code="short_curing", field="cured_days", text=text))
    if days is not None and known and abs(days - sum(known) / len(known)) > 2:
        text = "Cured for another time than the others: strips can no longer be compared by weight."
        result.append(Asked(code="other_curing", field="cured_days", text=text))
    return result
