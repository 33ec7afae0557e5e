"""Random catalogues and jobs at their edges, from a seed: curves that begin beside no flow, of two
points, flat, rising, vertical; legs of no length; runs over time kept on every job.
"""

from __future__ import annotations

import json
import random
from pathlib import Path

from sizing.base import units
from sizing.document.job import JobDocument
from sizing.editing import intake
from sizing.editing.edit import edit
from sizing.kinds import kinds
from sizing.over_time.scenarios import all_scenarios
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.curve import PumpCurve
from sizing.selection.pump_family import families

DEMO = Path(__file__).parents[1] / "demo" / "jobs"
FILES = sorted(DEMO.glob("*.json"))
_SHAPES = ("usual", "from beside no flow", "two points", "flat", "rising", "vertical", "droops")


def curve(draw: random.Random) -> PumpCurve:
    """A curve of one of the shapes."""
    shape, most = draw.choice(_SHAPES), 10 ** draw.uniform(-3.6, -2.0)
    count = 2 if shape == "two points" else draw.randint(3, 9)
    first = most * draw.choice((0.005, 0.1, 0.5)) if shape == "from beside no flow" else 0.0
    flows = [first + (most - first) * at / (count - 1) for at in range(count)]
    top, low = 10 ** draw.uniform(0.6, 2.2), draw.choice((0.0, 0.3))
    heads = [top * (1 - (1 - low) * (at / (count - 1)) ** 2) for at in range(count)]
    if shape == "flat":
        heads = [top] * count
    elif shape == "rising":
        heads = heads[::-1]
    elif shape == "droops":
        heads[0] *= 0.8
    elif shape == "vertical":
        flows[1:] = [most * (1 + 1e-9 * at) for at in range(1, count)]
        flows[0] = 0.0
    powers = [draw.uniform(50, 3000)] * count if draw.random() < 0.5 else None
    npsh = [draw.uniform(0, 8)] * count if draw.random() < 0.5 else None
    return PumpCurve(tuple(flows), tuple(heads), powers and tuple(powers), npsh and tuple(npsh))


def catalogue(draw: random.Random, most: int = 6) -> Catalogue:
    """A few pumps of any family, of which little is stated."""
    codes = list(families())
    return Catalogue(
        [
            Pump(
                pump_id=f"edge-e{at}",
                maker="Edge",
                model=f"E{at}",
                family=draw.choice(codes),
                curve=curve(draw),
                voltage_v=draw.choice((None, 230.0)),
                phases=draw.choice((None, 1, 3)),
                solids_m=draw.choice((None, 0.0, 0.05)),
                price=draw.choice((None, 0.0, 250.0)),
            )
            for at in range(draw.choice((0, 1, most, most)))
        ]
    )


def job(draw: random.Random) -> JobDocument:
    """A demo job pushed to an edge: a figure at its bound, a leg of no length, runs kept on it."""
    content = json.loads(draw.choice(FILES).read_bytes())
    asked = [one for one in kinds()[content["kind"]].questions if one.dimension]
    for leg in content["legs"]:
        if leg.get("length") and draw.random() < 0.08:
            leg["length"] |= {"value": 0.0, "text": "0 m"}
    held = intake.loads(json.dumps(content).encode())
    for question in draw.sample(asked, k=draw.choice((0, 0, 1, 3))):
        bound = draw.choice((question.low, question.high))
        text = units.show(bound, question.dimension, held.units)
        held = edit(held, f"answers.{question.key}", text).job
    kept = {code: {} for code in draw.sample(list(all_scenarios()), k=draw.randint(0, 8))}
    return held.model_copy(
        update={"scenarios": kept, "pump": draw.choice((None, *2 * ("edge-e0",)))}
    )
