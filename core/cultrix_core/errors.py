"""Refusals as data: a code with parameters, worded in one place.

A refusal names the rule, the value that was got and the remedy. The wording lives in ``WORDING``;
callers raise ``Refusal(code, field=..., value=..., ...)`` and never build sentences themselves, so
that screen, command line and test speak of the same thing.
"""

from __future__ import annotations

WORDING: dict[str, str] = {
    "not_a_number": "{label} must be a number; got “{value}”. Write digits only, such as {example}.",
    "ambiguous_number": (
        "{label} “{value}” can be read two ways. Write it without a thousands separator, and the decimals after a point."
    ),
    "not_a_count": "{label} must be a whole number, 0 or more; got “{value}”. Count again or leave it empty.",
    "missing": "{label} is missing. {remedy}",
    "not_finite": "{label} must be an ordinary number; got “{value}”. Type the value again.",
    "too_small": "{label} must be at least {limit}{unit}; got {value}{unit}. {remedy}",
    "too_large": "{label} must be at most {limit}{unit}; got {value}{unit}. {remedy}",
    "not_positive": "{label} must be more than 0; got {value}{unit}. Check the sign and the unit.",
    "unknown_unit": "{label} cannot be given in “{value}”. Use one of: {limit}.",
    "needs_bushel": (
        "{label} in “{value}” needs the weight of a bushel, and this crop has none set. Use kg/ha, t/ha or lb/ac."
    ),
    "needs_seed_weight": (
        "A rate in “{value}” needs the thousand-seed weight of the lot. Enter it, or give the rate in seeds per area."
    ),
    "needs_emergence": (
        "A rate in plants wanted needs the share of seeds expected to come up. "
        "Enter it on the Seed page, or give the rate in seeds."
    ),
    "needs_bag": (
        "A rate in bags needs the number of seeds in a bag. Enter it on the Seed page, or give the rate in seeds per area."
    ),
    "needs_germination": (
        "Emergence of live seed needs the germination of the lot. Enter its test, or say the emergence of the seed sown."
    ),
    "zero_catch": (
        "Nothing was caught. Is the opener blocked, the shutter closed or the hopper empty? Stop the machine before you look."
    ),
    "other_crop": "{value}; this trial grows {limit}. Choose a lot of it, or add this one as a companion or part of a mixture.",
    "more_than_whole": "{label} make {value}, more than {limit}. {remedy}",
    "not_whole": "{label} add up to {value}, not to 100 %. {remedy}",
    "bad_crop_name": "“{value}” cannot name a crop. Use 2 to 40 letters, digits, spaces and hyphens.",
    "bad_trait": "{label} “{value}” cannot be used. Letters, digits, spaces and a few signs, not too many of them.",
    "wrong_order": "{label} {value} are the wrong way round: the lower one comes first.",
    "known_crop": "{value} is in the catalogue already: choose it there.",
    "unit_by_crop": "Bushels weigh differently by crop, so “{value}” cannot hold for all: the region gives it to its crops.",
    "unknown_choice": "{label} “{value}” is not known. Use one of: {limit}.",
    "too_few_blocks": (
        "Blocks must be at least 2 to estimate the strip-to-strip variation; got {value}. "
        "Add a block, or keep this as an unreplicated look."
    ),
    "too_few_treatments": "A comparison needs at least 2 treatments; got {value}. Add the treatment you want to try.",
    "tare_over_gross": "Tare ({limit}{unit}) is more than gross ({value}{unit}), so nothing is left. Were they swapped?",
    "price_not_above_cost": (
        "Price ({value}) must be above the cost per unit of yield ({limit}); otherwise more yield never pays. Check both."
    ),
    "other_currency": (
        "{label} is in {value}, but this workspace reckons in {limit}. Convert the prices first: amounts of two currencies "
        "are never added up."
    ),
    "lengths_differ": "{label} must have {limit} entries, one for each row; got {value}.",
    "no_response": "No strip has a response yet. Enter at least one harvested strip.",
    "not_replicates": (
        "{label} comes with {value} responses. Readings or samples inside a strip are not replicates: the treatment was "
        "given to the strip once, and its readings share the same ground. Use one mean a strip."
    ),
    "shared_load": (
        "A load with the grain of {value} cannot be shared out: nobody knows how much came from which. "
        "Weigh each strip alone, or leave the load out."
    ),
    "not_done": "{label} is not there: {value}. {remedy}",
    "not_estimable": (
        "The comparison of {value} cannot be made: no chain of shared blocks links the two. "
        "Harvest a strip that links them, or compare within blocks only."
    ),
    "no_variation": (
        "The responses agree exactly where the layout says they may differ, so nothing measures the variation between strips. "
        "Check the records: equal values are often typed or filled down."
    ),
    "too_few_strips": (
        "{value} cannot be judged: there are not more strips than the layout and its treatments take. "
        "Harvest more strips, or take fewer terms into the model."
    ),
    "empty_cells": (
        "Some combinations of {value} have no strip, so their means cannot be compared with equal weight. "
        "Harvest a strip of each, or compare the combinations that stand."
    ),
    "does_not_fit": "{label} {value}{unit} does not fit into {limit}{unit}. {remedy}",
    "duplicate": "{label} “{value}” appears twice. {remedy}",
    "not_rising": "{label}: {value}, fewer than before. {remedy}",
    "not_for_design": "{label} cannot be used with {value}: {limit}. {remedy}",
    "not_for_crop": "{label} cannot be judged for {value}. {remedy}",
    "cannot_satisfy": "No order found that keeps {label} in {limit} draws. {remedy}",
    "no_text": "{label} holds a sign that is no text ({value}). Type it again; a copied text may carry signs nobody sees.",
    "no_day": "{label} must be a day between {limit}; got {value}. Check the year.",
    "bad_geometry": "{label} cannot be used: {value}. {remedy}",
}


class Refusal(ValueError):
    """Input that a calculation cannot take.

    Attributes
    ----------
    code : key of ``WORDING``.
    field : name of the offending input, for placing the message.
    params : values that fill the wording (label, value, limit, unit, remedy, example).
    numbers : the value judged and the limit as numbers, where the refusal is one of a limit; else None.
    """

    numbers: tuple[float, float] | None = None

    def __init__(self, code: str, *, field: str, **params: object) -> None:
        self.code = code
        self.field = field
        self.params: dict[str, object] = {
            "label": field.replace("_", " ").capitalize(),
            "value": "",
            "limit": "",
            "unit": "",
            "remedy": "",
            "example": "12.5",
        } | params
        super().__init__(self.message)

    @property
    def message(self) -> str:
        """The sentence shown to a person."""
        return WORDING[self.code].format(**self.params).strip()


def _beyond(code: str, value: float, limit: float, field: str, params: dict[str, object]) -> Refusal:
    """A refusal of a limit, with the numbers kept beside their words."""
    refusal = Refusal(code, field=field, value=f"{value:g}", limit=f"{limit:g}", **params)
    refusal.numbers = (value, limit)
    return refusal


def require_positive(value: float, field: str, **params: object) -> float:
    """Return ``value`` when it is finite and above 0, else refuse with ``not_positive``."""
    require_finite(value, field, **params)
    if value <= 0:
        raise _beyond("not_positive", value, 0.0, field, params)
    return value


def require_finite(value: float, field: str, **params: object) -> float:
    """Return ``value`` when it is an ordinary number, else refuse."""
    if value != value or value in (float("inf"), float("-inf")):
        raise Refusal("not_finite", field=field, value=value, **params)
    return value


def require_between(value: float, low: float, high: float, field: str, **params: object) -> float:
    """Return ``value`` when low ≤ value ≤ high, else refuse with the limit that was passed."""
    require_finite(value, field, **params)
    if value < low:
        raise _beyond("too_small", value, low, field, params)
    if value > high:
        raise _beyond("too_large", value, high, field, params)
    return value
