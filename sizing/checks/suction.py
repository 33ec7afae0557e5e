"""Whether the water reaches the pump without boiling."""

from __future__ import annotations

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, state
from sizing.operating_point.npsh import Suction, suction


def suction_check(running: Running, pump_level_m: float, altitude_m: float) -> Check:
    """Whether the water reaches the pump without boiling.

    NPSH available against what the pump wants.
    """
    route, system = running.system.route, running.system
    loss = system.suction_loss_m(running.flow_m3s)
    required = running.curve.npsh_required_at(running.flow_m3s)
    found = suction(
        water=system.water,
        altitude_m=altitude_m,
        level_above_pump_m=route.start_level_m - pump_level_m,
        suction_loss_m=loss,
        surface_pressure_pa=route.supply_pressure_pa,
        npsh_required_m=required,
        wanted_margin_m=running.rules.value("NPSH-03"),
    )
    head = system.water.head_m(route.supply_pressure_pa)
    working = _working(found, head, route.start_level_m - pump_level_m, loss)
    if required is None or found.npsh_margin_m is None:
        return _not_stated(found, working)
    return Check(
        code="suction",
        label="Suction",
        state=state(found.npsh_margin_m >= running.rules.value("NPSH-03"), found.npsh_margin_m > 0),
        message=message(
            "The water has {available} left where the pump wants {required}: {margin} to spare;"
            " {wanted} is wanted (rule NPSH-03).",
            available=Measure(found.npsh_available_m, "length"),
            required=Measure(required, "length"),
            margin=Measure(found.npsh_margin_m, "length"),
            wanted=Measure(running.rules.value("NPSH-03"), "length"),
        ),
        remedy="Set the pump lower, widen or shorten the suction, or take a pump that wants less.",
        working=working,
    )


def _working(found: Suction, pressure_m: float, over_pump_m: float, loss_m: float) -> Working:
    return Working(
        "NPSH available",
        "air − vapour + pressure + level − loss",
        (
            ("air", Measure(found.atmospheric_head_m, "length")),
            ("vapour", Measure(found.vapour_head_m, "length")),
            ("pressure at the start", Measure(pressure_m, "length")),
            ("water over the pump", Measure(over_pump_m, "length")),
            ("suction loss", Measure(loss_m, "length")),
        ),
        Measure(found.npsh_available_m, "length"),
        "HI 9.6.1",
    )


def _not_stated(found: Suction, working: Working) -> Check:
    """The maker is silent: watched where the water gets there at all."""
    return Check(
        code="suction",
        label="Suction",
        state=state(False, found.npsh_available_m > 0),
        message=message(
            "{available} is there; the maker does not say what the pump wants. Ask for its NPSH.",
            available=Measure(found.npsh_available_m, "length"),
        ),
        remedy="Without the maker's figure, keep the pump below the water.",
        working=working,
    )
