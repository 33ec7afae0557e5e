"""The chance of the duty.

2,000 sampled routes against 50 pumps, beside a loop that takes them one by one; and what each
dialog costs.
"""

from __future__ import annotations

import argparse
import statistics
from pathlib import Path

import numpy as np

from benchmarks import generated
from benchmarks.matching import timed
from sizing.analysis import chance, inverse, methods, reach, sensitivity, sizes
from sizing.analysis.changed import Known, known
from sizing.base.rules import SHIPPED
from sizing.editing import intake
from sizing.hydraulics.system_curve import SystemCurve
from sizing.pump.curve import PumpCurve
from sizing.selection import chance as sampled
from sizing.size import size

PUMPS = 50
LOOPED = 40  # samples that the loop gets; its time a pair is what counts
JOB = Path(__file__).parents[1] / "demo" / "jobs" / "06-cabins-over-the-ridge.json"


def looped(base: Known, curves: list[PumpCurve], routes: sampled.Routes, factor: np.ndarray) -> int:
    """The same question asked pair by pair on the exact system curve: how many duties are met."""
    met = 0
    for sample in range(LOOPED):
        needed = float(routes.needed_m3s[sample])
        for curve, system in (
            (curve, SystemCurve(base.system.route, base.system.water)) for curve in curves
        ):
            met += curve.covers(needed) and curve.head_at(needed) * factor[
                sample
            ] >= system.head_at(needed)
    return met


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(prog="./run bench")
    parser.add_argument("--rounds", type=int, default=5)
    rounds = max(parser.parse_known_args()[0].rounds, 3)
    catalogue = generated.catalogue(10_000)
    small = size(intake.loads(JOB.read_bytes()), catalogue)
    base = known(small)
    curves = [pump.curve for pump in catalogue.pumps[:PUMPS]]
    sampler = chance.sampler(base, SHIPPED)
    routes, factor = sampler.sample()

    def ours() -> object:
        drawn, heads = sampler.sample()
        return sampled.duty_met(curves, drawn, heads)

    mine = statistics.median(timed(ours) for _ in range(rounds * 3))
    loop = (
        statistics.median(
            timed(lambda: looped(base, curves, routes, factor)) for _ in range(rounds)
        )
        / LOOPED
        * sampled.SAMPLES
    )
    print(
        f"sampling {sampled.SAMPLES} routes x {PUMPS} pumps: {mine * 1e3:.1f} ms, a loop over"
        f" the pairs {loop * 1e3:.0f} ms: {loop / mine:.0f}x"
    )
    print("dialogs with 10000 pumps, ms:", end="")
    chosen = known(
        size(
            intake.loads(JOB.read_bytes()).model_copy(update={"pump": catalogue.pumps[0].pump_id}),
            catalogue,
        ),
    )
    for name, work in (
        ("schools", lambda: methods.schools(chosen)),
        ("sizes", lambda: sizes.sizes(chosen, catalogue, "b")),
        ("the other way round", lambda: inverse.solve(chosen)),
        ("how far", lambda: reach.reaches(chosen)),
        (
            "what to measure",
            lambda: sensitivity.tipping_points(
                chosen, catalogue, sensitivity.sensitivities(chosen)
            ),
        ),
    ):
        try:
            print(f" {name} {statistics.median(timed(work) for _ in range(3)) * 1e3:.0f};", end="")
        except (
            Exception
        ) as problem:  # the picked pump may not reach: the figure is left out, and why is told
            print(f" {name} – ({problem});", end="")
    print()


if __name__ == "__main__":
    main()
