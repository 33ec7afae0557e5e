"""Which pump is this, or ought it to be: the family chooser, asked from the bench."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.shops.services import system_of
from sizing.base import quantity, units
from sizing.base.errors import SizingError
from sizing.selection import pump_family

_MOST_SHOWN = 8


@require_GET
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
            ("solid", "5 mm"),
            ("lift", ""),
        )
    }
    problems: dict[str, str] = {}
    advice: tuple[pump_family.Advice, ...] = ()
    if asked["liquid"] and asked["place"] and asked["feeds"]:
        advice = _advise(asked, problems, request)
    seen = {clue.code: request.GET.get(clue.code, "") for clue in pump_family.clues()}
    answered = {code: answer for code, answer in seen.items() if answer}
    try:
        recognised = pump_family.recognise(answered) if answered else ()
    except SizingError:
        recognised, answered = (), {}
    fits = [one for one in advice if one.fits]
    context = {
        "asked": asked,
        "problems": problems,
        "lists": _lists(asked),
        "fits": fits,
        "others": [one for one in advice if not one.fits][:_MOST_SHOWN],
        "advised": bool(advice),
        "clues": [(clue, seen[clue.code]) for clue in pump_family.clues()],
        "seen_any": bool(answered),
        "left": [one for one in recognised if one.fits],
        "excluded": [one for one in recognised if not one.fits],
        "length_unit": units.SHOWN["length"][system_of(request.membership.shop)].unit,
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


def _advise(
    asked: dict[str, str], problems: dict[str, str], request: ShopRequest
) -> tuple[pump_family.Advice, ...]:
    system, read = system_of(request.membership.shop), {}
    for name, dimension in (("solid", "size"), ("lift", "length")):
        try:
            read[name] = quantity.read(
                asked[name] or "0", dimension, units.SHOWN[dimension][system].unit
            ).si
        except SizingError as problem:
            problems[name] = str(problem)
    if problems:
        return ()
    try:
        return pump_family.advise(
            liquid=asked["liquid"],
            place=asked["place"],
            feeds=asked["feeds"],
            solid_m=read["solid"],
            lift_m=read["lift"],
        )
    except SizingError as problem:
        problems["lift"] = str(problem)
        return ()
