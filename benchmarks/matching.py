"""Matching generated catalogues: ours against two loops, in turns within one run.

Prints ratios and what they are measured by.
"""

from __future__ import annotations

import argparse
import statistics
import time
import tracemalloc
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from benchmarks import generated, loops
from sizing.analysis.grid import table
from sizing.base.rules import SHIPPED
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import STATUSES, operating_points
from sizing.pump.catalogue import Catalogue
from sizing.pump.curve_table import CurveTable
from sizing.pump.packed import PackedCatalogue, pack
from sizing.selection.match import match
from sizing.selection.requirement import AtLeast, FamilyIn, Supply
from sizing.selection.sweep import Wanted

SIZES = (1_000, 10_000, 100_000, 1_000_000)
SAMPLE = 300  # pumps a round that the loops get; their time a pump is what counts


def timed(work: Callable[[], object]) -> float:
    """Seconds that the work takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def main() -> None:
    """Print the whole table."""
    parser = argparse.ArgumentParser(prog="./run bench")
    parser.add_argument("--rounds", type=int, default=5)
    rounds = parser.parse_args().rounds
    system = generated.system()
    print(
        f"operating points of generated pumps, one core, medians of {rounds} rounds in turns; a ="
        " PCHIP + brentq + fluids, c = table + Newton by hand"
    )
    print(
        f"{'pumps':>9} {'ours ms':>9} {'us/pump':>8} {'a us/pump':>10} {'c us/pump':>10}"
        f" {'a/ours':>8} {'c/ours':>8} {'working MB':>11}"
    )
    per_pump = {}
    for count in SIZES:
        per_pump[count] = _row(generated.table(count), system, count, rounds)
    for more, fewer in ((100_000, 1_000), (1_000_000, 100_000)):
        print(
            f"growth: time a pump at {more} is {per_pump[more] / per_pump[fewer]:.2f} of that at"
            f" {fewer} (1 is linear)"
        )
    _agreement(generated.table(2_000, seed=9), system)
    _whole_match(system, rounds)
    _grid(system, rounds)


def _row(table: CurveTable, system: SystemCurve, count: int, rounds: int) -> float:
    rng, ours, plain, clever = np.random.default_rng(3), [], [], []
    operating_points(table, system)
    for _ in range(rounds):
        rows = rng.integers(0, count, SAMPLE).tolist()
        ours.append(timed(lambda: operating_points(table, system)) / count)
        plain.append(timed(lambda rows=rows: loops.straightforward(table, rows, system)) / SAMPLE)
        clever.append(timed(lambda rows=rows: loops.clever(table, rows, system)) / SAMPLE)
    tracemalloc.start()
    operating_points(table, system)
    working = tracemalloc.get_traced_memory()[1] / 1e6
    tracemalloc.stop()
    mine = statistics.median(ours)
    ratio_a = statistics.median(a / o for a, o in zip(plain, ours, strict=True))
    ratio_c = statistics.median(c / o for c, o in zip(clever, ours, strict=True))
    print(
        f"{count:>9} {mine * count * 1e3:>9.1f} {mine * 1e6:>8.2f}"
        f" {statistics.median(plain) * 1e6:>10.0f} {statistics.median(clever) * 1e6:>10.1f}"
        f" {ratio_a:>7.0f}x {ratio_c:>7.1f}x {working:>11.1f}"
    )
    return mine


def _agreement(table: CurveTable, system: SystemCurve) -> None:
    """Statuses and flows against the straightforward loop, where both use Colebrook (every leg at
    Re 4000 and over).
    """
    rows = list(range(len(table)))
    ours, wanted = operating_points(table, system), loops.straightforward(table, rows, system)
    differ = sum(STATUSES[ours.status[row]] != status for row, (status, _) in enumerate(wanted))
    widest = max(leg.inside_diameter_m for leg in system.route.legs)
    turbulent = 4000 * system.water.kinematic_viscosity_m2_s * np.pi / 4 * widest
    pairs = [
        (ours.flow_m3s[row], flow)
        for row, (status, flow) in enumerate(wanted)
        if status == "operates" and flow > turbulent
    ]
    worst = max(abs(mine / flow - 1) for mine, flow in pairs)
    print(
        f"agreement with a on {len(rows)} pumps: {differ} statuses differ; of {len(pairs)} fully"
        f" turbulent flows the worst is {worst:.1e} off"
    )


def _whole_match(system: SystemCurve, rounds: int) -> None:
    """Matching as a request does it, power, efficiency and NPSH of the best fifty with it.

    And what a packed catalogue weighs and costs to open.
    """
    wanted = Wanted(
        0.002,
        (
            FamilyIn(("sump",)),
            AtLeast("solids_m", 0.008, "size", "solids", "{has} {wanted}"),
            Supply(230.0, 1, 0.1),
        ),
        1500.0,
        0.3,
        7.0,
    )
    plain = replace(wanted, requirements=())
    for count in (10_000, 100_000):
        pumps = generated.pumps(count)
        packed = timed(lambda pumps=pumps: pack(pumps))
        blob = pack(pumps)
        del pumps
        opened = statistics.median(timed(lambda blob=blob: _opened(blob)) for _ in range(rounds))
        catalogue = PackedCatalogue(blob)
        match(catalogue, system, wanted, SHIPPED)
        some = statistics.median(
            timed(lambda catalogue=catalogue: match(catalogue, system, wanted, SHIPPED))
            for _ in range(rounds)
        )
        every = statistics.median(
            timed(lambda catalogue=catalogue: match(catalogue, system, plain, SHIPPED))
            for _ in range(rounds)
        )
        print(
            f"whole match of {count} pumps with the best 50 and their power, efficiency and NPSH:"
            f" {every * 1e3:.1f} ms; with three requirements {some * 1e3:.1f} ms; packed"
            f" {len(blob) / 1e6:.1f} MB, packing {packed:.1f} s, opening {opened * 1e3:.1f} ms"
        )


def _opened(blob: bytes) -> None:
    catalogue = PackedCatalogue(blob)
    catalogue.table.heads_m.sum(), catalogue.powers_w.sum(), catalogue.best_flow_m3s.sum()


def _grid(system: SystemCurve, rounds: int) -> None:
    """Eight widths of the last leg against fifty pumps."""
    pumps = Catalogue(generated.pumps(50))
    legs = system.route.legs
    systems = [
        SystemCurve(
            replace(
                system.route,
                legs=(*legs[:-1], replace(legs[-1], inside_diameter_m=0.04 + 0.006 * step)),
            ),
            system.water,
        )
        for step in range(8)
    ]
    taken = statistics.median(
        timed(
            lambda: table(
                systems,
                len(legs) - 1,
                Catalogue(pumps.pumps),
                Wanted(0.002, (), 1500.0, 0.3, 7.0),
                (0.5, 2.5),
            )
        )
        for _ in range(rounds)
    )
    print(f"pipe by pump, 8 sizes x 50 pumps: {taken * 1e3:.1f} ms")


if __name__ == "__main__":
    main()
