"""A hand sum typed as written, or found in a pasted or uploaded page: what is wrong with it."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.figure_field import look
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.terms import system_of
from kyrtos.calculation_review.words import LookView, look_view
from kyrtos.catalogue.publishing import catalogue_of
from kyrtos.config.middleware import takes
from sizing.aftercare.calculation_review import sheet, written
from sizing.base.errors import SizingError
from sizing.pump.catalogue_columns import families
from sizing.pump.foreign_file import read_sheet as read_file

LARGEST_SHEET = 2_000_000
_LONGEST_PASTE = 20_000


class SheetForm(forms.Form):
    """A page of a spreadsheet, pasted or sent up."""

    page = forms.CharField(
        label="Paste the rows of a spreadsheet: a label, a figure, a unit",
        required=False,
        max_length=_LONGEST_PASTE,
        strip=False,
        widget=forms.Textarea(
            attrs={"rows": 5, "placeholder": "Design flow (gpm)\t10\nStatic head\t20\tft"}
        ),
    )
    file = forms.FileField(
        label="or send it up (CSV, XLSX)",
        required=False,
        allow_empty_file=True,
        widget=forms.FileInput(attrs={"accept": ".csv,.xlsx,text/csv"}),
    )

    def __init__(self, *args: object, **given: object) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)  # type: ignore[arg-type]
        look(self)


@dataclass(frozen=True)
class Cell:
    """A field of the page."""

    name: str
    label: str
    text: str
    example: str
    problem: str


def _cell(name: str, fact: written.Fact, read: written.Written) -> Cell:
    return Cell(name, fact.label, read.given[name], fact.example, read.problems.get(name, ""))


def _facts(read: written.Written) -> list[Cell]:
    cells = [_cell(name, fact, read) for name, fact in written.FACTS.items()]
    for name, label, example in (
        ("fixture_units", "Fixture units it came from", "not told"),
        ("curve", "The pump's curve, where it was asked where it runs", "12 m 0 l/min, 8 m 40"),
    ):
        cells.append(Cell(name, label, read.given[name], example, read.problems.get(name, "")))
    return cells


def _page(
    request: ShopRequest, read: written.Written, form: SheetForm, *, told: str = ""
) -> HttpResponse:
    system = system_of(request.membership)
    family = request.GET.get("family", "")
    view: LookView = look_view(
        read,
        system,
        catalogue=catalogue_of(request.membership.shop),
        family=family if family in families() else "",
        currency=request.membership.shop.currency,
    )
    context = {
        "facts": _facts(read),
        "got": [_cell(f"got_{code}", fact, read) for code, fact in written.GOT.items()],
        "loop": bool(read.given["loop"]),
        "families": families().items(),
        "family": family,
        "view": view,
        "missing": read.missing if any(read.given.values()) else (),
        "form": form,
        "told": told,
    }
    wrong = bool(read.problems or form.errors)
    return render(request, "calculation_review/page.html", context, status=422 if wrong else 200)


@require_safe
@may("see")
def review(request: ShopRequest) -> HttpResponse:
    """The facts and figures in the address, and what is wrong with them: a link to send."""
    given = {name: str(text) for name, text in request.GET.items()}
    read = written.read(given, system_of(request.membership))
    return _page(request, read, SheetForm(), told=request.GET.get("told", "")[:300])


@takes(LARGEST_SHEET)
@require_POST
@may("see")
def take_sheet(request: ShopRequest) -> HttpResponse:
    """Find the known quantities in a page, and go on with those as if they were typed."""
    form = SheetForm(request.POST, request.FILES)
    empty = written.read({}, system_of(request.membership))
    if not form.is_valid():
        return _page(request, empty, form)
    sent = form.cleaned_data["file"]
    try:
        rows = _rows(sent.read()) if sent else sheet.cells(form.cleaned_data["page"])
    except SizingError as problem:
        form.add_error("file", f"Nothing was read: {problem}.")
        return _page(request, empty, form)
    found = sheet.read_sheet(rows)
    if not found.found:
        form.add_error(
            "file" if sent else "page",
            "No known quantity was found: a row needs a label such as flow, static head, pipe"
            " length, inside diameter or total head, and a figure beside it.",
        )
        return _page(request, empty, form)
    asked = sheet.in_the_readers_marks(found)
    if found.unknown:
        asked["told"] = "Not known, and left out: " + ", ".join(found.unknown[:12])
    return redirect(f"{reverse('calculation-review')}?{urlencode(asked)}")


def _rows(content: bytes) -> list[list[str]]:
    if len(content) > LARGEST_SHEET:
        raise SizingError("this file is larger than 2 MB")
    held = read_file(content)
    return [list(held.header), *(list(cells) for _, cells in held.rows)]
