"""Pipe by pump.

Candidate sizes of a leg against candidate pumps, with flow, speed and cost of owning in every cell.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from sizing.analysis.changed import Known, NotYet, changed_system
from sizing.document.build_route import bore_m
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import OPERATES, operating_points
from sizing.operating_point.outlets import held_to
from sizing.pump.catalogue import Catalogue, Pump
from sizing.selection.sweep import Wanted, costs_per_year

CellState = Literal["fits", "short", "off"]
_NARROWEST, _WIDEST = 0.55, 1.9
MOST_SIZES, MOST_PUMPS = 8, 50


@dataclass(frozen=True)
class Cell:
    """One size with one pump. 'short': less than the needed flow; 'off'.

    It does not run there at all.
    """

    state: CellState
    flow_m3s: float | None
    velocity_m_s: float | None
    cost_per_year: float | None
    in_band: bool = True  # the speed in the leg lies where the kind's own check wants it


@dataclass(frozen=True)
class GridRow:
    pump: Pump
    now: bool
    cells: tuple[Cell, ...]


@dataclass(frozen=True)
class Grid:
    leg: LegEntry
    sizes: tuple[str, ...]
    bores_m: tuple[float, ...]
    now: int | None
    rows: tuple[GridRow, ...]


def candidate_sizes(entry: LegEntry) -> list[str]:
    """Sizes of the leg's own family round the one it has, at most :data:`MOST_SIZES`."""
    now = bore_m(entry)
    around = [
        one
        for one in pipes.sizes(entry.series)
        if _NARROWEST <= pipes.pipe(entry.series, one).inside_diameter_m / now <= _WIDEST
    ]
    nearest = sorted(
        around, key=lambda one: abs(np.log(pipes.pipe(entry.series, one).inside_diameter_m / now))
    )[:MOST_SIZES]
    return [one for one in around if one in nearest]


def table(
    systems: list[SystemCurve],
    index: int,
    pumps: Catalogue,
    wanted: Wanted,
    band_m_s: tuple[float, float],
) -> list[list[Cell]]:
    """Cells by pump and size: real flow, speed in the leg, cost of owning.

    None is called the best: the pipe's own price is not known here, and a wider one always costs
    less to run.
    """
    columns = []
    for system in systems:
        found = operating_points(pumps.table, system)
        if wanted.held_by_outlets:
            heads = pumps.head_at(np.arange(len(pumps)), np.full(len(pumps), wanted.flow_m3s))
            found = held_to(found, wanted.flow_m3s, heads, system.head_at(wanted.flow_m3s))
        runs = found.status == OPERATES
        flows = np.where(runs, found.flow_m3s, np.nan)
        leg = system.route.legs[index]
        speeds = flows * leg.pipe_share / (np.pi / 4 * leg.inside_diameter_m**2)
        columns.append((flows, speeds, costs_per_year(pumps, np.arange(len(pumps)), flows, wanted)))
    low, high = band_m_s

    def cell(row: int, column: int) -> Cell:
        flows, speeds, cost = columns[column]
        if np.isnan(flows[row]):
            return Cell("off", None, None, None)
        fits, known, paced = (
            bool(flows[row] >= wanted.flow_m3s),
            not np.isnan(cost[row]),
            bool(low <= speeds[row] <= high),
        )
        return Cell(
            state="fits" if fits else "short",
            flow_m3s=float(flows[row]),
            velocity_m_s=float(speeds[row]),
            cost_per_year=float(cost[row]) if known else None,
            in_band=paced,
        )

    return [[cell(row, column) for column in range(len(systems))] for row in range(len(pumps))]


def grid(base: Known, leg_id: str) -> Grid:
    """The sizes of a leg against the pumps that fit or nearly do, the one that was chosen first.

    Raises
    ------
    NotYet
        Nothing to choose from, or the leg does not count yet.
    """
    sizing = base.sizing
    ids = [leg.id for leg in sizing.legs]
    if leg_id not in ids:
        raise NotYet("give the leg its length first")
    if sizing.match is None or sizing.wanted is None:
        raise NotYet("this needs a catalogue to choose from")
    chosen = sizing.chosen.candidate.pump if sizing.chosen else None
    others = [one.pump for one in (*sizing.match.fits, *sizing.match.near_misses)]
    pumps = [pump for pump in dict.fromkeys([chosen, *others]) if pump is not None][:MOST_PUMPS]
    if not pumps:
        raise NotYet("no pump fits or nearly does")
    index, entry = ids.index(leg_id), sizing.legs[ids.index(leg_id)]
    sizes = candidate_sizes(entry)
    systems = [
        changed_system(
            base,
            sizing.job.with_leg(entry.model_copy(update={"nominal": one, "bore": None})),
        )
        for one in sizes
    ]
    band = next(
        (
            check.band
            for check in sizing.checks
            if check.code == f"velocity_{leg_id}" and check.band
        ),
        (0.0, np.inf),
    )
    cells = table(systems, index, Catalogue(pumps), sizing.wanted, band)
    now = sizes.index(entry.nominal) if entry.bore is None and entry.nominal in sizes else None
    bores = tuple(pipes.pipe(entry.series, one).inside_diameter_m for one in sizes)
    labels = tuple(pipes.pipe(entry.series, one).label for one in sizes)
    return Grid(
        entry,
        labels,
        bores,
        now,
        tuple(
            GridRow(pump, chosen is not None and pump.pump_id == chosen.pump_id, tuple(row))
            for pump, row in zip(pumps, cells, strict=True)
        ),
    )
