"""Whether a price was typed in another unit than it was meant in: 10.40 as $/lb for soybeans would be $624 a bushel.

A price is odd when it lies beyond the usual range of the crop by more than ``ODD_FACTOR`` either way. The unit meant is then
one in which the number typed would lie inside the range; where several would, one in which the trade speaks, and of those
the one nearest to the middle. Ranges are in dollars, euros or pounds, and only raise a question: common practice, no source.
"""

from __future__ import annotations

from math import log

from cultrix_core.crops import CropProfile
from cultrix_core.units import System, Unit, to_canonical, units_of

ODD_FACTOR = 2.5
CURRENCIES = frozenset({"$", "€", "£", "US$", "CA$", "C$", "USD", "EUR", "GBP", "CAD"})


def meant_unit(value: float, unit: str, profile: CropProfile, *, currency: str, system: System | None = None) -> Unit | None:
    """The unit that a price was probably meant in; None where it is believable as typed or no other unit makes it so.

    Parameters
    ----------
    value : the number typed.
    unit : code of the unit typed, of dimension ``price``.
    profile : the crop, for its usual price and the weight of its bushel.
    currency : as the workspace writes it; nothing is asked in currencies whose prices we do not know.
    system : of the reader, whose units come first; None where it does not matter.

    Examples
    --------
    >>> from cultrix_core.crops import crop
    >>> meant_unit(10.40, "money/lb", crop("soybean"), currency="$").code
    'money/bu'
    >>> meant_unit(10.40, "money/bu", crop("soybean"), currency="$") is None
    True
    """
    if currency not in CURRENCIES or value <= 0:
        return None
    low, high = profile.usual_price_per_t

    def per_t(other: Unit) -> float:
        return to_canonical(value, "price", other.code, bushel_kg=profile.bushel_kg)

    known = [item for item in units_of("price") if not item.bushel or profile.bushel_kg is not None]
    typed = next((item for item in known if item.code == unit), None)
    if typed is None or low / ODD_FACTOR <= per_t(typed) <= high * ODD_FACTOR:
        return None
    believable = [item for item in known if low <= per_t(item) <= high]
    believable = [item for item in believable if item.system == system] or believable
    of_trade = (profile.units.us_price, profile.units.canada_price, profile.units.metric_price)
    believable = [item for item in believable if item.code in of_trade] or believable
    middle = (log(low) + log(high)) / 2
    return min(believable, key=lambda item: abs(log(per_t(item)) - middle), default=None)
