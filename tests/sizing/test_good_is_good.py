"""Random jobs of all kinds: whatever is called good is judged again by a list of its own.

The list holds what must be so of any good sizing, worked out here from the job's and the pump's
plain figures, by other formulas than the checks' where there are any.
"""

from __future__ import annotations

import math
import random

import pytest

from sizing.base import units
from sizing.editing.edit import edit
from sizing.hydraulics import pipes
from sizing.kinds import kinds
from sizing.results.verdict import state_of
from sizing.size import size
from tests.sizing.test_kinds import JOBS
from tests.thin import count

G = 9.80665
SIEVES = ("check_spring_inline", "y_strainer", "suction_strainer", "foot_poppet", "foot_hinged")
GROUPS = 4
EACH = count(12, 130)


def changed_at_random(draw: random.Random):
    """A demo job with up to four figures half to twice as large, another pipe, a fitting less."""
    job = JOBS[draw.choice([name for name in JOBS if name != "chandlers-undercroft"])]
    asked = [one for one in kinds()[job.kind].questions if one.dimension and one.key in job.answers]
    for question in draw.sample(asked, k=min(len(asked), draw.randint(0, 4))):
        value = job.answers[question.key].si(question.dimension) * 2 ** draw.uniform(-1, 1)
        job = edit(
            job, f"answers.{question.key}", units.show(value, question.dimension, job.units)
        ).job
    for leg in job.legs:
        if draw.random() < 0.3 and leg.length is not None:
            longer = leg.length.si("length") * 2 ** draw.uniform(-0.5, 2)
            job = edit(job, f"legs.{leg.id}.length", units.show(longer, "length", job.units)).job
        if draw.random() < 0.2:
            nominal = draw.choice(pipes.sizes(leg.series))
            job = edit(job, f"legs.{leg.id}.pipe", pipes.pipe(leg.series, nominal).label).job
        if draw.random() < 0.15:
            job = edit(job, f"legs.{leg.id}.fittings", "2 elbow").job
        if draw.random() < 0.1 and leg.ends_at is not None:
            level = draw.uniform(-3, 12)
            job = edit(job, f"legs.{leg.id}.ends_at", units.show(level, "length", job.units)).job
    return job


def air_m(altitude_m: float) -> float:
    return 10.33 * (1 - 2.25577e-5 * altitude_m) ** 5.25588


def vapour_m(celsius: float) -> float:
    """By Magnus' formula, in metres of water."""
    return 610.94 * math.exp(17.625 * celsius / (celsius + 243.04)) / (1000 * G)


def broken(sizing) -> list[str]:
    """What must hold of a good sizing and does not."""
    found, running = [], sizing.running
    if running is None:
        return ["nothing runs"]
    facts, pump, route = running.facts, running.pump.pump, running.system.route
    flow, needed = running.flow_m3s, running.demand.needed_m3s

    def told(key):
        return facts.optional(key) if facts.asks(key) else None

    def must(holds, what):
        if not holds:
            found.append(what)

    for one in sizing.checks:
        must(not (one.weight == "must" and one.state != "hold"), f"must {one.code}")
        must(not (one.weight == "should" and one.state == "fail"), f"should {one.code}")
    must(running.pump.chance is None or running.pump.chance >= 0.899, "chance")
    if sizing.wanted.served is None:
        must(flow >= 0.99 * needed, "flow")
    for leg, speed in zip(route.legs, running.system.velocities_m_s(flow)[:, 0], strict=True):
        area = math.pi / 4 * leg.inside_diameter_m**2 * leg.parallel
        assert speed == pytest.approx(flow * leg.flow_share / area, rel=1e-6)
        must(speed <= 3.1, f"speed {speed:.1f} m/s")
    suction = running.job.kind in ("transfer", "booster")
    required = running.curve.npsh_required_at(flow)
    if suction and required is not None:
        lost = running.system.suction_loss_m(flow)
        over = route.start_level_m + route.supply_pressure_pa / (1000 * G)
        there = air_m(facts.si("altitude")) - vapour_m(facts.si("water_temperature")) + over - lost
        must(there > required, "NPSH")
    highest = max(running.curve.heads_m) + route.supply_pressure_pa / (1000 * G)
    for entry, leg in zip(running.legs, route.legs, strict=True):
        rating = pipes.pipe(entry.series, entry.nominal).rating_pa
        if rating and entry.side == "delivery" and not route.closed_loop:
            lowest = min(leg.end_elevation_m, route.start_level_m)
            pressure = 1000 * G * (highest + route.start_level_m - lowest)
            must(leg.end_elevation_m < route.start_level_m or pressure <= 1.3 * rating, "rating")
    end, surface = route.legs[-1].end_elevation_m, route.start_level_m
    top = max(leg.end_elevation_m for leg in route.legs)
    free = route.delivery_pressure_pa == 0 and route.supply_pressure_pa == 0
    if free and not route.closed_loop and not sizing.kind.held_by_outlets:
        must(end >= surface or top - surface > 9, "siphon")
    fittings = {one.fitting for leg in running.legs for one in leg.fittings}
    if running.job.kind in ("sewage", "pressure_sewer", "well", "solar_well"):
        must(any(one.startswith("check_") for one in fittings), "check valve")
    if running.job.kind in ("sewage", "pressure_sewer"):
        must(not fittings & set(SIEVES), "rags")
    solid = told("largest_solid")
    if solid:
        must((pump.solids_m or 0.0) >= 0.99 * solid, "solids of the pump")
        must(min(leg.inside_diameter_m for leg in route.legs) >= 0.99 * solid, "solids of the pipe")
    if pump.voltage_v and told("voltage"):
        must(abs(pump.voltage_v - told("voltage")) <= 0.11 * pump.voltage_v, "voltage")
    if pump.hottest_c is not None:
        must(facts.si("water_temperature") <= pump.hottest_c * 1.001, "temperature")
    if told("start_level") is not None:
        stop, start, alarm = (facts.si(f"{one}_level") for one in ("stop", "start", "alarm"))
        must(stop < start < alarm, "levels")
        must(told("inlet_level") is None or alarm <= told("inlet_level"), "alarm over the inlet")
        must((pump.lowest_stop_m or 0.0) <= stop * 1.001, "cover")
    if running.job.kind == "spa":
        must(facts.si("suction_outlets") >= 2, "entrapment")
        must((told("outlet_spacing") or 0) >= 0.9, "entrapment")
        must((told("cover_rating") or 0) >= 0.99 * flow, "entrapment")
    if told("tested_yield"):
        must(flow <= 1.01 * told("tested_yield"), "yield")
    return found


@pytest.mark.parametrize("group", range(GROUPS))
def test_whatever_is_called_good_is_good(catalogue, group):
    draw, good = random.Random(f"good {group}"), 0
    for _ in range(EACH):
        job = changed_at_random(draw)
        sizing = size(job, catalogue)
        if state_of(sizing) == "good":
            good += 1
            assert broken(sizing) == [], (job.title, {k: str(v) for k, v in job.answers.items()})
    assert good > 0
