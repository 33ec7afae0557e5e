"""Whether the water reaches the pump without boiling."""

from __future__ import annotations

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, Site, alone, state_of
from sizing.hydraulics.friction import Array
from sizing.operating_point.npsh import Suction, suction
from sizing.selection.limit import Npsh, npsh_margin_m, npsh_states

_CELLS = 257  # flows at which the loss of the suction is solved; straight lines between them


def npsh_limit(site: Site, pump_level_m: float, altitude_m: float) -> Npsh:
    """NPSH as a limit that every pump is tried against."""
    route, system = site.system.route, site.system
    at_rest = suction(
        water=system.water,
        altitude_m=altitude_m,
        level_above_pump_m=route.start_level_m - pump_level_m,
        suction_loss_m=0.0,
        surface_pressure_pa=route.supply_pressure_pa,
    ).npsh_available_m

    def available_m(flow_m3s: Array) -> Array:
        grid = float(flow_m3s.max(initial=1e-9)) * np.linspace(0.0, 1.0, _CELLS) ** 2
        return at_rest - np.interp(flow_m3s, grid, system.suction_losses_m(grid))

    return Npsh(available_m, site.rules)


@alone("NPSH and cavitation")
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
        return _not_stated(running, found, working)
    rules, available = running.rules, np.array([found.npsh_available_m])
    wanted = float(npsh_margin_m(required, rules))
    return Check(
        code="suction",
        label="Suction",
        state=state_of(lambda figure: npsh_states(available, figure, rules), required),
        message=message(
            "The water has {available} left where the pump wants {required}: {margin} to spare;"
            " {wanted} is wanted (rules NPSH-01 and NPSH-03).",
            available=Measure(found.npsh_available_m, "length"),
            required=Measure(required, "length"),
            margin=Measure(found.npsh_margin_m, "length"),
            wanted=Measure(wanted, "length"),
        ),
        remedy="Set the pump lower, widen or shorten the suction, or take a pump that wants less.",
        working=working,
        weight="must",
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


def _not_stated(running: Running, found: Suction, working: Working) -> Check:
    """The maker is silent: watched unless so much is left that no usual pump wants more."""
    available = np.array([found.npsh_available_m])
    return Check(
        code="suction",
        label="Suction",
        state=state_of(lambda figure: npsh_states(available, figure, running.rules), np.nan),
        weight="must",
        message=message(
            "{available} is there; the maker does not say what the pump wants. Ask for its NPSH.",
            available=Measure(found.npsh_available_m, "length"),
        ),
        remedy="Without the maker's figure, keep the pump below the water.",
        working=working,
    )
