"""The counter's one screen: everything typed in any order, answered at once, a link to send."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast
from urllib.parse import urlencode

from django.db.models import Q
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.audit import did
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import catalogue_of
from kyrtos.counter import forms, known
from kyrtos.counter.forms import Asked
from kyrtos.counter.words import FoundView, found_view
from kyrtos.jobs import services as jobs
from kyrtos.jobs.told_alone import told_alone
from kyrtos.shops import trouble
from sizing.aftercare.replacement.replacement import replacement
from sizing.base.errors import SizingError
from sizing.editing.edit import edit
from sizing.kinds import kind_of_family
from sizing.selection.pump_family import clues

_MOST_SITES = 20


@dataclass(frozen=True)
class Cell:
    """A field of the screen."""

    name: str
    label: str
    text: str
    example: str
    problem: str
    choices: tuple[tuple[str, str], ...] = ()
    focus: bool = False  # where typing begins on an empty screen


def _cell(name: str, asked: Asked) -> Cell:
    text, problem = asked.given[name], asked.problems.get(name, "")
    if name in forms.FIGURES:
        one = forms.FIGURES[name]
        return Cell(name, one.label, text, one.example, problem)
    if name in forms.TEXTS:
        label, example = forms.TEXTS[name]
        begins = name == "maker" and not asked.begun
        return Cell(name, label, text, example, problem, focus=begins)
    label, choices = forms.CHOICES[name]
    return Cell(name, label, text, "", problem, tuple(choices.items()))


def _groups(asked: Asked) -> list[tuple[str, list[Cell]]]:
    found = [(title, [_cell(name, asked) for name in names]) for title, names in forms.GROUPS]
    found[0][1].extend(_cell(name, asked) for name in ("phases", "speeds"))
    found[1][1].append(_cell("direction", asked))
    found[2][1].extend(_cell(name, asked) for name in ("liquid", "place", "feeds"))
    return found


@require_safe
@may("see")
def counter(request: ShopRequest) -> HttpResponse:
    """What is known of an old pump, and what takes its place."""
    shop, system = request.membership.shop, system_of(request.membership)
    old_one = known.installed(shop, request.GET.get("pump", ""))
    given = known.filled_in(old_one, system) | {
        name: str(text) for name, text in request.GET.items() if text
    }
    asked = forms.read(given, system, timezone.localdate())
    view, problem = None, ""
    if asked.begun:
        view, problem = _answered(request, asked, old_one)
    wrong = bool(asked.problems or problem)
    context = {
        "groups": _groups(asked),
        "family": _cell("family", asked),
        "clues": [(clue, asked.given[clue.code]) for clue in clues()],
        "models": _models(request),
        "view": view,
        "problem": problem,
        "begun": asked.begun,
        "installed": old_one,
        "query": request.GET.urlencode(),
    }
    return render(request, "counter/counter.html", context, status=422 if wrong else 200)


def _models(request: ShopRequest) -> list[tuple[str, str]]:
    rows = CatalogueEntry.objects.filter(shop=request.membership.shop, archived=False)
    return list(rows.order_by("model").values_list("maker", "model").distinct()[:500])


def _answered(
    request: ShopRequest, asked: Asked, old_one: known.Installed | None
) -> tuple[FoundView | None, str]:
    shop = request.membership.shop
    pump = known.pump_meant(shop, asked.old, old_one)
    family = pump.family if pump is not None else asked.old.family
    system = system_of(request.membership)

    def answered() -> tuple[FoundView | None, str]:
        try:
            found = replacement(
                asked.old,
                catalogue_of(shop),
                known=pump,
                run=known.run_meant(asked, old_one, system),
                lasts_years=known.lasts(shop, family),
            )
        except SizingError as told:
            return None, str(told)
        return found_view(found, system, shop.currency, known.life_of(shop, pump)), ""

    said = "what takes its place could not be worked out; the owner sees what broke"
    untold: tuple[FoundView | None, str] = (None, said)
    return trouble.alone(shop, "what takes an old pump's place", answered, untold)


@require_safe
@may("edit job")
def sold(request: ShopRequest) -> HttpResponse:
    """Where a pump that was sold at the counter goes: a site that is known, or a new customer."""
    words = request.GET.get("q", "")[:100]
    names = {name: request.GET.get(name, "")[:200] for name in ("maker", "model")}
    sites = request.membership.shop.sites.select_related("customer")
    for word in words.split():
        sites = sites.filter(Q(name__icontains=word) | Q(customer__name__icontains=word))
    shown = list(sites.order_by("customer__name", "name")[: _MOST_SITES + 1])
    context = {
        "words": words,
        "names": names,
        "query": urlencode(names),
        "sites": shown[:_MOST_SITES],
        "more": len(shown) > _MOST_SITES,
    }
    return render(request, "counter/sold.html", context)


@require_POST
@may("edit job")
@told_alone("a job made at the counter")
def size_it(request: ShopRequest) -> HttpResponse:
    """A job of the old pump's kind, with what was typed at the counter taken over."""
    shop, system = request.membership.shop, system_of(request.membership)
    asked = forms.read(
        {name: str(text) for name, text in request.POST.items()}, system, timezone.localdate()
    )
    kind_code = kind_of_family(request.POST.get("for", "")) or "sump"
    name = f"{asked.old.maker} {asked.old.model}".strip() or "the old pump"
    old_one = known.installed(shop, request.POST.get("pump", ""))
    made = jobs.create(
        shop=shop,
        user=cast(User, request.user),
        kind_code=kind_code,
        title=f"In the place of {name}"[:200],
        customer=old_one.customer if old_one else "",
        site=old_one.site if old_one else "",
        note=known.note_of(asked)[:2000],
        facts=known.facts_of(asked, kind_code),
    )
    content = jobs.current(made)
    for path, text in known.edits_of(asked, content):
        content = edit(content, path, text).job
    changed = content
    jobs.change(job=made, user=cast(User, request.user), path="", page="", apply=lambda _: changed)
    did(request, "job made at the counter", made.title)
    return redirect("worksheet", job_id=made.pk)
