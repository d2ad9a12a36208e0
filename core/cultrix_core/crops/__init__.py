"""The catalogue of crops: one file a crop, each holding everything there is to know of it.

Add a crop: write ``crops/<key>.py`` with ``CROP``, and name it in ``ORDER``. ``tests/core/test_crops.py`` fails while a part
is missing or has no source.
"""

from __future__ import annotations

from importlib import import_module

from cultrix_core.crops.profile import Absent, CropProfile
from cultrix_core.errors import Refusal

# As lists offer them.
ORDER = (
    "winter_wheat",
    "maize",
    "sorghum",
    "sunflower",
    "field_pea",
    "soybean",
    "dry_bean",
    "barley",
    "oats",
    "oilseed_rape",
    "lucerne",
    "garlic",
    "other",
)
PROFILES: tuple[CropProfile, ...] = tuple(import_module(f"{__name__}.{key}").CROP for key in ORDER)
_BY_KEY = {profile.key: profile for profile in PROFILES}


def crop(key: str) -> CropProfile:
    """The profile named ``key``.

    Parameters
    ----------
    key : str
        Key of the crop, such as ``winter_wheat``.

    Returns
    -------
    CropProfile

    Raises
    ------
    Refusal : ``unknown_choice`` for a key that the catalogue does not have.

    Examples
    --------
    >>> crop("maize").standard_moisture_pct
    15.5
    >>> crop("dry_bean").heat.base_c
    10
    """
    if key not in _BY_KEY:
        raise Refusal("unknown_choice", field="crop", value=key, limit=", ".join(_BY_KEY))
    return _BY_KEY[key]


__all__ = ["ORDER", "PROFILES", "Absent", "CropProfile", "crop"]
