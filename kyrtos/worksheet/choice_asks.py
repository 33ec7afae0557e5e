"""The dialogs about choosing, ready to print: pipe by pump, arrangements, pumps compared.

Choosing and wording only.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kyrtos.catalogue.facts import facts
from kyrtos.drawing.compare_chart import DASHES, CompareChart, compare_chart
from sizing.analysis import arrangements, compare, grid
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.units import System
from sizing.document.build_route import the_leg
from sizing.pump.catalogue import Catalogue

_SHOWN_PUMPS = 12


@dataclass(frozen=True)
class CellView:
    flow: str
    speed: str
    cost: str
    state: str
    best: bool
    now: bool
    pump_id: str
    pipe: str


@dataclass(frozen=True)
class GridView:
    leg_id: str
    leg_name: str
    sizes: tuple[tuple[str, str], ...]
    rows: tuple[tuple[str, bool, tuple[CellView, ...]], ...]
    others: tuple[tuple[str, str], ...]
    more: int


@dataclass(frozen=True)
class OptionRow:
    label: str
    now: bool
    flow: str
    meets: bool
    left: str
    speed: str
    full: str
    throttled: str
    slowed: str
    cost: str
    cost_slowed: str
    turns: str
    note: str
    arrangement: str
    count: int
    standby: int


@dataclass(frozen=True)
class SiblingRow:
    pump_id: str
    label: str
    now: bool
    flow: str
    what: str
    power: str
    cost: str


@dataclass(frozen=True)
class ArrangeView:
    rows: tuple[OptionRow, ...]
    siblings: tuple[SiblingRow, ...]
    speed_range: str


@dataclass(frozen=True)
class CompareView:
    names: tuple[tuple[str, str], ...]  # with the dashes of its line
    chart: CompareChart
    rows: tuple[tuple[str, tuple[str, ...]], ...]
    same: int


def _money(value: float | None, currency: str) -> str:
    return "" if value is None else f"{currency}\u00a0{units.number_text(value, 0)}"


def grid_view(base: Known, leg_id: str, currency: str) -> GridView:
    """Pipe sizes of a leg against pumps; without a leg named, of the longest."""
    system, job = base.sizing.job.units, base.sizing.job
    legs = base.system.route.legs
    longest = base.sizing.legs[max(range(len(legs)), key=lambda at: legs[at].length_m)].id
    found = grid.grid(base, leg_id or longest)

    def cell(one: grid.Cell, row: grid.GridRow, column: int) -> CellView:
        flow = (
            units.show(one.flow_m3s, "flow", system) if one.flow_m3s is not None else "does not run"
        )
        speed = (
            units.show(one.velocity_m_s, "velocity", system) if one.velocity_m_s is not None else ""
        )
        word = {
            "fits": "" if one.in_band else "speed out of its band",
            "short": "too little",
            "off": "",
        }[one.state]
        return CellView(
            flow,
            speed,
            _money(one.cost_per_year, currency),
            word,
            one.best,
            row.now and column == found.now,
            row.pump.pump_id,
            found.sizes[column],
        )

    rows = tuple(
        (
            row.pump.name,
            row.now,
            tuple(cell(one, row, column) for column, one in enumerate(row.cells)),
        )
        for row in found.rows[:_SHOWN_PUMPS]
    )
    sizes = tuple(
        (label, units.show(bore, "bore", system))
        for label, bore in zip(found.sizes, found.bores_m, strict=True)
    )
    others = tuple(
        (leg.id, the_leg(leg, job.legs.index(leg) + 1))
        for leg in base.sizing.legs
        if leg.id != found.leg.id
    )
    return GridView(
        found.leg.id,
        the_leg(found.leg, job.legs.index(found.leg) + 1),
        sizes,
        rows,
        others,
        max(len(found.rows) - _SHOWN_PUMPS, 0),
    )


def arrange_view(base: Known, catalogue: Catalogue, currency: str) -> ArrangeView:
    """Every arrangement of the chosen model, and its other impellers and speeds."""
    system = base.sizing.job.units
    rows = tuple(_option_row(one, system, currency) for one in arrangements.options(base))
    siblings = tuple(
        _sibling_row(one, system, currency) for one in arrangements.siblings(base, catalogue)
    )
    told = arrangements.speed_range(base)
    return ArrangeView(rows, siblings, told.text(system) if told else "")


def _shown(value: float | None, dimension: str, system: System) -> str:
    return "" if value is None else units.show(value, dimension, system)


def _option_row(one: arrangements.Option, system: System, currency: str) -> OptionRow:
    flow = "does not run" if one.flow_m3s is None else units.show(one.flow_m3s, "flow", system)
    speed = None if one.speed_ratio is None or one.speed_ratio > 1 else one.speed_ratio
    return OptionRow(
        one.label,
        one.now,
        flow,
        one.meets,
        units.show(one.left_share, "ratio", system),
        _shown(speed, "ratio", system),
        _shown(one.power_full_w, "power", system),
        _shown(one.power_throttled_w, "power", system),
        _shown(one.power_speed_w, "power", system),
        _money(one.cost_full, currency),
        _money(one.cost_speed, currency),
        _shown(one.turns_share, "ratio", system),
        one.note.text(system),
        one.arrangement,
        one.count,
        one.standby,
    )


def _sibling_row(one: arrangements.Sibling, system: System, currency: str) -> SiblingRow:
    found = one.candidate
    return SiblingRow(
        found.pump.pump_id,
        found.pump.variant or found.pump.name,
        one.now,
        (
            units.show(found.flow_m3s, "flow", system)
            if found.status == "operates"
            else "does not run"
        ),
        "fits" if found.fits else "; ".join(reason.text(system) for reason in found.reasons),
        _shown(found.power_w, "power", system),
        _money(found.cost_per_year, currency),
    )


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
                _money(one.cost.energy_cost_cur_per_year, currency) if one.cost else ""
                for one in found
            ],
        ),
        (
            "Owning it a year",
            [
                _money(one.cost.equivalent_annual_cost_cur, currency) if one.cost else ""
                for one in found
            ],
        ),
        (
            "Worth now, over its life",
            [_money(one.cost.present_value_cur, currency) if one.cost else "" for one in found],
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
    columns = [facts(one.candidate.pump, system, currency) for one in found]
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
        f", {_money(slowed.cost_per_year, currency)} a year"
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
