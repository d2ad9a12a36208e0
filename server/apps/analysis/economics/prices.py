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


def _item(price_item: PriceItem, show: UnitFormatter) -> PriceItemOut:
    unit_formatter = replace(show, bushel_kg=crop(price_item.crop).bushel_kg) if price_item.crop else show
    shown = None if price_item.price.value is None else unit_formatter.text(price_item.price.value, KIND[price_item.kind])
    return PriceItemOut(
        id=price_item.pk,
        kind=cast(Any, price_item.kind),
        crop=price_item.crop,
        name=price_item.name or (crop(price_item.crop).name if price_item.crop else ""),
        price=TypedOut(text=price_item.price.text, unit=price_item.price.unit, shown=shown),
    )
