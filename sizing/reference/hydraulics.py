"""Answers to the hydraulics families, by the same public functions as the application."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sizing.base import quantity
from sizing.base.errors import UnreadableQuantity
from sizing.base.water import air_pressure_pa, water
from sizing.hydraulics import friction
from sizing.hydraulics.force_main import force_main
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.operating_point.npsh import suction
from sizing.operating_point.one import operating_point, speed_for_flow
from sizing.pump.curve import PumpCurve, arranged, at_speed
from sizing.pump.power import power

Inputs = dict[str, Any]
Answers = dict[str, Any]
_SUFFIX = {
    "flow": "m3s",
    "length": "m",
    "pressure": "pa",
    "power": "w",
    "temperature": "c",
    "volume": "m3",
    "time": "s",
}


def water_properties(given: Inputs) -> Answers:
    """Density, viscosity, vapour pressure; air pressure at the altitude."""
    here = water(given["temperature_c"])
    return {
        "density_kg_m3": here.density_kg_m3,
        "dynamic_viscosity_pa_s": here.dynamic_viscosity_pa_s,
        "vapour_pressure_pa": here.vapour_pressure_pa,
        "air_pressure_pa": air_pressure_pa(given["altitude_m"]),
    }


def pipe_friction(given: Inputs) -> Answers:
    """Velocity and head loss of one pipe by either method."""
    flow, bore, length = given["flow_m3s"], given["inside_diameter_m"], given["length_m"]
    velocity = float(friction.velocity_m_s(flow, bore))
    if given["method"] == "hazen_williams":
        return {
            "velocity_m_s": velocity,
            "head_loss_m": float(
                friction.hazen_williams_m(flow, bore, length, given["hazen_williams_c"])
            ),
        }
    viscosity = water(given["temperature_c"]).kinematic_viscosity_m2_s
    reynolds = float(friction.reynolds(velocity, bore, viscosity))
    return {
        "velocity_m_s": velocity,
        "reynolds": reynolds,
        "darcy_friction_factor": float(
            friction.darcy_friction_factor(reynolds, given["roughness_m"] / bore)
        ),
        "head_loss_m": float(
            friction.darcy_weisbach_m(flow, bore, length, given["roughness_m"], viscosity)
        ),
    }


def unit_reading(given: Inputs) -> Answers:
    """Each text read, or refused."""
    answers: Answers = {}
    for reading in given["readings"]:
        name, dimension = reading["name"], reading["dimension"]
        try:
            answers[f"{name}_{_SUFFIX[dimension]}"] = quantity.read(reading["text"], dimension).si
        except UnreadableQuantity:
            answers[f"{name}_error"] = True
    return answers


def _system(given: Inputs) -> SystemCurve:
    legs = tuple(Leg(**leg) for leg in given["legs"])
    plain = {key: value for key, value in given.items() if key not in ("legs", "temperature_c")}
    return SystemCurve(Route(legs=legs, **plain), water(given["temperature_c"]))


def route_head(given: Inputs) -> Answers:
    """Total head and every part of it at each flow."""
    system = _system(given["route"])
    answers: Answers = {}
    for i, flow in enumerate(given["flows_m3s"], 1):
        governing, static_m, pressure_m, _ = system.governing(flow)
        pipe, fittings = system.losses_m(flow)
        velocities = system.velocities_m_s(flow)
        answers |= {
            f"total_head_{i}_m": system.head_at(flow),
            f"static_head_{i}_m": static_m,
            f"pressure_head_{i}_m": pressure_m,
            f"governing_leg_{i}": governing + 1,
        }
        for j in range(len(system.route.legs)):
            answers |= {
                f"velocity_{i}_leg_{j + 1}_m_s": float(velocities[j, 0]),
                f"pipe_friction_{i}_leg_{j + 1}_m": float(pipe[j, 0]),
                f"fitting_loss_{i}_leg_{j + 1}_m": float(fittings[j, 0]),
            }
    return answers


def _pump(given: Inputs) -> PumpCurve:
    points = given["points"]
    curve = PumpCurve(
        tuple(point["flow_m3s"] for point in points), tuple(point["head_m"] for point in points)
    )
    return arranged(at_speed(curve, given["speed_ratio"]), given["arrangement"], given["count"])


def pump_curve(given: Inputs) -> Answers:
    """Whether each flow lies on the curve, and the head there."""
    curve = _pump(given["pump"])
    answers: Answers = {}
    for i, flow in enumerate(given["flows_m3s"], 1):
        answers[f"within_curve_{i}"] = curve.covers(flow)
        if curve.covers(flow):
            answers[f"head_{i}_m"] = curve.head_at(flow)
    return answers


def operating_point_case(given: Inputs) -> Answers:
    """Status, every crossing and the margins of each pump on the route."""
    system = _system(given["route"])
    answers: Answers = {}
    for pump in given["pumps"]:
        curve, name = _pump(pump), pump["id"]
        found = operating_point(curve, system)
        answers |= {
            f"{name}_status": found.status,
            f"{name}_crossings": len(found.crossings),
            f"{name}_shutoff_margin_m": found.shutoff_margin_m,
            f"{name}_end_margin_m": found.end_margin_m,
        }
        for k, crossing in enumerate(found.crossings, 1):
            answers[f"{name}_crossing_{k}_flow_m3s"] = crossing.flow_m3s
            answers[f"{name}_crossing_{k}_head_m"] = crossing.head_m
            answers[f"{name}_crossing_{k}_stable"] = crossing.stable
        if found.point:
            answers |= {
                f"{name}_flow_m3s": found.point.flow_m3s,
                f"{name}_head_m": found.point.head_m,
            }
        if given["wanted_flow_m3s"] is not None:
            plain = _pump(pump | {"speed_ratio": 1.0})
            answers[f"{name}_speed_ratio_for_wanted_flow"] = speed_for_flow(
                plain, system, given["wanted_flow_m3s"]
            )
    return answers


def power_family(given: Inputs) -> Answers:
    """Power, energy and volume of a working point."""
    density = water(given["temperature_c"]).density_kg_m3
    found = power(
        density_kg_m3=density,
        **{key: value for key, value in given.items() if key != "temperature_c"},
    )
    return dict(vars(found))


def suction_family(given: Inputs) -> Answers:
    """NPSH and the greatest lift."""
    here = water(given["temperature_c"])
    legs = tuple(Leg(**leg, end_elevation_m=0.0) for leg in given["legs"])
    pipe, fittings = SystemCurve(Route(legs, start_level_m=0.0), here).losses_m(given["flow_m3s"])
    keys = (
        "altitude_m",
        "level_above_pump_m",
        "surface_pressure_pa",
        "npsh_required_m",
        "wanted_margin_m",
    )
    found = suction(
        water=here,
        suction_loss_m=float((pipe + fittings).sum()),
        **{key: given[key] for key in keys},
    )
    return dict(vars(found))


def force_main_family(given: Inputs) -> Answers:
    """Speed, retention time, longest run and highest lift of one main."""
    here = water(given["temperature_c"])
    return dict(
        vars(
            force_main(
                water=here, **{key: value for key, value in given.items() if key != "temperature_c"}
            )
        )
    )


def sensitivity(given: Inputs) -> Answers:
    """The operating flow, and by how many per cent it moves with one per cent of an input."""
    route, pump, step = given["route"], given["pump"], given["step"]

    def flow(route: Inputs = route, head: float = 1.0, speed: float = 1.0) -> float:
        point = operating_point(
            _pump(pump | {"speed_ratio": pump["speed_ratio"] * speed}).scaled(1.0, head, 1.0),
            _system(route),
        ).point
        assert point is not None  # the cases all operate
        return point.flow_m3s

    base = flow()

    def elasticity(at: Callable[[float], float]) -> float:
        moved: float = at(1 + step) - at(1 - step)
        return moved / (2 * float(step) * base)

    def of_leg(index: int, key: str) -> float:
        def at(factor: float) -> float:
            legs = [
                leg | {key: leg[key] * factor} if number == index else leg
                for number, leg in enumerate(route["legs"])
            ]
            return flow({**route, "legs": legs})

        return elasticity(at)

    def lifted(factor: float) -> float:
        start = route["start_level_m"]
        return flow(
            {
                **route,
                "legs": [
                    leg | {"end_elevation_m": start + (leg["end_elevation_m"] - start) * factor}
                    for leg in route["legs"]
                ],
            }
        )

    def of_route(key: str) -> float:
        return elasticity(lambda factor: flow({**route, key: route[key] * factor}))

    answers: Answers = {"base_flow_m3s": base}
    for index in range(len(route["legs"])):
        for name, key in (
            ("inside_diameter", "inside_diameter_m"),
            ("length", "length_m"),
            ("roughness", "roughness_m"),
            ("k_sum", "k_sum"),
        ):
            answers[f"elasticity_leg_{index + 1}_{name}"] = of_leg(index, key)
    answers["elasticity_pump_head"] = elasticity(lambda factor: flow(head=factor))
    answers["elasticity_pump_speed"] = elasticity(lambda factor: flow(speed=factor))
    if not route["closed_loop"]:
        answers["elasticity_static_lift"] = elasticity(lifted)
    answers |= {
        f"elasticity_{name}": of_route(f"{name}_pa")
        for name in ("delivery_pressure", "supply_pressure")
        if route[f"{name}_pa"]
    }
    return answers


FAMILIES: dict[str, Callable[[Inputs], Answers]] = {
    "water_properties": water_properties,
    "pipe_friction": pipe_friction,
    "unit_reading": unit_reading,
    "route_head": route_head,
    "pump_curve": pump_curve,
    "operating_point": operating_point_case,
    "power": power_family,
    "suction": suction_family,
    "force_main": force_main_family,
    "sensitivity": sensitivity,
}
