"""Two records of one customer or one site made one: compared first, chosen, remembered, undone."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

from django.contrib.auth.models import AbstractBaseUser
from django.db import models, transaction
from django.db.models import QuerySet
from django.dispatch import Signal

from kyrtos.customers.models import Customer, Gone, Site
from kyrtos.customers.records import site_named
from kyrtos.shops import merges
from kyrtos.shops.merges import CannotMerge, CannotUndo
from kyrtos.shops.models import Merge
from kyrtos.shops.one_line import Lines, lines_of

Record = TypeVar("Record", Customer, Site)

# Whoever points at customers and sites listens, and gives what it pointed elsewhere as Moved.
customers_merged = Signal()  # stays, goes
sites_merged = Signal()  # stays, goes
merge_undone = Signal()  # stays, goes: two records again

# What merging does by itself, field by field: whose it is, and what has a rule of its own below.
_OF_ITSELF = ("id", "shop", "customer", "as_built")
_PAIRS = {("latitude", "longitude"): "Coordinates"}  # chosen together or not at all
_LABELS = {"units": "Figures in", "frequency_hz": "Mains frequency [Hz]"}
_EMPTY = ("", None)


@dataclass(frozen=True)
class Compared:
    """One field of two records: of each, what is kept, and whether one is to be chosen."""

    name: str
    label: str
    stays: str
    goes: str
    kept: str
    choose: bool


def kind_of(record: Customer | Site) -> str:
    """Its kind, as merges call it."""
    return "customer" if isinstance(record, Customer) else "site"


def _values(record: Customer | Site, names: Iterable[str]) -> tuple[Any, ...]:
    return tuple(getattr(record, name) for name in names)


def _said(values: tuple[Any, ...]) -> str:
    given = [value for value in values if value not in _EMPTY]
    return ", ".join(f"{one:g}" if isinstance(one, float) else str(one) for one in given)


def _label(record: Customer | Site, name: str) -> str:
    field: Any = record._meta.get_field(name)
    return str(field.verbose_name).split(",")[0]


def _editable(model: type[models.Model]) -> list[Any]:
    return [
        one for one in model._meta.concrete_fields if one.editable and one.name not in _OF_ITSELF
    ]


def lines_in(model: type[models.Model]) -> tuple[str, ...]:
    """Fields with one entry to a line: of two records, all of both are kept."""
    return tuple(one.name for one in _editable(model) if isinstance(one, Lines))


def texts_in(model: type[models.Model]) -> tuple[str, ...]:
    """Free texts: of two records, one after the other is kept."""
    return tuple(
        one.name
        for one in _editable(model)
        if isinstance(one, models.TextField) and not isinstance(one, Lines)
    )


def singles_in(model: type[models.Model]) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Fields with one value, labelled: of two, one is chosen, the other is a line of notes."""
    several = {*lines_in(model), *texts_in(model)}
    labels = {one.name: str(one.verbose_name) for one in _editable(model)} | _LABELS
    names = [one.name for one in _editable(model) if one.name not in several]
    found: list[tuple[str, tuple[str, ...]]] = []
    for name in names:
        pair = next((pair for pair in _PAIRS if name in pair), None)
        if pair is None:
            found.append((labels[name][:1].upper() + labels[name][1:], (name,)))
        elif name == pair[0]:
            found.append((_PAIRS[pair], pair))
    return tuple(found)


def compared(stays: Record, goes: Record) -> list[Compared]:
    """Every field in which two records differ, and what the one that stays will hold."""
    rows = []
    for label, names in singles_in(type(stays)):
        here, there = _said(_values(stays, names)), _said(_values(goes, names))
        if here != there:
            rows.append(Compared(names[0], label, here, there, here or there, bool(here and there)))
    for name in (*lines_in(type(stays)), *texts_in(type(stays))):
        here, there = getattr(stays, name), getattr(goes, name)
        if here.strip() != there.strip():
            label = _label(stays, name).capitalize()
            kept = _together(type(stays), name, here, there)
            rows.append(Compared(name, label, here, there, kept, False))
    if isinstance(stays, Site) and isinstance(goes, Site) and goes.as_built != stays.as_built:
        texts = ["; ".join(f"{k}: {v}" for k, v in one.as_built.items()) for one in (stays, goes)]
        both = {**goes.as_built, **stays.as_built}
        kept = "; ".join(f"{k}: {v}" for k, v in both.items())
        rows.append(Compared("as_built", "Measured runs", texts[0], texts[1], kept, False))
    return rows


def _together(model: type[models.Model], name: str, here: str, there: str) -> str:
    if name in lines_in(model):
        return "\n".join(lines_of(f"{here}\n{there}"))
    if there.strip() in here:
        return here
    return f"{here.strip()}\n{there.strip()}".strip()


def _fill(stays: Record, goes: Record, taken: frozenset[str]) -> None:
    """Put together in the one that stays what both hold; nothing that either had is lost.

    ``taken`` names fields whose value is to be the other's.

    Raises
    ------
    CannotMerge
        Together a text is longer than it may be.
    """
    besides: list[str] = []
    also = [*stays.also, stays.known_as, goes.known_as, *goes.also]
    for label, names in singles_in(type(stays)):
        here, there = _values(stays, names), _values(goes, names)
        take = (names[0] in taken and _said(there)) or not _said(here)
        left, owner = (here, stays.name) if take else (there, goes.name)
        if take:
            for name, value in zip(names, there, strict=True):
                setattr(stays, name, value)
        if _said(left) and here != there and names[0] not in ("name", "units"):
            besides.append(f"{label} of {owner}: {_said(left)}")
    if isinstance(stays, Site) and isinstance(goes, Site):
        for kind, told in goes.as_built.items():
            if stays.as_built.get(kind, told) != told:
                besides.append(f"Measured run ({kind}) of {goes.name}: {told}")
        stays.as_built = {**goes.as_built, **stays.as_built}
    for name in (*lines_in(type(stays)), *texts_in(type(stays))):
        both = getattr(stays, name), getattr(goes, name)
        setattr(stays, name, _together(type(stays), name, *both))
    stays.notes = "\n".join(filter(None, [stays.notes.strip(), *besides]))
    for name in (*lines_in(type(stays)), *texts_in(type(stays))):
        field: Any = stays._meta.get_field(name)
        if len(getattr(stays, name)) > field.max_length:
            label = _label(stays, name)
            raise CannotMerge(
                f"together their {label} are longer than {field.max_length:,} letters: shorten"
                " one of them first"
            )
    stays.save()
    stays.also = [one for one in dict.fromkeys(also) if one != stays.known_as]
    stays.save(update_fields=["also"])


def _of_one_shop(stays: Record, goes: Record) -> None:
    if stays.pk == goes.pk or stays.shop_id != goes.shop_id:
        raise CannotMerge(f"choose another {kind_of(stays)} of this shop")


@transaction.atomic
def merge_customers(
    stays: Customer,
    goes: Customer,
    *,
    taken: frozenset[str] = frozenset(),
    user: AbstractBaseUser | None = None,
) -> Merge:
    """Make two records of one customer one; sites of the same name become one too.

    Raises
    ------
    CannotMerge
        They are the same record, of two shops, or one was taken out on request; together a text is
        longer than it may be.
    """
    _of_one_shop(stays, goes)
    if stays.taken_out or goes.taken_out:
        raise CannotMerge("one of them was taken out on request")
    before, gone = merges.state_of(stays), merges.state_of(goes)
    _fill(stays, goes, taken)
    parts, moved = [], []
    for site in list(goes.sites.all()):
        same = site_named(stays.shop, stays, site.name)
        if same is not None:
            parts.append(merge_sites(same, site, user=user))
        else:
            moved.append(merges.repoint(Site.objects.filter(pk=site.pk), "customer_id", stays.pk))
    moved += _told(customers_merged.send(Customer, stays=stays, goes=goes))
    merge = _remember(stays, goes, user, before, gone, moved)
    Merge.objects.filter(pk__in=[one.pk for one in parts]).update(within=merge)
    goes.delete()
    return merge


@transaction.atomic
def merge_sites(
    stays: Site,
    goes: Site,
    *,
    taken: frozenset[str] = frozenset(),
    user: AbstractBaseUser | None = None,
) -> Merge:
    """Make two records of one site one, with the photos of both.

    Jobs of another customer at the one that goes stay that customer's.

    Raises
    ------
    CannotMerge
        They are the same record, or of two shops; together a text is longer than it may be.
    """
    _of_one_shop(stays, goes)
    before, gone = merges.state_of(stays), merges.state_of(goes)
    _fill(stays, goes, taken)
    moved = [merges.repoint(goes.files.all(), "site_id", stays.pk)]
    moved += _told(sites_merged.send(Site, stays=stays, goes=goes))
    merge = _remember(stays, goes, user, before, gone, moved)
    goes.delete()
    return merge


def _told(answers: list[Any]) -> list[merges.Moved]:
    """What whoever listens pointed to the record that stays."""
    return [one for _, found in answers for one in found]


def _remember(
    stays: Customer | Site,
    goes: Customer | Site,
    user: AbstractBaseUser | None,
    before: Any,
    gone: Any,
    moved: list[merges.Moved],
) -> Merge:
    """Keep it; old links lead to the one that stays, through any number of merges."""
    kind = kind_of(stays)
    older = Gone.objects.filter(kind=kind, into=goes.pk)
    moved.append(merges.repoint(older, "into", stays.pk))
    Gone.objects.create(shop=stays.shop, kind=kind, number=goes.pk, into=stays.pk)
    return merges.remember(
        stays, goes, kind=kind, shop=stays.shop, user=user, before=before, gone=gone, moved=moved
    )


@transaction.atomic
def undo(merge: Merge) -> None:
    """Make two records of one again, with what each had; later work on other things stays.

    Raises
    ------
    CannotUndo
        The one that stays was changed or merged since, or there is another of the other's name.
    """
    merges.check(merge)
    model = Customer if merge.kind == "customer" else Site
    fields: Mapping[str, Any] = merge.gone["fields"]
    same: QuerySet[Any] = model._default_manager.filter(
        shop=merge.shop, known_as=fields["known_as"]
    )
    if merge.kind == "site":
        same = same.filter(customer=fields["customer"])
        if fields["customer"] and not Customer.objects.filter(pk=fields["customer"]).exists():
            raise CannotUndo(f"the customer of {merge.goes_name} is no record any more")
    if same.exclude(pk=int(merge.stays)).exists():
        raise CannotUndo(f"there is another {merge.kind} called {merge.goes_name} by now")
    undone = [(merge.kind, merge.stays, merge.goes)]
    undone += [(part.kind, part.stays, part.goes) for part in merge.parts.all()]
    merges.undo(merge)
    for kind, stays, goes in undone:
        rows: Any = Customer.objects if kind == "customer" else Site.objects
        Gone.objects.filter(kind=kind, number=int(goes)).delete()
        merge_undone.send(type(rows), stays=rows.get(pk=int(stays)), goes=rows.get(pk=int(goes)))
