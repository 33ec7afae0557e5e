"""Pumps side by side with the cost of owning."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kyrtos.catalogue.pump_facts import pump_facts
from kyrtos.drawing.compare_chart import DASHES, CompareChart, compare_chart
from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.words import money
from sizing.analysis import compare
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.units import System
from sizing.document.own_pumps import rough
from sizing.pump.catalogue import OWN, Catalogue
from sizing.selection.match import Candidate

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
    if len(pump_ids) == 1 and sizing.chosen:  # the one that stands on the job, and another
        pump_ids = [sizing.chosen.candidate.pump.pump_id, *pump_ids]
    if not pump_ids and sizing.chosen and sizing.match:
        pump_ids = [
            sizing.chosen.candidate.pump.pump_id,
            *(one.pump.pump_id for one in (*sizing.match.fits, *sizing.match.near_misses)),
        ]
    found = compare.compare(base, catalogue, pump_ids)
    system = sizing.job.units
    heads = compare.round_heads_m([one.candidate.pump for one in found], system)
    columns = [
        [
            *_running(one.candidate, system),
            *_at_heads(one.candidate, heads, system),
            *_owning(one, system, currency),
            ("The dearer pays back", "" if one is found[0] else _pays(one, found[0])),
            *pump_facts(one.candidate.pump, system, currency),
        ]
        for one in found
    ]
    rows = [(cells[0][0], tuple(text for _, text in cells)) for cells in zip(*columns, strict=True)]
    differ = tuple((label, texts) for label, texts in rows if len(set(texts)) > 1)
    shown = [(one.candidate.pump, _runs_at(one.candidate)) for one in found]
    return CompareView(
        tuple(zip((one.candidate.pump.name for one in found), DASHES, strict=False)),
        compare_chart(
            shown,
            base.system,
            base.demand.needed_m3s,
            system,
            {f"{OWN}{own.id}": rough(own) for own in sizing.job.own_pumps},
        ),
        differ,
        len(rows) - len(differ),
    )


def _runs_at(candidate: Candidate) -> float | None:
    return candidate.flow_m3s if candidate.status == "operates" else None


def _running(candidate: Candidate, system: System) -> list[tuple[str, str]]:
    """How a pump runs on this site, by label."""
    runs, power = candidate.status == "operates", candidate.power_w
    share = units.show(candidate.share_of_best_flow, "ratio", system)
    reasons = "; ".join(reason.text(system) for reason in candidate.reasons)
    return [
        ("Runs at", units.show(candidate.flow_m3s, "flow", system) if runs else "does not run"),
        ("Of its best flow", share if runs else ""),
        ("In reserve at shut-off", units.show(candidate.shutoff_margin_m, "length", system)),
        ("Takes in", "" if power is None else units.show(power, "power", system)),
        ("Fits", "yes" if candidate.fits else reasons),
    ]


def _at_heads(
    candidate: Candidate, heads_m: Sequence[float], system: System
) -> list[tuple[str, str]]:
    """Its flow at round heads, as catalogues are compared."""
    return [
        (
            f"Gives at {units.show(head_m, 'length', system, 0)}",
            "–" if flow is None else units.show(flow, "flow", system),
        )
        for head_m in heads_m
        for flow in (compare.flow_at_head_m3s(candidate.pump, head_m),)
    ]


def _owning(one: compare.Compared, system: System, currency: str) -> list[tuple[str, str]]:
    """What a pump costs to own, by label."""
    cost, per_m3 = one.cost, one.per_m3
    energy = money(cost.energy_cost_cur_per_year, currency) if cost else ""
    owning = money(cost.equivalent_annual_cost_cur, currency) if cost else ""
    each = "" if per_m3 is None else f"{currency} {units.number_text(per_m3, 3)}"
    return [
        ("Electricity a year", energy),
        ("Owning it a year", owning),
        ("Worth now, over its life", money(cost.present_value_cur, currency) if cost else ""),
        ("For each m³", each),
        ("Slowed to just the flow needed", _slowed(one.slowed, system, currency)),
        ("Noise is like", one.noise),
    ]


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
        asked.base, asked.on_site, asked.given.getlist("pump")[:_MOST_ASKED], asked.currency
    ),
)
