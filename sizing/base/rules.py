"""House rules.

The trade's limits with low, usual and high values, each of which a shop may override.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Literal, get_args

from sizing.base import quantity, tables, units
from sizing.base.errors import SizingError, UnknownName
from sizing.base.tables import number
from sizing.base.units import System

_DIMENSIONS = {
    "m/s": "velocity",
    "1/h": "frequency",
    "min": "time",
    "s": "time",
    "h": "time",
    "mm": "size",
    "m": "length",
    "l/s": "flow",
    "kPa": "pressure",
    "l": "volume",
    "Hz": "mains",
    "l/day": "day",
    "l/min per m width": "sheet",
    "l/s per fixture": "flow",
    "l/s per jet": "flow",
    "l/s per dwelling": "flow",
    "l/min per 100 m2": "seepage",
    "x": "factor",
    "ratio": "factor",
}
# a house may leave the trade's range, but not by more than this factor: beyond it is a slip
_FURTHEST = 5.0


Part = Literal["low", "usual", "high"]
PARTS: tuple[Part, ...] = get_args(Part)


@dataclass(frozen=True)
class Rule:
    """A row of ``data/rules.csv`` or ``data/choice_rules.csv``; values in SI."""

    rule_id: str
    application: str
    parameter: str
    low_si: float | None
    typical_si: float | None
    high_si: float | None
    unit_si: str
    reason: str
    source: str
    disagreement: str
    confidence: str
    schools_disagree: bool = False
    overridden: bool = False
    parts: frozenset[Part] = frozenset()
    decides: str = ""

    @property
    def dimension(self) -> str:
        """How its values are shown and read: a dimension, or '' for a number in ``unit_si``."""
        return (
            "ratio"
            if self.unit_si.startswith("%") or self.unit_si == "fraction"
            else _DIMENSIONS.get(self.unit_si, "")
        )

    @property
    def binds(self) -> bool:
        """Whether it decides something, so that a house may set its ``parts``."""
        return bool(self.parts)

    def part(self, name: Part) -> float | None:
        """Its low, usual or high value [SI] as it stands here; None where there is none."""
        return {"low": self.low_si, "usual": self.typical_si, "high": self.high_si}[name]

    def shown(self, value_si: float | None, system: System) -> str:
        """One of its values as text; '' for None."""
        if value_si is None:
            return ""
        return (
            units.show(value_si, self.dimension, system)
            if self.dimension
            else f"{value_si:g} {self.unit_si}".strip()
        )

    def read(self, text: str, system: System) -> float:
        """A house's own value [SI] from typed text.

        Raises
        ------
        SizingError
            Text that cannot be read, or a value so far from the trade's range that it must be a
            slip.
        """
        if self.dimension:
            value = quantity.read(text, self.dimension, units.shown(self.dimension, system).unit).si
        else:
            value = quantity.read(f"{text} x", "ratio").si
        known = [
            abs(bound)
            for bound in (self.low_si, self.typical_si, self.high_si)
            if bound is not None
        ]
        least, most = min(known) / _FURTHEST, max(known) * _FURTHEST
        if not least <= abs(value) <= most:
            raise SizingError(
                f"{text.strip()} is far from the trade's range; it must lie between"
                f" {self.shown(least, system)} and {self.shown(most, system)}"
            )
        return value


# Rows whose SI column is per hour, per cent and the like are turned into plain SI once, here.
_TO_SI = {
    "1/h": 1 / 3600.0,
    "min": 60.0,
    "h": 3600.0,
    "mm": 1e-3,
    "l/s": 1e-3,
    "kPa": 1e3,
    "l": 1e-3,
    "l/day": 1e-3 / 86400.0,
    "l/min per m width": 1e-3 / 60.0,
    "l/s per fixture": 1e-3,
    "l/s per jet": 1e-3,
    "l/s per dwelling": 1e-3,
    "l/min per 100 m2": 1e-3 / 60.0 / 100.0,
}


def _scaled(row: dict[str, str], column: str) -> float | None:
    value = number(row[column])
    factor = 0.01 if row["unit_si"].startswith("%") else _TO_SI.get(row["unit_si"], 1.0)
    return None if value is None else value * factor


@lru_cache
def defaults() -> dict[str, Rule]:
    """Every rule that ships, by its id; ``data/rules_in_use.csv`` says which decide something."""
    in_use = {row["rule_id"]: row for row in tables.rows("rules_in_use")}
    rows = (*tables.rows("rules"), *tables.rows("choice_rules"))
    return {row["rule_id"]: _made(row, in_use.get(row["rule_id"])) for row in rows}


def _made(row: dict[str, str], in_use: dict[str, str] | None) -> Rule:
    return Rule(
        rule_id=row["rule_id"],
        application=row["application"],
        parameter=row["parameter"],
        low_si=_scaled(row, "low_si"),
        typical_si=_scaled(row, "typical_si"),
        high_si=_scaled(row, "high_si"),
        unit_si=row["unit_si"],
        reason=row["reason"],
        source=row["source"],
        disagreement=row["disagreement"],
        confidence=row["confidence"],
        schools_disagree=row["practitioners_disagree"] == "yes",
        parts=frozenset(part for part in PARTS if in_use and part in in_use["parts"].split()),
        decides=in_use["decides"] if in_use else "",
    )


@dataclass(frozen=True)
class Override:
    """A house's own values over a rule's [SI]; None leaves the trade's."""

    low_si: float | None = None
    usual_si: float | None = None
    high_si: float | None = None


@dataclass(frozen=True)
class Rules:
    """The rules in force: the shipped ones with a house's own values over them, by rule id.

    A bare number is the usual value alone.
    """

    overrides: Mapping[str, Override | float]

    def rule(self, rule_id: str) -> Rule:
        """The rule with that id.

        Raises
        ------
        UnknownName
            When no rule is called so.
        """
        try:
            found = defaults()[rule_id]
        except KeyError:
            raise UnknownName("rule", rule_id, defaults()) from None
        own = self.overrides.get(rule_id)
        return found if own is None else _with_own(found, own)

    def value(self, rule_id: str) -> float:
        """The usual value in SI.

        Raises
        ------
        SizingError
            When the rule is one in words only.
        """
        rule = self.rule(rule_id)
        if rule.typical_si is None:
            raise SizingError(f"the rule {rule_id} ({rule.parameter}) has no usual value")
        return rule.typical_si

    def low(self, rule_id: str) -> float:
        """The low end in SI; the usual value where the rule names none."""
        rule = self.rule(rule_id)
        return self.value(rule_id) if rule.low_si is None else rule.low_si

    def high(self, rule_id: str) -> float:
        """The high end in SI; the usual value where the rule names none."""
        rule = self.rule(rule_id)
        return self.value(rule_id) if rule.high_si is None else rule.high_si

    def frozen(self) -> dict[str, dict[str, Any]]:
        """Every rule that decides something, as it stands: plain JSON; :func:`thawed` reads it."""
        standing = (self.rule(rule_id) for rule_id in defaults())
        return {
            rule.rule_id: {
                **{part: rule.part(part) for part in PARTS},
                "house": rule.overridden,
            }
            for rule in standing
            if rule.binds
        }


def _with_own(rule: Rule, own: Override | float) -> Rule:
    if not isinstance(own, Override):
        own = Override(usual_si=own)
    return replace(
        rule,
        low_si=rule.low_si if own.low_si is None else own.low_si,
        typical_si=rule.typical_si if own.usual_si is None else own.usual_si,
        high_si=rule.high_si if own.high_si is None else own.high_si,
        overridden=own != Override(),
    )


def thawed(content: Mapping[str, Any]) -> Rules:
    """Rules that were frozen with a paper; before there were frozen ones, only usual values."""
    return Rules({rule_id: _override(kept) for rule_id, kept in content.items()})


def _override(kept: Any) -> Override:
    if not isinstance(kept, Mapping):
        return Override(usual_si=float(kept))
    return Override(kept["low"], kept["usual"], kept["high"])


SHIPPED = Rules({})
