"""Pumps side by side with the cost of owning."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kyrtos.catalogue.pump_facts import pump_facts
from kyrtos.drawing.compare_chart import DASHES, CompareChart, compare_chart
from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.wording import money
from sizing.analysis import compare
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.units import System
from sizing.pump.catalogue import Catalogue

_MOST_ASKED = 8


@dataclass(frozen=True)
class CompareView:
    names: tuple[tuple[str, str], ...]  # with the dashes of its line
    chart: CompareChart
    rows: tuple[tuple[str, tuple[str, ...]], ...]
    same: int


def compare_view(
    base: Known, catalogue: Catalogue, pump_ids: Sequence[str], currency: str
) -> CompareView:
    """Pumps side by side; without any named the chosen one and the next that fit.

    Only what differs is listed.
    """
    sizing = base.sizing
    if not pump_ids and sizing.chosen and sizing.match:
        pump_ids = [
            sizing.chosen.candidate.pump.pump_id,
            *(one.pump.pump_id for one in (*sizing.match.fits, *sizing.match.near_misses)),
        ]
    found = compare.compare(base, catalogue, pump_ids)
    system = sizing.job.units
    rows = [
        (
            "Runs at",
            [
                (
                    units.show(one.candidate.flow_m3s, "flow", system)
                    if one.candidate.status == "operates"
                    else "does not run"
                )
                for one in found
            ],
        ),
        (
            "Of its best flow",
            [
                (
                    units.show(one.candidate.share_of_best_flow, "ratio", system)
                    if one.candidate.status == "operates"
                    else ""
                )
                for one in found
            ],
        ),
        (
            "In reserve at shut-off",
            [units.show(one.candidate.shutoff_margin_m, "length", system) for one in found],
        ),
        (
            "Takes in",
            [
                (
                    units.show(one.candidate.power_w, "power", system)
                    if one.candidate.power_w is not None
                    else ""
                )
                for one in found
            ],
        ),
        (
            "Fits",
            [
                (
                    "yes"
                    if one.candidate.fits
                    else "; ".join(reason.text(system) for reason in one.candidate.reasons)
                )
                for one in found
            ],
        ),
        (
            "Electricity a year",
            [
                money(one.cost.energy_cost_cur_per_year, currency) if one.cost else ""
                for one in found
            ],
        ),
        (
            "Owning it a year",
            [
                money(one.cost.equivalent_annual_cost_cur, currency) if one.cost else ""
                for one in found
            ],
        ),
        (
            "Worth now, over its life",
            [money(one.cost.present_value_cur, currency) if one.cost else "" for one in found],
        ),
        (
            "For each m³",
            [
                f"{currency} {units.number_text(one.per_m3, 3)}" if one.per_m3 is not None else ""
                for one in found
            ],
        ),
        (
            "Slowed to just the flow needed",
            [_slowed(one.slowed, system, currency) for one in found],
        ),
        ("Noise is like", [one.noise for one in found]),
        (
            "The dearer pays back",
            ["" if one is found[0] else _pays(one, found[0]) for one in found],
        ),
    ]
    columns = [pump_facts(one.candidate.pump, system, currency) for one in found]
    rows += [
        (label, [column[at][1] for column in columns]) for at, (label, _) in enumerate(columns[0])
    ]
    differ = tuple((label, tuple(values)) for label, values in rows if len(set(values)) > 1)
    shown = [
        (one.candidate.pump, one.candidate.flow_m3s if one.candidate.status == "operates" else None)
        for one in found
    ]
    chart = compare_chart(shown, base.system, base.demand.needed_m3s, system)
    return CompareView(
        tuple(zip((one.candidate.pump.name for one in found), DASHES, strict=False)),
        chart,
        differ,
        len(rows) - len(differ),
    )


def _slowed(slowed: compare.Slowed | None, system: System, currency: str) -> str:
    """What a pump takes and costs at the speed for the duty; one of a single speed has none."""
    if slowed is None:
        return "one speed"
    cost = (
        f", {money(slowed.cost_per_year, currency)} a year"
        if slowed.cost_per_year is not None
        else ""
    )
    return (
        f"{units.show(slowed.power_w, 'power', system)} at"
        f" {units.show(slowed.speed_ratio, 'ratio', system)}{cost}"
    )


def _pays(one: compare.Compared, first: compare.Compared) -> str:
    """When the dearer of a pump and the first one has paid for itself by what it saves."""
    found = one.pays_back
    if found is None:
        return "not known"
    dearer = max(one, first, key=lambda each: each.candidate.pump.price or 0.0).candidate.pump.name
    if found.discounted_years is None:
        return f"{dearer}: never"
    return (
        "at once"
        if found.discounted_years == 0
        else f"{dearer}: in {units.number_text(found.discounted_years, 1)} years"
    )


DIALOG = Dialog(
    name="compare",
    words="compare",
    key="c",
    tells="pumps side by side (those ticked, else the first four)",
    place="choosing",
    rank=1,
    view=lambda asked: compare_view(
        asked.base, asked.catalogue, asked.given.getlist("pump")[:_MOST_ASKED], asked.currency
    ),
)
