"""The catalogue of crops: one file a crop, each holding everything there is to know of it.

Add a crop: write ``crops/<key>.py`` with ``CROP``, and name it in ``ORDER``. ``tests/core/test_crops.py`` fails while a part
is missing or has no source.
"""

from __future__ import annotations

import re
from dataclasses import replace
from functools import lru_cache
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
OF = ":"
LONGEST_KEY = 64
_NAME = re.compile(r"[^\W_][\w -]{0,38}[^\W_]")
_BY_KEY = {profile.key: profile for profile in PROFILES}


def own_crop_key(name: str, relative: str) -> str:
    """Key of a farm's own crop, which takes everything from its nearest relative in the catalogue but its name.

    Parameters
    ----------
    name : what the farm calls it, up to 40 letters, digits, spaces and hyphens.
    relative : key of the nearest relative.

    Raises
    ------
    Refusal : ``bad_crop_name``, ``unknown_choice`` relative, ``known_crop`` where the catalogue has it.

    Examples
    --------
    >>> own_crop_key(" Faba  bean ", "field_pea")
    'field_pea:Faba bean'
    """
    plain = " ".join(name.split())
    if not _NAME.fullmatch(plain):
        raise Refusal("bad_crop_name", field="name", value=plain[:50])
    if relative not in _BY_KEY:
        raise Refusal("unknown_choice", field="relative", label="Relative", value=relative, limit=", ".join(_BY_KEY))
    if plain.casefold() in {item.name.casefold() for item in PROFILES}:
        raise Refusal("known_crop", field="name", value=plain)
    return f"{relative}{OF}{plain}"


@lru_cache(maxsize=256)
def _own(key: str) -> CropProfile | None:
    relative, _, name = key.partition(OF)
    try:
        if own_crop_key(name, relative) != key:
            return None
    except Refusal:
        return None
    base = _BY_KEY[relative]
    source = f"taken from {base.name.lower()}, the nearest relative in the catalogue"
    return replace(base, key=key, name=name, relative=base.name, sources=dict.fromkeys(base.sources, source))


def crop(key: str) -> CropProfile:
    """The profile named ``key``: of the catalogue, or a farm's own by its nearest relative.

    Parameters
    ----------
    key : str
        Key of the crop, such as ``winter_wheat``; or ``field_pea:Faba bean`` (``own_crop_key``).

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
    >>> crop("field_pea:Faba bean").heat == crop("field_pea").heat
    True
    """
    profile = _BY_KEY.get(key) or (_own(key) if OF in key and len(key) <= LONGEST_KEY else None)
    if profile is None:
        raise Refusal("unknown_choice", field="crop", value=key, limit=", ".join(_BY_KEY))
    return profile


__all__ = ["ORDER", "PROFILES", "Absent", "CropProfile", "crop", "own_crop_key"]
