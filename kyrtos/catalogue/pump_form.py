"""One pump as a form: the cells of its row, the curve's points one to a line."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from django import forms

from kyrtos.catalogue import publishing, services
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.shops.models import Shop
from kyrtos.shops.one_line import judge
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_columns import COLUMNS, Column, families
from sizing.pump.catalogue_file import read_cells, read_row
from sizing.pump.catalogue_write import cells_of

_LISTS = ("flows", "heads", "powers_w", "npsh")
_NOT_GIVEN = "-"  # stands for the input power of a pump whose maker gives NPSH alone
_NAMES = ("maker", "model", "variant")
_GROUPS = (
    (
        "What it is",
        (
            "maker",
            "model",
            "variant",
            "family",
            "impeller",
            "speed_rpm",
            "slowest_speed",
            "control",
            "float",
            "note",
        ),
    ),
    (
        "What passes and where it goes",
        (
            "solids",
            "hottest",
            "least_flow",
            "drinking_water",
            "suction",
            "discharge",
            "width",
            "height",
            "length",
            "lowest_stop",
        ),
    ),
    (
        "Electricity and noise",
        (
            "voltage",
            "phases",
            "frequency_hz",
            "also_hz",
            "current",
            "motor_power",
            "most_starts",
            "least_run",
            "noise_db",
        ),
    ),
    ("What it is made of", ("materials", "seal", "bearings", "elastomers")),
    ("In the shop", ("price", "stock", "lead_days", "warranty_years", "discontinued", "successor")),
)
_WORDS = {
    "solids": "Largest solid",
    "frequency_hz": "Curve stated at",
    "also_hz": "Motor also runs on",
    "hottest": "Water up to",
    "least_flow": "Least flow",
    "most_starts": "Starts allowed",
    "least_run": "Runs at least",
    "drinking_water": "Listed for drinking water",
    "suction": "Inlet",
    "discharge": "Outlet",
    "lowest_stop": "Lowest stop level",
    "noise_db": "Noise",
    "lead_days": "More within",
    "warranty_years": "Warranty",
    "stock": "On the shelf",
    "discontinued": "No longer made",
    "successor": "Took its place",
    "slowest_speed": "Slows down to",
    "motor_power": "Motor power",
    "speed_rpm": "Speed",
    "variant": "Impeller or speed",
}


class PumpForm(forms.Form):
    """The cells of a row as fields, the curve's points one to a line.

    ``before`` is the pump that is changed: it keeps the name that jobs know it by. A form that is
    valid has the ``pump`` and its ``doubts``, which are to be confirmed before it is saved.
    """

    points = forms.CharField(
        required=False,
        strip=False,
        widget=forms.Textarea(
            attrs={"class": "form-control", "rows": 11, "spellcheck": "false", "id": "points"}
        ),
        label=(
            "Points, one to a line: flow, head, then input in W and NPSH where they are known (a"
            " dash for an input that is not). A block copied from a spreadsheet will do."
        ),
    )
    sure = forms.BooleanField(required=False, label="It is right all the same: save it")

    def __init__(
        self, shop: Shop, data: Any = None, before: Pump | None = None, like: Pump | None = None
    ) -> None:
        shown = before or like
        cells = cells_of(shown) if shown else {"flow_unit": "m3/h", "head_unit": "m"}
        initial = cells | {"points": _points(cells)}
        super().__init__(data, auto_id="c-%s", initial=initial)
        self.shop, self.before = shop, before
        self.pump: Pump | None = None
        self.doubts: tuple[str, ...] = ()
        for column in COLUMNS:
            if column.name not in _LISTS:
                self.fields[column.name] = _field(column, before is not None)

    def clean(self) -> None:
        """Read the row; every problem beside its field."""
        cells = {name: str(self.cleaned_data.get(name, "")) for name in self.fields}
        if self.before is not None:
            cells |= {name: getattr(self.before, name) for name in _NAMES}
        columns, problem = _columns(cells.pop("points"))
        pump, problems = read_cells(cells | columns)
        if problem:
            problems["curve"] = problem
        if pump is not None and self.before is None and self._is_there(pump):
            problems["model"] = (
                "a pump of that name is there already: change that one, or say which impeller or"
                " speed this is"
            )
        for name, told in problems.items():
            self.add_error("points" if name in ("curve", *_LISTS) else name, told)
        if not self.errors:
            self.pump, self.doubts = pump, read_row(cells | columns).doubts

    def _is_there(self, pump: Pump) -> bool:
        return CatalogueEntry.objects.filter(shop=self.shop, identity=pump.identity).exists()

    @property
    def may_be_saved(self) -> bool:
        """Nothing is wrong, and what is doubtful is confirmed."""
        return self.is_valid() and (not self.doubts or self.cleaned_data["sure"])

    @property
    def groups(self) -> list[tuple[str, list[forms.BoundField]]]:
        """The fields under their headings."""
        return [(title, [self[name] for name in names]) for title, names in _GROUPS]

    @property
    def curve(self) -> list[forms.BoundField]:
        """The units in which the points are."""
        return [self["flow_unit"], self["head_unit"]]

    @property
    def wrong(self) -> list[tuple[str, str]]:
        """Every field in which something is wrong, by its id and label.

        The form is longer than a screen.
        """
        return [
            (self[name].id_for_label, "Points" if name == "points" else str(self[name].label))
            for name in self.errors
        ]


def _field(column: Column, fixed_name: bool) -> forms.CharField:
    label = _WORDS.get(column.name, column.name.replace("_", " ").capitalize())
    attrs = {"class": "form-control", "placeholder": column.default_unit, "autocomplete": "off"}
    if column.name == "family":
        choices = [("", ""), *families().items()]
        select = forms.Select(attrs={"class": "form-select"}, choices=choices)
        return forms.CharField(label=label, required=False, widget=select)
    if fixed_name and column.name in _NAMES:
        attrs["readonly"] = "readonly"
    return forms.CharField(
        label=label,
        required=False,
        help_text=column.help,
        widget=forms.TextInput(attrs=attrs),
        validators=[judge],
    )


def save(form: PumpForm) -> Pump:
    """Put the pump of a form in which nothing is wrong into the catalogue."""
    if form.pump is None:
        raise ValueError("this form holds no pump yet")
    stored = services.store(form.shop, [form.pump])
    return replace(form.pump, pump_id=stored.pump_ids[0])


def take_out(shop: Shop, pump_id: str) -> None:
    """Take a pump out of the catalogue; jobs that chose it choose anew, papers keep it."""
    CatalogueEntry.objects.filter(shop=shop, pump_id=pump_id).delete()
    publishing.changed(shop)


def _columns(points: str) -> tuple[dict[str, str], str]:
    """Points typed or pasted one to a line as the lists of a row; and what is wrong with them."""
    rows = [
        [piece for piece in re.split(r"[;\s]+", line.strip()) if piece]
        for line in points.splitlines()
        if line.strip()
    ]
    widths = {len(row) for row in rows}
    if len(widths) > 1:
        return (
            {},
            (
                "every line must hold as many numbers as the first: flow, head, and input power and"
                " NPSH where they are known"
            ),
        )
    if widths and not 2 <= next(iter(widths)) <= 4:
        return {}, "a line holds two to four numbers: flow, head, input power in W, NPSH"
    columns = dict(zip(_LISTS, zip(*rows, strict=True), strict=False))
    return {
        name: "; ".join(column) for name, column in columns.items() if set(column) != {_NOT_GIVEN}
    }, ""


def _points(cells: Mapping[str, str]) -> str:
    """The lists of a row as points one to a line.

    A column that is not given but has one behind it keeps its place.
    """
    columns = [
        [piece.strip() for piece in cells.get(name, "").split(";")] if cells.get(name) else []
        for name in _LISTS
    ]
    while columns and not columns[-1]:
        columns.pop()
    filled = [column or [_NOT_GIVEN] * len(columns[0]) for column in columns]
    return "\n".join("  ".join(row) for row in zip(*filled, strict=True))
