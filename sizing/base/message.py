"""Sentences with figures in them, kept apart until somebody's system of units is known."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Union

from sizing.base import units
from sizing.base.numbers import as_read
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


Filling = Union[Measure, "Message", str, int]  # what stands in a sentence's gap
_A_FIGURE = re.compile(r"[-−±]?\d+\.\d+(?: \D\S*(?: \D*)?)?$")  # with its unit, and nothing else


def _shown(value: Filling, system: System) -> str:
    """A measure in a system; a figure without one with the decimal mark of who reads."""
    if isinstance(value, (Measure, Message)):
        return value.text(system)
    text = str(value)
    return as_read(text) if _A_FIGURE.match(text) else text


@dataclass(frozen=True)
class Message:
    """A sentence such as 'runs for {run}' with the measures that fill it."""

    template: str
    values: Mapping[str, Filling] = field(default_factory=dict)

    def text(self, system: System) -> str:
        """The sentence in a system of units."""
        shown = {key: _shown(value, system) for key, value in self.values.items()}
        return self.template.format(**shown)


def message(template: str, **values: Filling) -> Message:
    """Shorthand for :class:`Message`."""
    return Message(template, values)


def joined(*sentences: Message, between: str = " ") -> Message:
    """Sentences as one, each with its own values."""
    values: dict[str, Filling] = {}
    template = []
    for index, sentence in enumerate(sentences):
        named = {key: f"{key}_{index}" for key in sentence.values}
        template.append(
            sentence.template.format(**{key: "{" + new + "}" for key, new in named.items()})
        )
        values |= {named[key]: value for key, value in sentence.values.items()}
    return Message(between.join(template), values)


def apart(height_m: float, above: str = "over", below: str = "under") -> Message:
    """How far something stands over another, or under it: no height is told with a minus."""
    side = below if height_m < 0 else above
    return message("{apart} " + side, apart=Measure(abs(height_m), "length"))


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
        shown = [(name, _shown(value, system)) for name, value in self.inputs]
        return [*shown, ("gives", self.result.text(system))]
