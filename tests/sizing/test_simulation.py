"""What happens over time, against fine steps, balances, and each thing that cannot be."""

import math
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from sizing.base.errors import SizingError
from sizing.over_time.simulation.delivery import Against, Pump, delivery, level_after
from sizing.over_time.simulation.draws import Tap, day_of_taps, drawn_m3
from sizing.over_time.simulation.pit import Inflow, Pit, run_pit
from sizing.over_time.simulation.plan_area import AreaByLevel
from sizing.over_time.simulation.power_cut import Battery, power_cut
from sizing.over_time.simulation.pressure_tank import (
    TankAndSwitch,
    cycling,
    run_tank,
    tank_volume_for_m3,
    worst_draw_m3s,
)
from sizing.over_time.simulation.surge import Line, derated, surge
from sizing.over_time.simulation.timeline import TooMuchHappens
from sizing.over_time.simulation.two_tanks import Lower, TwoTanks, Upper, run_two_tanks
from sizing.pump.cable import Copper, Load, longest_m, resistance_ohm_per_km, smallest_area_mm2
from sizing.storage import basin_design
from sizing.storage.basin_design import Wanted, candidates, largest_pump_m3s, on_sale

ONE, TWO = Pump(8.2, 1.05e6), Pump(7.0, 0.6e6)
AGAINST = Against(3.4, 4.2e5)
BENT = AreaByLevel.of([(0.0, 0.2), (0.3, 0.28), (0.5, 0.6)])


def pit(**more) -> Pit:
    plain = {
        "area": AreaByLevel.upright(0.283),
        "stop_m": 0.12,
        "start_m": 0.34,
        "alarm_m": 0.44,
        "inlet_m": 0.5,
        "rim_m": 0.7,
        "pumps": (ONE,),
        "against": AGAINST,
    }
    return Pit(**plain | more)


def stepped(place: Pit, inflow: Inflow, end_s: float, level: float, step: float = 0.05):
    """The same by small steps, as anybody would write it: pumped, overflow, starts, level."""
    volume, on, lag, lead, was = place.area.volume_m3(level), level >= place.start_m, False, 0, ()
    pumped = spilt = time = 0.0
    starts = [0] * len(place.pumps)
    ways = {}
    rim = place.area.volume_m3(place.rim_m)
    while time < end_s - 1e-9:
        flow = [one for begin, one in inflow.rows if begin <= time + 1e-12][-1]
        if level >= place.start_m:
            on = True
        if place.lag_start_m is not None and level >= place.lag_start_m:
            lag = True
        if level <= place.stop_m and on:
            on = lag = False
            lead = 1 - lead if place.alternating and len(place.pumps) == 2 else lead
        runs = () if not on else (0, 1) if lag and len(place.pumps) == 2 else (lead,)
        for one in runs:
            starts[one] += one not in was
        if was and not runs:
            volume += place.drain_back_m3
        was = runs
        if runs not in ways:
            ways[runs] = delivery([place.pumps[one] for one in runs], place.against)
        out = ways[runs].flow_m3s(level)
        volume += (flow - out) * step
        pumped += out * step
        if volume > rim:
            spilt += volume - rim
            volume = rim
        level, time = place.area.level_m(volume), time + step
    return pumped, spilt, starts, level


@pytest.mark.parametrize(
    ("place", "flows"),
    [
        (pit(), ((0.0, 3e-4), (700.0, 9e-4))),
        (pit(area=BENT), ((0.0, 4e-4), (900.0, 1e-4))),
        (pit(drain_back_m3=0.012), ((0.0, 4e-4),)),
        (pit(pumps=(ONE, TWO), alternating=True), ((0.0, 5e-4),)),
        (pit(pumps=(ONE, TWO), lag_start_m=0.4), ((0.0, 2.2e-3), (600.0, 3e-4))),
        (pit(pumps=(ONE, ONE), lag_start_m=0.4, area=BENT), ((0.0, 2.6e-3), (600.0, 0.0))),
        (pit(), ((0.0, 4e-3), (300.0, 0.0))),
    ],
)
def test_a_pit_is_as_by_small_steps(place, flows):
    inflow = Inflow(flows)
    found = run_pit(place, inflow, end_s=1800.0, initial_level_m=0.2)
    pumped, spilt, starts, level = stepped(place, inflow, 1800.0, 0.2)
    assert found.pumped_m3 == pytest.approx(pumped, abs=2e-3)
    assert found.overflow_m3 == pytest.approx(spilt, abs=2e-3)
    assert found.starts == starts
    assert found.final_level_m == pytest.approx(level, abs=0.01)
    assert abs(found.imbalance_m3) < 1e-9


LEVELS = st.floats(0.03, 0.2)
FLOWS = st.floats(0.0, 3e-3)


@settings(max_examples=50, deadline=None)
@given(
    gaps=st.tuples(LEVELS, LEVELS, LEVELS, LEVELS, LEVELS),
    flows=st.lists(FLOWS, min_size=1, max_size=5),
    two=st.booleans(),
    alternating=st.booleans(),
    back=st.floats(0.0, 0.004),
    begin=st.floats(0.0, 1.0),
    cut=st.tuples(st.floats(0, 40_000), st.floats(0, 40_000)),
    area=st.sampled_from([AreaByLevel.upright(0.4), BENT]),
)
def test_the_balance_of_a_pit_holds_whatever_comes(
    gaps, flows, two, alternating, back, begin, cut, area
):
    heights = [sum(gaps[: one + 1]) for one in range(5)]
    place = pit(
        area=area,
        stop_m=heights[0],
        start_m=heights[1],
        lag_start_m=heights[2] if two else None,
        alarm_m=heights[3],
        inlet_m=heights[2] + 0.01,
        rim_m=heights[4] + 0.02,
        pumps=(ONE, TWO) if two else (TWO,),
        alternating=alternating,
        drain_back_m3=back,
    )
    inflow = Inflow(tuple((at * 9000.0, flow) for at, flow in enumerate(flows)))
    cuts = [(min(cut), max(cut))] if cut[0] != cut[1] else []
    try:
        found = run_pit(
            place, inflow, initial_level_m=begin * place.rim_m, power_cuts=cuts, end_s=50_000.0
        )
    except TooMuchHappens:
        assume(False)
    assert abs(found.imbalance_m3) < 1e-9 * max(1.0, found.inflow_m3, found.pumped_m3)
    assert found.max_level_m <= place.rim_m
    pieces = found.timeline.pieces
    for before, after in pairwise(pieces):  # nothing is left out, nothing told twice
        assert after.from_s == pytest.approx(before.to_s, abs=1e-6)
    for piece in pieces[:: max(1, len(pieces) // 8)]:
        end = piece.level_after_s(piece.to_s - piece.from_s)
        assert end == pytest.approx(piece.to_level_m, abs=1e-6)
    assert not found.timeline.samples(0) or found.timeline.samples(20)[0][0] == 0.0
    quick = run_pit(
        place,
        inflow,
        initial_level_m=begin * place.rim_m,
        power_cuts=cuts,
        end_s=50_000.0,
        keep=False,
    )
    assert quick.starts == found.starts
    assert quick.timeline.pieces == []


def test_a_failed_pump_leaves_its_work_to_the_other_and_hours_are_counted():
    place = pit(pumps=(ONE, ONE), alternating=True, lag_start_m=0.4)
    inflow = Inflow(((0.0, 3e-4),))
    found = run_pit(place, inflow, initial_level_m=0.2, failed=[1])
    assert found.starts[0] == 0
    assert found.starts[1] > 50
    assert found.max_level_m == pytest.approx(0.4)  # the second comes at its own level
    assert sum(found.starts_by_hour.values()) == found.starts[1]
    assert 0 < found.most_starts_in_an_hour <= found.starts[1]


def test_a_pump_too_weak_settles_or_overflows_and_says_when():
    weak = pit(pumps=(Pump(3.3, 1e6),))
    found = run_pit(weak, Inflow(((0.0, 1e-3),)), initial_level_m=0.2)
    assert found.overflow_m3 > 0
    assert found.first_overflow_s < 400
    steady = run_pit(pit(), Inflow(((0.0, 1.8443e-3),)), initial_level_m=0.34)
    assert steady.starts == [1]
    assert steady.final_level_m == pytest.approx(0.2, abs=1e-3)


def test_what_runs_back_and_starts_it_again_without_end_is_told(monkeypatch):
    monkeypatch.setattr("sizing.over_time.simulation.pit.MOST_EVENTS", 1000)
    place = pit(drain_back_m3=0.3, rim_m=0.71)
    with pytest.raises(TooMuchHappens, match="run a shorter time"):
        run_pit(place, Inflow(((0.0, 0.0),)), initial_level_m=0.34, end_s=1e9)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"stop_m": 0.4}, "start level must lie above"),
        ({"lag_start_m": 0.3}, "second pump must start above"),
        ({"rim_m": 0.45}, "rim must lie above"),
        ({"pumps": ()}, "one pump or two"),
    ],
)
def test_a_pit_that_cannot_be_is_told(more, says):
    with pytest.raises(SizingError, match=says):
        pit(**more)


def test_inflows_and_areas_out_of_order_are_told():
    for rows in ((), ((5.0, 1.0),), ((0.0, 1.0), (0.0, 2.0)), ((0.0, -1.0),), ((0.0, math.inf),)):
        with pytest.raises(SizingError, match="inflow"):
            Inflow(rows)
    with pytest.raises(SizingError, match="rising levels"):
        AreaByLevel.of([(0.1, 1.0), (0.1, 2.0)])
    with pytest.raises(SizingError, match="above zero"):
        AreaByLevel.of([(0.0, 0.0)])
    with pytest.raises(SizingError, match="above the rim"):
        run_pit(pit(), Inflow(((0.0, 1e-4),)), initial_level_m=0.8)


@settings(max_examples=80, deadline=None)
@given(level=st.floats(-0.2, 0.9))
def test_area_volume_and_level_agree(level):
    assert BENT.level_m(BENT.volume_m3(level)) == pytest.approx(level, abs=1e-9)
    first, slope = BENT.line(level, level + 1e-9)
    near = (BENT.volume_m3(level + 1e-6) - BENT.volume_m3(level - 1e-6)) / 2e-6
    assert first + slope * level == pytest.approx(near, rel=1e-3)


def test_a_level_on_its_way_is_the_way_back_of_the_time():
    for pumps in ((), (ONE,), (ONE, ONE), (ONE, TWO)):
        how = delivery(pumps, AGAINST)
        net = 6e-4 - how.flow_m3s(0.3)
        to = 0.45 if net > 0 else 0.15
        whole = how.time_s(BENT, 6e-4, 0.3, 0.31 if net > 0 else 0.29)
        assert level_after(how, BENT, 6e-4, 0.3, to, whole) == pytest.approx(
            0.31 if net > 0 else 0.29, abs=1e-9
        )


# --- pressure tank

TANK = TankAndSwitch(
    tank_volume_m3=0.1,
    precharge_pa=180e3,
    cut_in_pa=200e3,
    cut_out_pa=340e3,
    pump=Pump(58.0, 1.1e7),
    lift_m=11.0,
    pipe_k_s2_m5=1.5e6,
    density_kg_m3=999.1,
    atmosphere_pa=101_325.0,
)


@pytest.mark.parametrize("draw", [0.0, 3e-4, 8e-4])
def test_filling_is_as_by_small_steps(draw):
    air, time = TANK.air_m3(TANK.cut_in_pa), 0.0
    while TANK.pressure_pa(air) < TANK.cut_out_pa:
        air -= (TANK.flow_m3s(TANK.pressure_pa(air)) - draw) * 1e-3
        time += 1e-3
    assert TANK.fill_time_s(draw) == pytest.approx(time, rel=1e-3)


@pytest.mark.parametrize(
    ("draw", "hunting", "outcome"),
    [
        (0.0, 10.0, "no_draw"),
        (4e-4, 10.0, "cycles"),
        (4e-4, 60.0, "hunts"),
        (1.2e-3, 10.0, "never_stops"),
        (1.5e-3, 10.0, "falls_below_cut_in"),
    ],
)
def test_what_a_switch_does_at_a_draw(draw, hunting, outcome):
    found = cycling(TANK, draw, hunting)
    assert found.outcome == outcome
    if found.settle_pressure_pa is not None:
        assert TANK.flow_m3s(found.settle_pressure_pa) == pytest.approx(draw)


def test_a_larger_tank_runs_as_long_as_wanted_and_the_worst_draw_is_the_worst():
    size = tank_volume_for_m3(TANK, 60.0)
    larger = TankAndSwitch(**{**vars(TANK), "tank_volume_m3": size})
    assert larger.fill_time_s(0.0) == pytest.approx(60.0)
    worst = worst_draw_m3s(TANK)
    rate = cycling(TANK, worst, 1.0).starts_per_s
    assert all(cycling(TANK, worst * one, 1.0).starts_per_s < rate for one in (0.7, 0.9, 1.1, 1.3))
    weak = TankAndSwitch(**{**vars(TANK), "pump": Pump(40.0, 1.1e7)})
    assert (worst_draw_m3s(weak), tank_volume_for_m3(weak, 60.0)) == (None, None)
    with pytest.raises(SizingError, match="above the cut-in"):
        TankAndSwitch(**{**vars(TANK), "cut_in_pa": 400e3})


def test_a_day_of_draws_starts_as_often_as_a_steady_one_would():
    day = run_tank(TANK, ((0.0, 4e-4), (7200.0, 0.0)), end_s=9000.0)
    starts, lowest, drawn = day.starts, day.lowest_pa, day.delivered_m3
    rate = cycling(TANK, 4e-4, 1.0).starts_per_s
    assert len(starts) == pytest.approx(7200 * rate, abs=1.5)
    assert lowest == pytest.approx(TANK.cut_in_pa)
    assert drawn == pytest.approx(7200 * 4e-4)
    assert all(one.run_time_s > 0 for one in starts)
    much = run_tank(TANK, ((0.0, 1.2e-3), (3600.0, 0.0)), end_s=4000.0)
    assert much.starts[0].run_time_s > 3000  # it does not stop while drawn
    assert much.lowest_pa <= TANK.cut_in_pa


@pytest.mark.parametrize("draw_m3s", [0.0, 3e-4, 9e-4, 1.3e-3, 2e-3, 4e-3, 9e-3])
@pytest.mark.parametrize("precharge", [80e3, 140e3, 190e3])  # the last over the cut-in
def test_no_water_is_made_or_lost_in_a_tank(draw_m3s, precharge):
    tank = TankAndSwitch(**{**vars(TANK), "precharge_pa": precharge})
    way = []
    day = run_tank(tank, ((0.0, draw_m3s), (2500.0, 0.0), (2800.0, 5e-4)), end_s=4000.0, trace=way)
    assert day.pumped_m3 - day.delivered_m3 == pytest.approx(
        day.water_at_end_m3 - day.water_at_start_m3, abs=1e-9
    )
    wanted = draw_m3s * 2500 + 5e-4 * 1200
    assert day.delivered_m3 + day.short_m3 == pytest.approx(wanted)
    assert day.lowest_pa == pytest.approx(min(pressure for _, pressure in way), rel=1e-9)
    assert [time for time, _ in way] == sorted(time for time, _ in way)
    assert (day.short_m3 > 0) is (draw_m3s > tank.flow_m3s(0.0))


def test_a_draw_over_the_pump_by_small_steps():
    draw, step = 1.5e-3, 0.01
    day = run_tank(TANK, ((0.0, draw), (600.0, 0.0)), end_s=1500.0)
    water = TANK.tank_volume_m3 - TANK.air_m3(TANK.cut_out_pa)
    on, time, lowest = False, 0.0, TANK.cut_out_pa
    while time < 600.0:
        pressure = TANK.pressure_pa(TANK.tank_volume_m3 - water) if water > 0 else 0.0
        if water <= 0:
            pressure = max(TANK.settle_pa(draw), 0.0)
        on = on or pressure <= TANK.cut_in_pa
        lowest = min(lowest, pressure)
        water = max(water + ((TANK.flow_m3s(pressure) if on else 0.0) - draw) * step, 0.0)
        time += step
    assert day.lowest_pa == pytest.approx(lowest, rel=2e-3, abs=300.0)


# --- power cut

BATTERY = Battery(
    start_m=0.4,
    stop_m=0.2,
    flow_m3s=1e-3,
    current_a=8.0,
    capacity_ah=60.0,
    peukert_exponent=1.2,
    usable_share=0.8,
    temperature_factor=0.9,
)


def cut(**more):
    plain = {
        "plan_area_m2": 0.45,
        "level_m": 0.3,
        "rim_m": 0.9,
        "inflow_m3s": 3e-4,
        "outage_s": 40_000.0,
        "battery": BATTERY,
    }
    return power_cut(**plain | more)


@pytest.mark.parametrize("inflow", [1e-4, 3e-4, 9e-4, 1.4e-3])
def test_a_battery_pump_is_as_by_small_steps(inflow):
    volume, left, on, spilt, time, starts = 0.3 * 0.45, BATTERY.pumping_time_s, False, 0.0, 0.0, 0
    step, flat = 0.05, None
    while time < 40_000:
        level = volume / 0.45
        before = on
        on = (on or level >= 0.4) and level > 0.2 and left > 0
        starts += on and not before
        left -= step if on else 0.0
        flat = time if flat is None and left <= 0 else flat
        volume += (inflow - (1e-3 if on else 0.0)) * step
        if volume > 0.9 * 0.45:
            spilt, volume = spilt + volume - 0.9 * 0.45, 0.9 * 0.45
        time += step
    found = cut(inflow_m3s=inflow)
    assert found.overflow_m3 == pytest.approx(spilt, abs=5e-3)
    assert found.starts == pytest.approx(starts, abs=1)
    assert found.keeps_up is (inflow < 1e-3)
    if flat:
        assert found.time_until_flat_s == pytest.approx(flat, rel=2e-3)


def test_a_cut_without_battery_and_what_runs_back():
    plain = cut(battery=None)
    assert plain.time_to_overflow_s == pytest.approx(0.45 * 0.6 / 3e-4)
    assert cut(battery=None, inflow_m3s=0.0).time_to_overflow_s is None
    assert cut(battery=None, drain_back_m3=0.5).time_to_overflow_s == 0.0
    assert cut(inflow_m3s=0.0).time_until_flat_s is None
    for more in ({"level_m": 1.0}, {"rim_m": 0.35, "level_m": 0.3}):
        with pytest.raises(SizingError):
            cut(**more)
    with pytest.raises(SizingError, match="above its stop"):
        Battery(**{**vars(BATTERY), "stop_m": 0.5})


# --- two tanks


def tanks(entry: float | None = None) -> TwoTanks:
    return TwoTanks(
        Upper(2.4, 9.0, 9.25, 10.15), Lower(4.8, 0.35, 0.6, 1.9), Pump(16.5, 1.9e6), 3.1e5, entry
    )


@settings(max_examples=30, deadline=None)
@given(
    entry=st.sampled_from([None, 10.4]),
    draw=st.floats(0.0, 2.4e-3),
    inflow=st.floats(0.0, 2.0e-3),
    upper=st.floats(9.0, 10.15),
    lower=st.floats(0.2, 1.9),
)
def test_two_tanks_are_as_by_small_steps(entry, draw, inflow, upper, lower):
    place, end = tanks(entry), 6000.0
    found = run_two_tanks(
        place,
        upper_m=upper,
        lower_m=lower,
        draws=((0.0, draw),),
        inflows=((0.0, inflow),),
        end_s=end,
        efficiency=0.5,
    )
    assert found.drawn_m3 + found.unmet_draw_m3 == pytest.approx(draw * end, abs=1e-9)
    gained = (found.upper_final_level_m - upper) * 2.4
    assert gained == pytest.approx(found.pumped_m3 - found.drawn_m3, abs=1e-8)
    lost = (found.lower_final_level_m - lower) * 4.8
    assert lost == pytest.approx(inflow * end - found.pumped_m3 - found.lower_overflow_m3, abs=1e-8)
    wants, blocked, pumped, work, step = upper <= 9.25, lower <= 0.35, 0.0, 0.0, 0.25
    for _ in range(int(end / step)):
        wants = (wants or upper <= 9.25) and upper < 10.15
        blocked = (blocked or lower <= 0.35) and lower < 0.6
        flow = place.flow_m3s(place.static_m(upper, lower)) if wants and not blocked else 0.0
        pumped += flow * step
        work += flow * (16.5 - 1.9e6 * flow**2) * step
        upper = max(upper + (flow - draw) * step / 2.4, 9.0)
        lower = min(lower + (inflow - flow) * step / 4.8, 1.9)
    assert found.pumped_m3 == pytest.approx(pumped, abs=0.02)
    assert found.energy_kwh == pytest.approx(
        work * 998.2 * 9.80665 / 0.5 / 3.6e6, rel=0.02, abs=1e-3
    )


def test_floats_in_wrong_order_are_told():
    with pytest.raises(SizingError, match="upper float"):
        TwoTanks(Upper(1.0, 9.0, 9.9, 9.5), Lower(1.0, 0.1, 0.2, 1.0), ONE, 1.0, None)
    with pytest.raises(SizingError, match="lower float"):
        TwoTanks(Upper(1.0, 9.0, 9.2, 9.5), Lower(1.0, 0.3, 0.2, 1.0), ONE, 1.0, None)


# --- surge, cable


def test_surge_holds_watches_and_fails():
    line = Line(998.0, 2.2e9, 0.0409, 0.00368, 2.8e9, 0.85, 64.0)
    plain = {
        "velocity_m_s": 1.9,
        "closure_time_s": 0.05,
        "operating_pressure_pa": 3.1e5,
        "rating_pa": 1.2e6,
        "stop_time_s": 4.0,
        "static_grade_m": 22.0,
        "summit_elevation_m": 9.0,
        "atmosphere_pa": 101_325.0,
        "vapour_pressure_pa": 4246.0,
    }
    quick = surge(line, **plain)
    assert quick.closure_is_quick
    assert not quick.within_rating
    slow = surge(line, **plain | {"closure_time_s": quick.closure_time_needed_s})
    assert slow.peak_pressure_pa == pytest.approx(1.2e6)
    assert surge(line, **plain | {"velocity_m_s": 0.5}).closure_time_needed_s == 0.0
    assert surge(line, **plain | {"operating_pressure_pa": 1.3e6}).closure_time_needed_s is None
    trip = surge(line, **plain | {"stop_time_s": 0.1, "summit_elevation_m": 20.0})
    assert trip.vapour_reached
    assert trip.needs_a_specialist
    assert trip.summit_pressure_pa == pytest.approx(4246.0 - 101_325.0)
    rows = [(23.0, 1.0), (27.0, 0.8), (32.0, 0.6)]
    assert [derated(rows, t) for t in (10.0, 23.0, 25.0, 27.0, 50.0)] == pytest.approx(
        [1.0, 1.0, 0.9, 0.8, 0.6]
    )


def test_a_cable_at_its_longest_keeps_its_limits_and_no_more():
    load = Load(1, 230.0, 6.2, 0.87, 5.5, 0.5, 0.08)
    copper = Copper(1.7241e-8, 0.00393, 70.0)
    resistance = resistance_ohm_per_km(1.5, copper.resistivity_ohm_m)
    limits = {False: 0.03, True: 0.12}
    length = longest_m(load, resistance, limits)
    areas = [1.0, 1.5, 2.5]
    assert smallest_area_mm2(areas, load, copper, length * 0.999, limits) == 1.5
    assert smallest_area_mm2(areas, load, copper, length * 1.001, limits) == 2.5
    assert smallest_area_mm2(areas, load, copper, length * 10, limits) is None


# --- the basin

WANTED = Wanted(
    pump_flows_m3s=(0.0022,),
    alternating=False,
    allowed_starts_per_h=15,
    minimum_run_time_s=20,
    peak_inflow_m3s=7e-4,
    reserve_time_s=0,
    inlet_below_cover_m=0.3,
    submergence_m=0.15,
    least_stop_m=0.12,
    least_float_travel_m=0.1,
    alarm_above_m=0.08,
    inlet_above_alarm_m=0.05,
    least_diameter_m=0.45,
)
SIZES = on_sale([0.45, 0.6, 0.9, 1.2], [0.75, 1.2, 1.5, 2.4])


def test_the_largest_pump_of_a_basin_is_the_one_for_which_it_is_just_enough():
    for size in SIZES:
        most = largest_pump_m3s(WANTED, *size)
        if most is None:
            continue
        just = replace(WANTED, pump_flows_m3s=(most,))
        over = replace(WANTED, pump_flows_m3s=(most * 1.001,))
        (one,) = candidates(just, [size])
        (other,) = candidates(over, [size])
        assert one.does
        assert not other.does
        assert one.starts_per_pump_per_h(just) <= 15.0 + 1e-9


def test_the_smallest_is_the_first_that_does():
    found = basin_design.smallest(WANTED, SIZES)
    every = candidates(WANTED, SIZES)
    assert found == next(one for one in every if one.does)
    assert (found.diameter_m, found.depth_m) == (0.45, 1.5)
    assert basin_design.smallest(WANTED, [(0.45, 0.75)]) is None
    assert largest_pump_m3s(WANTED, 0.45, 0.5) is None
    assert found.wasted_volume_m3 == pytest.approx(found.area_m2 * 0.3)


def test_taps_begin_from_the_chance_that_they_run():
    taps = [Tap(4, 2e-4, 0.1, 60.0)]
    rows = day_of_taps(taps, [1.0] * 24, seed=3)
    assert rows == day_of_taps(taps, [1.0] * 24, seed=3)
    assert rows != day_of_taps(taps, [1.0] * 24, seed=4)
    assert drawn_m3(rows, 86_400.0) == pytest.approx(4 * 2e-4 * 0.1 * 86_400, rel=0.15)
    assert rows[0][0] == 0.0
    assert all(after[0] > before[0] for before, after in pairwise(rows))
    assert not any(flow for time, flow in day_of_taps(taps, [0.0] * 24, seed=3))
