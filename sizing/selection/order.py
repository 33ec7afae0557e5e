"""The order of the pumps that fit: rules that can be read, one after the other."""

from __future__ import annotations

import numpy as np

from sizing.base.message import Measure, Message, message
from sizing.base.rules import Rules
from sizing.hydraulics.friction import Array
from sizing.pump.curve_table import Indices
from sizing.selection.sweep import Sweep, Wanted, costs_per_year


def order_in_words(wanted: Wanted, rules: Rules) -> tuple[tuple[str, Message], ...]:
    """The rules of the order, the first first.

    Each has the id of the house rule that holds its threshold ('' for none).
    """

    def share(rule_id: str) -> Measure:
        return Measure(rules.value(rule_id), "ratio")

    lines = [
        (
            "CHO-16",
            message(
                "those that make their duty with a chance of {limit} or more, whatever is in"
                " doubt, before those less sure",
                limit=share("CHO-16"),
            ),
        ),
        ("", message("those of which every limit holds well, before those that only just do")),
        (
            "CHO-09",
            message(
                "less than {limit} over the flow needed, before those that give more",
                limit=share("CHO-09"),
            ),
        ),
        (
            "HI-01",
            message(
                "run between {low} and {high} of their best flow, before those beside it",
                low=Measure(rules.low("HI-01"), "ratio"),
                high=Measure(rules.high("HI-01"), "ratio"),
            ),
        ),
        (
            "CHO-02",
            message(
                "at most {limit} over the flow needed, before bigger ones", limit=share("CHO-02")
            ),
        ),
        (
            "CHO-03",
            message(
                "at shut-off at least {limit} of the static head to spare, before those with less",
                limit=share("CHO-03"),
            ),
        ),
        (
            "CHO-11",
            message(
                "cost of owning for a year, in steps of {limit} over the cheapest",
                limit=share("CHO-11"),
            ),
        ),
    ]
    if wanted.quiet:
        lines.append(
            (
                "CHO-12",
                message(
                    "quieter first, in steps of {step} dB(A); noise counts here",
                    step=f"{rules.value('CHO-12'):g}",
                ),
            )
        )
    return (
        *lines,
        ("", message("on the shelf, before those that must be ordered")),
        ("", message("the cheaper to own; then the name")),
    )


def in_order(sweep: Sweep, which: Indices) -> Indices:
    """Order of some pumps of a sweep by the rules of :func:`order_in_words`."""
    catalogue, rows = sweep.catalogue, sweep.rows[which]
    cost = costs_per_year(catalogue, rows, sweep.operating_point.flow_m3s[which], sweep.wanted)
    cheapest = max(float(np.fmin.reduce(cost, initial=np.inf)), 1e-9)
    step = np.floor(
        np.log(np.maximum(cost / cheapest, 1.0)) / np.log1p(sweep.rules.value("CHO-11")) + 1e-9
    )
    absent = ~(catalogue.column("stock")[rows] >= catalogue.bought)
    keys = [
        catalogue.rank_by_id[rows],
        np.nan_to_num(cost, nan=np.inf),
        absent,
        _loudness(sweep, rows),
        np.nan_to_num(step, nan=np.inf),
    ]
    keys += [
        ~sweep.reserve_enough[which],
        sweep.too_big[which],
        ~sweep.preferred[which],
        sweep.far_too_big[which],
        sweep.watched[which],
    ]
    return np.lexsort(keys)


def _loudness(sweep: Sweep, rows: Indices) -> Array:
    """Noise in steps, those that nobody measured last; zero for all where it does not count."""
    if not sweep.wanted.quiet:
        return np.zeros(len(rows))
    return np.nan_to_num(
        np.floor(sweep.catalogue.column("noise_db")[rows] / sweep.rules.value("CHO-12")), nan=np.inf
    )
