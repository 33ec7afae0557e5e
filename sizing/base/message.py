"""Sentences with figures in them, kept apart until somebody's system of units is known."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from sizing.base import units
from sizing.base.units import System


@dataclass(frozen=True)
class Measure:
    """A figure that will be shown: its SI value and how it is shown."""

    value_si: float
    dimension: str
    decimals: int | None = None

    def text(self, system: System) -> str:
        """The figure with its unit in a system."""
        return units.show(self.value_si, self.dimension, system, self.decimals)


@dataclass(frozen=True)
class Message:
    """A sentence such as 'runs for {run}' with the measures that fill it."""

    template: str
    values: Mapping[str, Measure | str | int] = field(default_factory=dict)

    def text(self, system: System) -> str:
        """The sentence in a system of units."""
        shown = {
            key: value.text(system) if isinstance(value, Measure) else str(value)
            for key, value in self.values.items()
        }
        return self.template.format(**shown)


def message(template: str, **values: Measure | str | int) -> Message:
    """Shorthand for :class:`Message`."""
    return Message(template, values)


@dataclass(frozen=True)
class Working:
    """How a figure came about: the formula, what went in, where the formula is from."""

    title: str
    formula: str
    inputs: tuple[tuple[str, Measure | str], ...]
    result: Measure
    source: str
    stands_on: tuple[
        tuple[str, str], ...
    ] = ()  # facts that went in, each with where it is from, in words

    def lines(self, system: System) -> list[tuple[str, str]]:
        """The inputs and the result as pairs of text."""
        shown = [
            (name, value.text(system) if isinstance(value, Measure) else value)
            for name, value in self.inputs
        ]
        return [*shown, ("gives", self.result.text(system))]
