"""Pumps put away and brought back, and two that are one."""

from __future__ import annotations

import difflib
from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Q

from kyrtos.catalogue import prices, publishing
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import PLAIN, to_pump
from kyrtos.catalogue.pump_facts import pump_facts
from kyrtos.shops import merges
from kyrtos.shops.merges import CannotMerge, CannotUndo
from kyrtos.shops.models import Merge, Shop
from sizing.base import units
from sizing.base.units import System

_NAMES = {"pump_id", "maker", "model", "variant", "family", "discontinued"}  # never filled in
_MOST_ALIKE = 8
_ALIKE = 0.55  # of difflib's ratio: names that may be two spellings of one


def archive(shop: Shop, pump_id: str) -> None:
    """Put a pump away: jobs choose from it no more, its page and its papers stay."""
    CatalogueEntry.objects.filter(shop=shop, pump_id=pump_id).update(archived=True)
    publishing.changed(shop)


def bring_back(shop: Shop, pump_id: str) -> None:
    """Choose from it again; one that was merged stands for itself again."""
    CatalogueEntry.objects.filter(shop=shop, pump_id=pump_id).update(archived=False, merged_into="")
    publishing.changed(shop)


def stands_for(shop: Shop, pump_id: str) -> str:
    """The id of the pump that a merged one is now; the id itself when it was not merged."""
    found = (
        CatalogueEntry.objects.filter(shop=shop, pump_id=pump_id)
        .values_list("merged_into", flat=True)
        .first()
    )
    return found or pump_id


def alike(shop: Shop, row: CatalogueEntry, words: str = "") -> list[CatalogueEntry]:
    """Pumps that may be the same under another spelling; or those that words find."""
    others = CatalogueEntry.objects.filter(shop=shop, archived=False).exclude(pk=row.pk)
    if words:
        for word in words.split():
            others = others.filter(Q(maker__icontains=word) | Q(model__icontains=word))
        return list(others[:_MOST_ALIKE])
    first = row.maker[:1] or row.model[:1]
    near = others.filter(family=row.family).filter(
        Q(maker__iexact=row.maker) | Q(maker__istartswith=first)
    )
    scored = [
        (difflib.SequenceMatcher(None, str(one).casefold(), str(row).casefold()).ratio(), one)
        for one in near.only("pump_id", "maker", "model", "variant", "note").iterator(2000)
    ]
    scored = [one for one in scored if one[0] >= _ALIKE]
    return [one for _, one in sorted(scored, key=lambda pair: -pair[0])[:_MOST_ALIKE]]


@dataclass(frozen=True)
class Fact:
    """A fact of two pumps that are to be one: of each, and whether it is filled in."""

    label: str
    stays: str
    goes: str
    filled: bool


def compared(
    stays: CatalogueEntry, goes: CatalogueEntry, system: System, currency: str
) -> tuple[Fact, ...]:
    """Where two pumps differ, and what the one that stays gets from the other."""
    ours, theirs = (
        dict(pump_facts(to_pump(row.__dict__), system, currency)) for row in (stays, goes)
    )
    facts = [
        Fact(label, ours[label], theirs[label], filled=not ours[label] and bool(theirs[label]))
        for label in ours
        if ours[label] != theirs[label]
    ]
    curves = [
        f"{len(row.flows_m3s)} points, to {units.show(row.flows_m3s[-1], 'flow', system)} and"
        f" {units.show(max(row.heads_m), 'length', system)}"
        for row in (stays, goes)
    ]
    return (Fact("Curve", curves[0], curves[1], filled=False), *facts)


@transaction.atomic
def merge(shop: Shop, *, stays: str, goes: str, user: AbstractBaseUser | None = None) -> Merge:
    """Two pumps are one: what the one that stays lacks comes from the other, which is put away.

    Jobs, old files and addresses that name the other find the one that stays; so do rows of later
    imports. The curve is that of the one that stays.

    Raises
    ------
    CannotMerge
        The same pump twice; one that is put away or merged already.
    """
    if stays == goes:
        raise CannotMerge("a pump cannot be merged with itself")
    rows = {
        row.pump_id: row
        for row in CatalogueEntry.objects.select_for_update().filter(
            shop=shop, pump_id__in=[stays, goes]
        )
    }
    if len(rows) < 2:
        raise CannotMerge("that pump is not in the catalogue any more")
    if rows[stays].archived or rows[goes].merged_into:
        raise CannotMerge("that pump is put away, or merged already: bring it back first")
    kept, other = rows[stays], rows[goes]
    before, gone = merges.state_of(kept), merges.state_of(other)
    price_before = kept.price
    for name in PLAIN:
        if name not in _NAMES and getattr(kept, name) in (None, ""):
            setattr(kept, name, getattr(other, name))
    kept.save()
    other.archived, other.merged_into = True, stays
    other.save(update_fields=["archived", "merged_into"])
    moved = merges.repoint(
        CatalogueEntry.objects.filter(shop=shop, merged_into=goes), "merged_into", stays
    )
    prices.note(shop, {stays: price_before}, {stays: kept.price}, f"merged with {other}")
    publishing.changed(shop)
    return merges.remember(
        kept,
        other,
        kind="pump",
        shop=shop,
        user=user,
        before=before,
        gone=gone,
        moved=[moved],
        keys=(stays, goes),
    )


@transaction.atomic
def undo_merge(merge: Merge) -> None:
    """Two pumps are two again, as they were before.

    Raises
    ------
    CannotUndo
        One of them was changed since.
    """
    shop, goes = merge.shop, merge.goes
    other = CatalogueEntry.objects.filter(shop=shop, pump_id=goes).first()
    if other is None or other.pk != merge.gone["pk"] or other.merged_into != merge.stays:
        raise CannotUndo("the entry that was put away is not the one of then")
    merges.check(merge)
    kept = CatalogueEntry.objects.get(pk=merge.after["pk"])
    price = kept.price
    merges.undo(merge)
    kept.refresh_from_db()
    prices.note(shop, {kept.pump_id: price}, {kept.pump_id: kept.price}, "merge undone")
    publishing.changed(shop)
