"""The job document: everything that sizing needs, each figure as entered and with its standing.

This is the open job file. Version 1; older versions are brought up by :data:`UPGRADES`.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from itertools import pairwise
from math import isclose
from typing import Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from sizing.base import numbers, quantity, units
from sizing.base.errors import GoneError, SizingError
from sizing.base.plain_text import one_line
from sizing.base.reader import Style, current
from sizing.base.units import System
from sizing.hydraulics import fittings, pipes
from sizing.hydraulics.fitting_words import MOST_ON_A_LEG
from sizing.hydraulics.system_curve import FrictionMethod
from sizing.pump.curve import Arrangement

FORMAT: Literal["kyrtos-job/1"] = "kyrtos-job/1"
Provenance = Literal["measured", "drawing", "designed", "told", "assumed"]
PROVENANCES: tuple[Provenance, ...] = get_args(Provenance)
PROVENANCE_WORDS = {
    "measured": "measured on site",
    "drawing": "from a drawing",
    "designed": "designed by the shop",
    "told": "told by the customer",
    "assumed": "assumed",
}
MOST_LEGS = 40
MOST_ROWS = 60
MOST_ITEMS = 12
MOST_PUMPS = 6
MOST_OWN_PUMPS = 12
MOST_SCENARIOS = 8  # each is run again with every edit
MOST_SURVEYED = 5000
FittingMethod = Literal["k", "hooper", "darby", "equivalent_length", "percent"]
_SHORT, _LONG = 200, 5000


class JobFileError(SizingError):
    """A job file that cannot be read."""


class _Part(BaseModel):
    model_config = ConfigDict(
        extra="forbid", frozen=True, allow_inf_nan=False, populate_by_name=True
    )


class Figure(_Part):
    """A figure as entered: '14 ft 6 in' is value 14.5, unit 'ft'.

    ``plus_minus`` is in the same unit.
    """

    value: float
    unit: str
    provenance: Provenance = Field("told", alias="standing")
    text: str = Field("", max_length=_SHORT)
    plus_minus: float | None = Field(None, ge=0)

    def si(self, dimension: str) -> float:
        """The value in the SI unit of a dimension.

        Raises
        ------
        UnknownName
            When the unit is not one of that dimension.
        """
        found = units.find(self.unit, dimension)
        return (found or units.unit(self.unit, dimension)).to_si(self.value)

    def plus_minus_si(self, dimension: str) -> float | None:
        """The typed plus-or-minus in the SI unit of a dimension; None when none was typed."""
        if self.plus_minus is None:
            return None
        return abs(
            self.model_copy(update={"value": self.value + self.plus_minus}).si(dimension)
            - self.si(dimension)
        )

    @staticmethod
    def read(
        text: str,
        dimension: str,
        default_unit: str,
        provenance: Provenance = "told",
        style: Style = "point",
    ) -> Figure:
        """A figure from text, with its plus-or-minus if it has one.

        Such as '12 m ± 0.5 m', '12 +- 5 %', or '22 to 26 m', which is its middle, 2 m off at most.

        The unit is written out where the text left it away; the text is kept with decimal points,
        in whatever ``style`` it is written.

        Raises
        ------
        UnreadableQuantity
        """
        plain, _, spread = re.sub(r"\+/?-", "±", text).partition("±")
        if not spread.strip() and dimension not in _ONE_FIGURE:
            between = quantity.read_range(plain, dimension, default_unit, style)
            if between is not None:
                return _middle(between, numbers.with_points(plain, style), provenance)
        read = quantity.read(plain, dimension, default_unit, style)
        as_typed = numbers.with_points(read.text, style)
        written = f"{as_typed} {read.unit.symbol}" if read.bare else as_typed
        if not spread.strip():
            return Figure(
                value=read.value, unit=read.unit.symbol, provenance=provenance, text=written
            )
        spread = numbers.with_points(spread, style)
        wide = _spread(spread, read.value, dimension, read.unit.symbol)
        return Figure(
            value=read.value,
            unit=read.unit.symbol,
            provenance=provenance,
            text=f"{written} ± {spread.strip()}",
            plus_minus=wide,
        )

    @staticmethod
    def typed(
        text: str, dimension: str, default_unit: str, provenance: Provenance = "told"
    ) -> Figure:
        """A figure as who reads now types it: :meth:`read` with their decimal mark."""
        return Figure.read(text, dimension, default_unit, provenance, current().style)

    def shown(self) -> str:
        """The figure as it was typed, or its plain value and unit."""
        return self.text or f"{self.value:g} {self.unit}"

    def agrees(self, dimension: str) -> bool:
        """Whether its text, read again, is its value, unit and plus-or-minus.

        So it is without a text.
        """
        if not self.text:
            return True
        try:
            read = Figure.read(self.text, dimension, self.unit)
        except SizingError:
            return False
        spreads = [figure.plus_minus_si(dimension) or 0.0 for figure in (self, read)]
        return isclose(
            read.si(dimension), self.si(dimension), rel_tol=1e-6, abs_tol=1e-12
        ) and isclose(*spreads, rel_tol=1e-6, abs_tol=1e-12)


# Nobody asks for three and a half showers, or means the middle of two voltages.
_ONE_FIGURE = ("count", "people", "drainage", "voltage", "mains", "money", "price", "factor")


def _middle(
    between: tuple[quantity.Quantity, quantity.Quantity], text: str, provenance: Provenance
) -> Figure:
    """A range as its middle, with half of it as plus-or-minus."""
    low, high = between
    top = low.unit.from_si(high.si)
    return Figure(
        value=(low.value + top) / 2.0,
        unit=low.unit.symbol,
        provenance=provenance,
        text=f"{text.strip()} {high.unit.symbol}" if high.bare else text.strip(),
        plus_minus=(top - low.value) / 2.0,
    )


def _spread(text: str, value: float, dimension: str, unit: str) -> float:
    """A plus-or-minus in the unit of its figure: a share of it, or so much in a unit of its own."""
    if text.strip().endswith("%"):
        return abs(value) * quantity.read(text, "ratio", "%").si
    read = quantity.read(text, dimension, unit)
    known = units.find(unit, dimension) or units.unit(unit, dimension)
    return abs((read.si - quantity.read("0", dimension, read.unit.symbol).si) / known.scale)


class FittingEntry(_Part):
    """So many of one fitting."""

    fitting: str
    count: int = Field(1, ge=1, le=fittings.MOST_OF_ONE_KIND)

    @field_validator("fitting")
    @classmethod
    def _known(cls, value: str) -> str:
        fittings.fitting(value)
        return value


class ItemPoint(_Part):
    """What an item loses at one flow, as a head or a pressure.

    ``dirty`` when it is due for cleaning.
    """

    flow: Figure
    loss: Figure
    dirty: Figure | None = None


class ItemEntry(_Part):
    """Something in a leg with a loss of its own: a filter, a meter, a heater."""

    name: str = Field(min_length=1, max_length=60)
    points: tuple[ItemPoint, ...] = Field(min_length=1, max_length=30)


class Surveyed(_Part):
    """One point of a survey.

    Distance over ground from the leg's beginning, and elevation, both in metres.
    """

    distance_m: float = Field(ge=0, le=100_000)
    elevation_m: float = Field(ge=-2000, le=9000)


class LegEntry(_Part):
    """A stretch of one pipe as entered.

    A bore of one's own takes the place of a size from the table.

    ``share`` is the part of the pump's flow that runs in it (a branch after a tee), split over
    ``abreast`` like pipes. ``rated`` is what the weakest fitting in it is made for. A survey
    gives length and end where these were not typed.
    """

    id: str = Field(pattern=r"^[a-z0-9]{1,12}$")
    name: str = Field("", max_length=60)
    side: Literal["suction", "delivery"] = "delivery"
    series: str
    nominal: str
    bore: Figure | None = None
    length: Figure | None = None
    ends_at: Figure | None = None
    fittings: tuple[FittingEntry, ...] = ()
    wall: str = ""
    share: Figure | None = None
    rated: Figure | None = None
    parallel: int = Field(1, alias="abreast", ge=1, le=20)
    items: tuple[ItemEntry, ...] = Field((), max_length=MOST_ITEMS)
    survey: tuple[Surveyed, ...] = Field((), max_length=MOST_SURVEYED)

    @field_validator("wall")
    @classmethod
    def _known_wall(cls, value: str) -> str:
        if value:
            pipes.wall(value)
        return value

    @field_validator("survey")
    @classmethod
    def _goes_on(cls, survey: tuple[Surveyed, ...]) -> tuple[Surveyed, ...]:
        if len(survey) == 1 or any(
            after.distance_m <= before.distance_m for before, after in pairwise(survey)
        ):
            raise ValueError("a survey has two points or more, each further on than the one before")
        return survey


class ListRow(_Part):
    """One row of a list of a job, its cells by column."""

    id: str = Field(pattern=r"^[a-z0-9]{1,12}$")
    cells: dict[str, Figure | str] = Field(default_factory=dict)


class OwnPoint(_Part):
    """One point of a curve as printed: a flow, and a head or a pressure."""

    flow: Figure
    head: Figure


class OwnPump(_Part):
    """A pump that is at hand, known by a few figures on its box; it stands in this job alone.

    ``points`` hold the open flow (no head) and the highest head (no flow) too.
    """

    id: str = Field(pattern=r"^[a-z0-9]{1,12}$")
    name: str = Field(min_length=1, max_length=60)
    family: str
    points: tuple[OwnPoint, ...] = Field(min_length=2, max_length=12)
    largest_solid: Figure | None = None


class OthersFigure(_Part):
    """What somebody else got for the job, and the unit that they wrote flows in."""

    quantity: Literal["head", "flow", "hydraulic_power", "shaft_power", "input_power"]
    figure: Figure
    flow_unit: str = Field(max_length=12)
    of_a_pump: bool = False


class JobDocument(_Part):
    """One sizing job, whole. ``pending`` keeps what was typed and could not be read, by path."""

    format: Literal["kyrtos-job/1"] = FORMAT
    kind: str
    title: str = Field("", max_length=_SHORT)
    customer: str = Field("", max_length=_SHORT)
    site: str = Field("", max_length=_SHORT)
    note: str = Field("", max_length=_LONG)
    units: System = "metric"
    answers: dict[str, Figure | str] = Field(default_factory=dict)
    lists: dict[str, tuple[ListRow, ...]] = Field(default_factory=dict)
    legs: tuple[LegEntry, ...] = Field((), max_length=MOST_LEGS)
    friction: FrictionMethod = "darcy_weisbach"
    fitting_method: FittingMethod = "k"
    allowance: Figure | None = None
    filters: Literal["clean", "dirty"] = "dirty"
    # friction and fittings as measured at the run over those reckoned
    as_built: Figure | None = None
    pump: str | None = None
    arrangement: Arrangement = "single"
    running_pumps: int = Field(2, alias="pumps", ge=2, le=MOST_PUMPS)
    standby: int = Field(0, ge=0, le=MOST_PUMPS)
    own_pumps: tuple[OwnPump, ...] = Field((), max_length=MOST_OWN_PUMPS)
    # what the job is run through at every edit, by code, with figures of its own
    scenarios: dict[str, dict[str, Figure]] = Field(default_factory=dict, max_length=MOST_SCENARIOS)
    # somebody else's figure, which the paper says how it differs from ours
    second_look: OthersFigure | None = None
    pending: dict[str, str] = Field(default_factory=dict)

    @field_validator("title", "customer", "site")
    @classmethod
    def _on_one_line(cls, text: str) -> str:
        return one_line(text)

    @field_validator("legs")
    @classmethod
    def _ids_differ(cls, legs: tuple[LegEntry, ...]) -> tuple[LegEntry, ...]:
        if len({leg.id for leg in legs}) != len(legs):
            raise ValueError("two legs have the same id")
        return legs

    @field_validator("lists")
    @classmethod
    def _rows_differ(cls, lists: dict[str, tuple[ListRow, ...]]) -> dict[str, tuple[ListRow, ...]]:
        for key, rows in lists.items():
            if len({row.id for row in rows}) != len(rows) or len(rows) > MOST_ROWS:
                raise ValueError(
                    f"the list '{key}' has two rows of the same id, or more than {MOST_ROWS}"
                )
        return lists

    def leg(self, leg_id: str) -> LegEntry:
        """The leg with that id.

        Raises
        ------
        GoneError
            When there is none (it was taken away meanwhile).
        """
        for leg in self.legs:
            if leg.id == leg_id:
                return leg
        raise GoneError("this leg was taken out of the job meanwhile")

    def with_leg(self, changed: LegEntry) -> JobDocument:
        """The job with one leg exchanged for another of the same id."""
        return self.model_copy(
            update={"legs": tuple(changed if leg.id == changed.id else leg for leg in self.legs)}
        )


# One step a version: from the version named to the next one.
UPGRADES: dict[str, Callable[[dict[str, Any]], dict[str, Any]]] = {}


def load(content: dict[str, Any]) -> JobDocument:
    """A job from the content of a job file, brought up to this version.

    Raises
    ------
    JobFileError
        Naming what is wrong and where.
    """
    while str(content.get("format")) in UPGRADES:
        content = UPGRADES[str(content["format"])](content)
    if content.get("format") != FORMAT:
        raise JobFileError(
            f"its format is {str(content.get('format'))[:60]!r}; this version reads {FORMAT!r}"
        )
    try:
        return JobDocument.model_validate(content)
    except ValidationError as problem:
        raise JobFileError(_in_words(problem)) from None


_LIMITS = {  # what a limit says, by pydantic's name of it
    "too_long": "at most {max_length} {what}, and this file has {actual_length}",
    "too_short": "at least {min_length} {what}, and this file has {actual_length}",
    "string_too_long": "at most {max_length} letters",
    "string_too_short": "at least {min_length} letters",
    "greater_than_equal": "at least {ge}",
    "less_than_equal": "at most {le}",
    "missing": "it is missing",
    "extra_forbidden": "a job file holds nothing of that name",
    "literal_error": "it is one of {expected}",
}


def _in_words(problem: ValidationError) -> str:
    """The first thing that is wrong with a job file: where, and what may stand there."""
    first = problem.errors()[0]
    where = ".".join(str(part) for part in first["loc"]) or "the file"
    what = str(first["loc"][-1]).replace("_", " ") if first["loc"] else "things"
    said = _LIMITS.get(first["type"])
    told = first["msg"] if said is None else said.format(what=what, **first.get("ctx", {}))
    return f"{where}: {told}"


def loads(text: str | bytes) -> JobDocument:
    """A job from the text of a job file.

    Raises
    ------
    JobFileError
    """
    try:
        content = json.loads(text)
    except ValueError as problem:
        raise JobFileError(f"this is not JSON: {problem}") from None
    except RecursionError:
        raise JobFileError("its brackets lie too deep in each other for a job file") from None
    if not isinstance(content, dict):
        raise JobFileError("a job file holds one JSON object")
    legs = content.get("legs")
    for leg in legs if isinstance(legs, list) else ():  # before thousands are looked up
        found = leg.get("fittings") if isinstance(leg, dict) else None
        if isinstance(found, list) and len(found) > MOST_ON_A_LEG:
            raise JobFileError(f"legs: a leg holds at most {MOST_ON_A_LEG} fittings")
    return load(content)


def dump(job: JobDocument) -> dict[str, Any]:
    """The job as plain JSON content; :func:`load` gives the same job back."""
    return job.model_dump(mode="json", by_alias=True, exclude_defaults=False, exclude_none=True)


def schema() -> dict[str, Any]:
    """The JSON Schema of the job file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **JobDocument.model_json_schema(),
    }
