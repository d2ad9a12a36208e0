"""Price lists for an answer."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, cast

from cultrix_core.crops import crop
from cultrix_core.unit_formatting import UnitFormatter

from apps.analysis.economics.models import PriceItem, PriceList
from apps.analysis.economics.schemas import PriceItemOut, PriceListOut
from apps.base.quantities import TypedOut

KIND = {"crop": "price", "fuel": "fuel_price", "hour": "wage", "area": "money_per_area", "bag": "money"}


def price_list_out(record: PriceList, show: UnitFormatter) -> PriceListOut:
    """A list with its prices in the reader's units."""
    return PriceListOut(
        id=record.id,
        version=record.version,
        name=record.name,
        dated=record.dated,
        source=record.source,
        retired=record.retired,
        items=[_item(item, show) for item in record.items.all()],
    )


def _item(one: PriceItem, show: UnitFormatter) -> PriceItemOut:
    own = replace(show, bushel_kg=crop(one.crop).bushel_kg) if one.crop else show
    shown = None if one.price.value is None else own.text(one.price.value, KIND[one.kind])
    return PriceItemOut(
        id=one.pk,
        kind=cast(Any, one.kind),
        crop=one.crop,
        name=one.name or (crop(one.crop).name if one.crop else ""),
        price=TypedOut(text=one.price.text, unit=one.price.unit, shown=shown),
    )
