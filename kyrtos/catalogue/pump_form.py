"""One pump as a form: the cells of its row, the curve's points one to a line."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from kyrtos.catalogue import publishing, services
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.shops.models import Shop
from sizing.pump.catalogue import Pump
from sizing.pump.catalogue_columns import COLUMNS, Column
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
            "drinking_water",
            "suction",
            "discharge",
            "width",
            "height",
            "length",
            "lowest_stop",
        ),
    ),
    ("Electricity and noise", ("voltage", "phases", "current", "motor_power", "noise_db")),
    ("What it is made of", ("materials", "seal", "bearings", "elastomers")),
    ("In the shop", ("price", "stock", "lead_days", "warranty_years", "discontinued", "successor")),
)
_WORDS = {
    "solids": "Largest solid",
    "hottest": "Water up to",
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


@dataclass(frozen=True)
class Cell:
    name: str
    label: str
    text: str
    unit: str
    help: str
    problem: str
    fixed: bool


@dataclass(frozen=True)
class PumpForm:
    """A form as it stands; ``doubts`` are to be confirmed before it is saved.

    ``pump`` is there once nothing is wrong.
    """

    groups: tuple[tuple[str, tuple[Cell, ...]], ...]
    curve: tuple[Cell, ...]
    points: str
    points_problem: str
    doubts: tuple[str, ...]
    pump: Pump | None

    @property
    def wrong(self) -> tuple[tuple[str, str], ...]:
        """Every field in which something is wrong, by its id and label.

        The form is longer than a screen.
        """
        cells = (*(cell for _, cells in self.groups for cell in cells), *self.curve)
        found = [(f"c-{cell.name}", cell.label) for cell in cells if cell.problem]
        return tuple(found + [("points", "Points")] * bool(self.points_problem))


def blank() -> PumpForm:
    """An empty form."""
    return _form({"flow_unit": "m3/h", "head_unit": "m"}, {}, fixed=False)


def of(pump: Pump, *, fixed: bool) -> PumpForm:
    """The form of a pump that is there; ``fixed`` keeps the name that jobs know it by."""
    return _form(cells_of(pump), {}, fixed=fixed)


def read(posted: Mapping[str, str], shop: Shop, before: Pump | None = None) -> PumpForm:
    """What was typed, with what is wrong beside it.

    A new pump must not have the name of one that is there.
    """
    cells = {column.name: posted.get(column.name, "").strip() for column in COLUMNS}
    if before is not None:
        cells |= {name: getattr(before, name) for name in _NAMES}
    columns, problem = _columns(posted.get("points", ""))
    pump, problems = read_cells(cells | columns)
    if problem:
        problems["curve"] = problem
    if (
        before is None
        and pump is not None
        and CatalogueEntry.objects.filter(shop=shop, identity=pump.identity).exists()
    ):
        problems["model"] = (
            "a pump of that name is there already: change that one, or say which impeller or speed"
            " this is"
        )
    form = _form(cells, problems, fixed=before is not None, points=posted.get("points", ""))
    return form if problems else replace(form, pump=pump, doubts=read_row(cells | columns).doubts)


def save(shop: Shop, form: PumpForm) -> Pump:
    """Put the pump of a form in which nothing is wrong into the catalogue."""
    if form.pump is None:
        raise ValueError("this form holds no pump yet")
    stored = services.store(shop, [form.pump])
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


def _form(
    cells: Mapping[str, str], problems: Mapping[str, str], *, fixed: bool, points: str | None = None
) -> PumpForm:
    known = {column.name: column for column in COLUMNS}

    def cell(name: str) -> Cell:
        return _cell(
            known[name], cells.get(name, ""), problems.get(name, ""), fixed and name in _NAMES
        )

    groups = tuple((title, tuple(cell(name) for name in names)) for title, names in _GROUPS)
    wrong = "; ".join(problems[name] for name in ("curve", *_LISTS) if name in problems)
    return PumpForm(
        groups,
        (cell("flow_unit"), cell("head_unit")),
        _points(cells) if points is None else points,
        wrong,
        (),
        None,
    )


def _cell(column: Column, text: str, problem: str, fixed: bool) -> Cell:
    words = column.name.replace("_", " ").capitalize()
    return Cell(
        column.name,
        _WORDS.get(column.name, words),
        text,
        column.default_unit,
        column.help,
        problem,
        fixed,
    )
