"""Which basin would do for a job's pump, and what the pit that is there bears.

Asked of a basin as of the job: its stop level, its alarm over the start, its inlet below the cover;
room for the pump and its float (rule CHO-05); starts and least run as its maker or the house's
rules bear, starts as Proof has them. The sizes on sale are the usual ones of ``data/basins.csv``.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from sizing.analysis.changed import Known, NotYet
from sizing.base import tables
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks.base import Running
from sizing.checks.pit import drain_back_m3, levels, starts_at, turns
from sizing.checks.pit_levels import lag_level_m
from sizing.document.job import Figure, JobDocument
from sizing.kinds.pit import PitKind, pit_plan
from sizing.selection.starts_and_runs import runs_of, starts_of
from sizing.storage.basin_build import Flotation, Room, flotation, passes_hatch, room
from sizing.storage.basin_design import Candidate, Wanted, candidate, candidates, largest_pump_m3s
from sizing.storage.basin_list import OnSale

_MM = 1e-3
FREEBOARD_M = 0.05  # inlet over alarm, assumed where nothing is asked
_NARROWEST_M = 0.45  # of a basin with a float at all, where the pump's width is not known


@lru_cache
def usual() -> tuple[OnSale, ...]:
    """The usual round basins, where a shop has no list of its own."""
    return tuple(
        OnSale(float(row["diameter_mm"]) * _MM, float(row["depth_mm"]) * _MM)
        for row in tables.rows("basins")
    )


def on_sale_m() -> tuple[tuple[float, float], ...]:
    """Diameter and depth of the usual round basins."""
    return tuple(one.size_m for one in usual())


@dataclass(frozen=True)
class Site:
    """What the ground and the lid ask of a basin, where somebody says so."""

    hatch_m: float | None = None
    ground_water_m: float | None = None  # under the cover, at its highest
    frost_m: float | None = None
    basin_kg: float = 0.0


@dataclass(frozen=True)
class Built:
    """One basin as it would be built: its plan, what the hatch leaves, what lifts it."""

    candidate: Candidate
    room: Room
    hatch_spare_m: float | None
    flotation: Flotation | None
    inlet_under_cover_m: float
    frost_spare_m: float | None  # of the inlet under the frost
    outlet_spare_m: float | None  # of the pipe that leaves under the frost, by the job


def built(base: Known, one: Candidate, site: Site) -> Built:
    """A candidate with its pumps, floats and lid.

    Raises
    ------
    NotYet
        No pump yet that runs.
    """
    running = base.sizing.running
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    width = running.pump.pump.width_m
    under = one.depth_m - one.inlet_m
    facts = base.sizing.facts
    told = {key: facts.optional(key) for key in ("frost_depth", "pipe_cover") if facts.asks(key)}
    frost_m = told.get("frost_depth") if site.frost_m is None else site.frost_m
    cover_m = told.get("pipe_cover")
    return Built(
        candidate=one,
        room=room(width, max(running.bought, 1), one.diameter_m, one.start_m - one.stop_m),
        hatch_spare_m=None if site.hatch_m is None else passes_hatch(width, site.hatch_m),
        flotation=(
            None
            if site.ground_water_m is None
            else flotation(one.diameter_m, one.depth_m, site.ground_water_m, site.basin_kg)
        ),
        inlet_under_cover_m=under,
        frost_spare_m=None if frost_m is None else under - frost_m,
        outlet_spare_m=None if frost_m is None or cover_m is None else cover_m - frost_m,
    )


@dataclass(frozen=True)
class Basins:
    """What is wanted, the smallest depth of each diameter, the wish, and the pit that is there."""

    wanted: Wanted  # of a new one
    borne: Wanted  # of the pit that is there
    rows: tuple[Candidate, ...]
    best: Candidate | None
    wish: Candidate | None
    here: Candidate
    here_as_it_is: Candidate  # with the levels of the job
    here_bears_m3s: float | None
    here_is_round: bool
    listed: Mapping[tuple[float, float], OnSale]


def wanted_of(running: Running, kind: PitKind, reserve_s: float = 0.0) -> Wanted:
    """What a basin would have to do for a job and its pump."""
    at, rules, pump = levels(running.facts), running.rules, running.pump.pump
    room = 2 * rules.value("CHO-05")
    least = _NARROWEST_M if pump.width_m is None else max(pump.width_m + room, _NARROWEST_M)
    count = round(turns(running))
    return Wanted(
        pump_flows_m3s=(running.flow_m3s,) * count,
        alternating=count > 1,
        allowed_starts_per_h=(
            rules.high(kind.pit_rules.starts)
            if pump.most_starts_per_s is None
            else pump.most_starts_per_s
        )
        * SECONDS_PER_HOUR,
        minimum_run_time_s=(
            rules.low(kind.pit_rules.run_time) if pump.least_run_s is None else pump.least_run_s
        ),
        peak_inflow_m3s=running.demand.inflow_m3s,
        reserve_time_s=reserve_s,
        inlet_below_cover_m=max(at.overflow_m - at.inlet_m, 0.0),
        submergence_m=at.stop_m,
        least_stop_m=pump.lowest_stop_m or 0.0,
        least_float_travel_m=0.0,
        alarm_above_m=max(at.alarm_m - at.start_m, 0.0),
        inlet_above_alarm_m=FREEBOARD_M,
        least_diameter_m=least,
        drain_back_m3=drain_back_m3(running),
        rate=lambda storage, flow: float(starts_at(running, storage, flow)),
        reserve_inflow_m3s=running.demand.mean_inflow_m3s or running.demand.hour_inflow_m3s,
    )


def borne_of(running: Running, kind: PitKind, wanted: Wanted) -> Wanted:
    """What a pit that is there must do: what is refused in Proof, no more.

    A new one is designed for what every motor bears; a small one bears more (CHO-21, CHO-22).
    """
    pump, rules = running.pump.pump, running.rules
    starts = float(starts_of(pump, rules, kind.pit_rules.starts).refused)
    run = float(runs_of(pump, rules, kind.pit_rules.run_time).refused)
    return replace(wanted, allowed_starts_per_h=starts * SECONDS_PER_HOUR, minimum_run_time_s=run)


def basins(
    base: Known,
    *,
    reserve_s: float = 0.0,
    wish_m: tuple[float, float] | None = None,
    shop: Sequence[OnSale] = (),
) -> Basins:
    """The basins for a job, of the shop's own list or the usual ones.

    ``wish_m`` is a diameter and depth that somebody would like.

    Raises
    ------
    NotYet
        The job has no pit, or no pump yet that runs.
    """
    running, kind = base.sizing.running, base.sizing.kind
    if not isinstance(kind, PitKind):
        raise NotYet("this job has no pit")
    if running is None:
        raise NotYet("this needs a pump that runs: none fits yet, and none was picked")
    wanted = wanted_of(running, kind, reserve_s)
    listed = tuple(shop) or usual()
    every = candidates(wanted, [one.size_m for one in listed])
    rows = []
    for diameter in dict.fromkeys(one.diameter_m for one in every):
        of = [one for one in every if one.diameter_m == diameter]
        rows.append(next((one for one in of if one.does), of[-1]))
    borne = borne_of(running, kind, wanted)
    plan, depth = pit_plan(running.facts), levels(running.facts).overflow_m
    same = math.sqrt(4 * plan.area_m2 / math.pi)
    return Basins(
        wanted=wanted,
        borne=borne,
        rows=tuple(rows),
        best=next((one for one in every if one.does), None),
        wish=None if wish_m is None else candidate(wanted, *wish_m),
        here=candidate(borne, same, depth),
        here_as_it_is=_as_it_is(running, same, borne),
        here_bears_m3s=largest_pump_m3s(wanted, same, depth),  # of any motor: it is another pump
        listed={one.size_m: one for one in listed},
        here_is_round=running.facts.choice("pit_shape") == "round",
    )


def _as_it_is(running: Running, diameter_m: float, wanted: Wanted) -> Candidate:
    """The pit that is there with the floats where the job has them."""
    at = levels(running.facts)
    return Candidate(
        diameter_m=diameter_m,
        depth_m=at.overflow_m,
        stop_m=at.stop_m,
        start_m=at.start_m,
        lag_m=lag_level_m(running.facts),
        alarm_m=at.alarm_m,
        inlet_m=at.inlet_m,
        asked_above_alarm_m=wanted.inlet_above_alarm_m,
        wide_enough=diameter_m >= wanted.least_diameter_m,
    )


def _up(value_mm: float) -> float:
    """To the whole millimetre, never less: what just does goes on doing."""
    return float(math.ceil(value_mm - 1e-6))


def taken(base: Known, diameter_m: float, depth_m: float) -> JobDocument:
    """The job with a round basin of that size and its floats: six figures at once.

    Water that was timed as it rose in the pit there is lets no more come in: its area is kept.

    Raises
    ------
    NotYet
        The job has no pit, or no pump yet that runs.
    """
    found = basins(base, wish_m=(diameter_m, depth_m)).wish
    job, facts = base.sizing.job, base.sizing.facts
    assert found is not None  # it was wished for
    levels_m = {
        "pit_diameter": found.diameter_m,
        "pit_depth": found.depth_m,
        "stop_level": found.stop_m,
        "start_level": found.start_m,
        "alarm_level": found.alarm_m,
        "inlet_level": found.inlet_m,
    }
    answers: dict[str, Figure | str] = {
        key: Figure(value=_up(value / _MM), unit="mm", provenance="drawing")
        for key, value in levels_m.items()
    }
    answers["pit_shape"] = "round"
    if facts.asks("rise_area") and facts.optional("rise_area") is None and facts.optional("rise"):
        area = pit_plan(facts).area_m2
        answers["rise_area"] = Figure(value=round(area, 4), unit="m²", provenance="measured")
    return job.model_copy(update={"answers": {**job.answers, **answers}})
