"""Families of the reference cases on what happens over time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.base import quantity
from sizing.base.errors import UnreadableQuantity
from sizing.base.units import SECONDS_PER_HOUR
from sizing.hydraulics import pipe_words
from sizing.storage.starts import starts

Inputs = dict[str, Any]
Answers = dict[str, Any]


def starts_family(given: Inputs) -> Answers:
    """How often a pump starts at the inflow that can come."""
    found = starts(
        given["pump_flows_m3s"],
        alternating=given["alternating"],
        storage_m3=given["storage_m3"],
        drain_back_m3=given["drain_back_m3"],
        peak_inflow_m3s=given["peak_inflow_m3s"],
        allowed_starts_per_s=given["allowed_starts_per_h"] / SECONDS_PER_HOUR,
    )
    rate = found.starts_per_s
    return {
        **vars(found),
        "half_flow_rule_starts_per_pump_per_h": found.half_flow_rule_starts_per_s
        * SECONDS_PER_HOUR,
        "starts_per_pump_per_h": None if rate is None else rate * SECONDS_PER_HOUR,
    }


def pipe_reading_family(given: Inputs) -> Answers:
    """What people type for a pipe: the family and size, or all that fit."""
    answers: Answers = {}
    for reading in given["readings"]:
        fits, name = pipe_words.find(reading["text"]), reading["name"]
        families = sorted(one.series for one in fits)
        answers |= {
            f"{name}_series": families[0]
            if len(families) == 1
            else ("ambiguous" if families else "unknown"),
            f"{name}_size": fits[0].nominal if fits else None,
            f"{name}_candidates": "+".join(families) if len(families) > 1 else None,
        }
    return answers


_SUFFIX = {
    "flow": "m3s",
    "volume": "m3",
    "length": "m",
    "pressure": "pa",
    "power": "w",
    "time": "s",
    "temperature": "c",
    "frequency": "per_h",
    "latitude": "deg",
}


def figure_reading_family(given: Inputs) -> Answers:
    """What people type into a field: a figure, a range, or why it cannot be read."""
    answers: Answers = {}
    for reading in given["readings"]:
        name, dimension = reading["name"], reading["quantity"]
        how = (reading["text"], dimension, reading["default_unit"], reading["style"])
        each = SECONDS_PER_HOUR if dimension == "frequency" else 1.0
        try:
            between = quantity.read_range(*how)
            found = between or (quantity.read(*how),)
        except UnreadableQuantity as problem:
            answers[f"{name}_error"] = problem.code
            continue
        names = ("low_", "high_") if between else ("",)
        for end, one in zip(names, found, strict=True):
            answers[f"{name}_{end}{_SUFFIX[dimension]}"] = one.si * each
    return answers


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "starts": starts_family,
    "pipe_reading": pipe_reading_family,
    "figure_reading": figure_reading_family,
}
