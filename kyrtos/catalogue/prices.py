"""What a pump cost, and since when."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from kyrtos.catalogue.models import CatalogueEntry, PriceNote
from kyrtos.shops.models import Shop
from sizing.base import units

_SHOWN = 12
Prices = Mapping[str, float | None]  # by pump id


def note(shop: Shop, before: Prices, after: Prices, source: str) -> None:
    """Remember every price that is another now, or is new."""
    PriceNote.objects.bulk_create(
        [
            PriceNote(shop=shop, pump_id=pump_id, price=price, source=source[:200])
            for pump_id, price in after.items()
            if before.get(pump_id) != price
        ],
        batch_size=2000,
    )


def of(shop: Shop, pump_ids: list[str]) -> dict[str, float | None]:
    """The prices of today."""
    rows = CatalogueEntry.objects.filter(shop=shop, pump_id__in=pump_ids)
    return dict(rows.values_list("pump_id", "price"))


@dataclass(frozen=True)
class PriceLine:
    """One line of the history: what it cost from then on, by whose word, and the step to it."""

    when: datetime
    price: str
    change: str
    source: str


def history(shop: Shop, pump_id: str) -> tuple[PriceLine, ...]:
    """The prices of a pump, the newest first."""
    notes = list(PriceNote.objects.filter(shop=shop, pump_id=pump_id)[: _SHOWN + 1])
    lines = []
    for at, one in enumerate(notes[:_SHOWN]):
        older = notes[at + 1].price if at + 1 < len(notes) else None
        change = ""
        if one.price is not None and older:
            share = units.show(abs(one.price - older) / older, "ratio", "metric", 1)
            change = f"{'+' if one.price >= older else '−'}{share}"
        price = "not stated" if one.price is None else units.number_text(one.price, 2)
        lines.append(PriceLine(one.when, price, change, one.source))
    return tuple(lines)
