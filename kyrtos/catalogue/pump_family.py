"""Which pump is this, or ought it to be: the family chooser, asked from the bench."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_safe

from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from sizing.base import quantity, units
from sizing.base.errors import SizingError
from sizing.base.numbers import as_kept
from sizing.kinds import kind_of_family
from sizing.pump.catalogue_columns import families
from sizing.selection import pump_family

_MOST_SHOWN = 8


@require_safe
@may("see")
def which(request: ShopRequest) -> HttpResponse:
    """Two questions on one page: what a job wants, and what an old pump is.

    Both are plain GET, so an answer can be sent as a link.
    """
    asked = {
        name: request.GET.get(name, default)[:60]
        for name, default in (
            ("liquid", ""),
            ("place", ""),
            ("feeds", ""),
            ("solid", ""),
            ("lift", ""),
        )
    }
    problems: dict[str, str] = {}
    begun = any(asked[name] for name in ("liquid", "place", "feeds", "lift"))
    measured = _measured(asked, problems, request) if begun else {}
    advice: tuple[pump_family.Advice, ...] = ()
    whole = all(asked[name] for name in ("liquid", "place", "feeds"))
    if whole and measured:
        advice = _advise(asked, measured, problems)
    fits = [one for one in advice if one.fits]
    seen = {clue.code: request.GET.get(clue.code, "") for clue in pump_family.clues()}
    answered = {code: answer for code, answer in seen.items() if answer}
    try:
        recognised = pump_family.recognise(answered) if answered else ()
    except SizingError:
        recognised, answered = (), {}
    context = {
        "asked": asked,
        "problems": problems,
        "lists": _lists(asked),
        "fits": [(one, *_leads_to(one, asked, request)) for one in fits],
        "ruled_out": _ruled_out(asked, measured) if advice and not fits else [],
        "still": _still(asked, measured) if measured and not whole else None,
        "others": [one for one in advice if not one.fits][:_MOST_SHOWN],
        "advised": bool(advice),
        "clues": [(clue, seen[clue.code]) for clue in pump_family.clues()],
        "seen_any": bool(answered),
        "left": [one for one in recognised if one.fits],
        "excluded": [one for one in recognised if not one.fits],
        "length_unit": units.shown("length", system_of(request.membership)).unit,
    }
    return render(request, "catalogue/which.html", context, status=422 if problems else 200)


def _lists(asked: dict[str, str]) -> list[tuple[str, str, list[tuple[str, str, bool]]]]:
    """The choices as (name, label, options); an option is (code, label, chosen)."""
    tables = (
        ("liquid", "The water", pump_family.LIQUIDS),
        ("place", "Where the pump is to stand", pump_family.PLACES),
        ("feeds", "What it feeds", pump_family.FEEDS),
    )
    return [
        (name, label, [(code, text, asked[name] == code) for code, text in known.items()])
        for name, label, known in tables
    ]


_WORDS = {
    "liquid": "the water",
    "place": "where it is to stand",
    "feeds": "what it feeds",
    "solids": "the largest solid",
    "lift": "the height",
}


def _labels(found: tuple[str, ...]) -> str:
    return ", ".join(families()[one] for one in found)


def _ruled_out(asked: dict[str, str], measured: dict[str, float | None]) -> list[tuple[str, str]]:
    """Each answer that alone rules every family out, and which would do without it."""
    found = pump_family.ruled_out_by(
        liquid=asked["liquid"], place=asked["place"], feeds=asked["feeds"], **measured
    )
    return [(_WORDS[name], _labels(left)) for name, left in found]


def _still(asked: dict[str, str], measured: dict[str, float | None]) -> dict[str, str]:
    """What is possible while not all is answered, and what is to be answered yet."""
    left = pump_family.possible(
        liquid=asked["liquid"],
        place=asked["place"],
        feeds=asked["feeds"],
        **measured,
    )
    open_yet = [_WORDS[name] for name in ("liquid", "place", "feeds") if not asked[name]]
    return {"left": _labels(left), "open": " and ".join(open_yet)}


def _leads_to(
    one: pump_family.Advice, asked: dict[str, str], request: ShopRequest
) -> tuple[str, int]:
    """The address of a new job with these facts, and how many pumps of the family there are."""
    kind_code = kind_of_family(one.family)
    facts = {
        "kind": kind_code,
        "largest_solid": asked["solid"],
        "liquid": asked["liquid"],
        "note": _told(asked),
    }
    count = request.membership.shop.pumps.filter(family=one.family, archived=False).count()
    address = f"{reverse('new-job')}?{urlencode(facts)}" if kind_code else ""
    return address, count


def _told(asked: dict[str, str]) -> str:
    """What was answered, for the job's note: not all of it has a field there."""
    told = [
        pump_family.LIQUIDS.get(asked["liquid"], ""),
        pump_family.PLACES.get(asked["place"], ""),
        f"feeds {pump_family.FEEDS.get(asked['feeds'], '')}",
        f"lift about {asked['lift']}" if asked["lift"] else "",
    ]
    return "First told: " + ", ".join(filter(None, told)) + "."


def _measured(
    asked: dict[str, str], problems: dict[str, str], request: ShopRequest
) -> dict[str, float | None]:
    """The solid and the lift [m], None where not known; nothing where one cannot be read."""
    system = system_of(request.membership)
    read: dict[str, float | None] = {}
    for name, dimension in (("solid", "size"), ("lift", "length")):
        try:
            text, unit = as_kept(asked[name]), units.shown(dimension, system).unit
            read[f"{name}_m"] = quantity.read(text, dimension, unit).si if text else None
        except SizingError as problem:
            problems[name] = str(problem)
    return {} if problems else read


def _advise(
    asked: dict[str, str], measured: dict[str, float | None], problems: dict[str, str]
) -> tuple[pump_family.Advice, ...]:
    try:
        return pump_family.advise(
            liquid=asked["liquid"], place=asked["place"], feeds=asked["feeds"], **measured
        )
    except SizingError as problem:
        problems["lift"] = str(problem)
        return ()
