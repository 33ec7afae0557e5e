"""Whether a suction pipe draws air: the cover over its mouth at the flow that really runs."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.base.water import GRAVITY_M_S2
from sizing.checks.base import Check, Running, Site, alone, state_of
from sizing.hydraulics.friction import Array
from sizing.selection.limit import ByFlow, Limit, States, by_steps

_ENOUGH = 0.7  # of the wanted cover: watched down to it, fails under it


def cover_wanted_m(flow_m3s: Array | float, bore_m: float) -> Array:
    """Least cover over an intake [m]: S = D (1 + 2.3 F), F = V / sqrt(g D) (HI 9.8, rule HI-04)."""
    speed = np.asarray(flow_m3s) / (math.pi / 4.0 * bore_m**2)
    return np.asarray(bore_m * (1.0 + 2.3 * speed / math.sqrt(GRAVITY_M_S2 * bore_m)))


def _states(wanted_m: Array, cover_m: float) -> States:
    return by_steps(wanted_m <= cover_m * 1.001, _ENOUGH * wanted_m <= cover_m)


def intake_limits(site: Site) -> tuple[Limit, ...]:
    """No pump may draw so fast that air comes with the water; nothing where no cover is told."""
    cover = site.facts.optional("intake_cover")
    if cover is None or not site.system.route.suction_legs:
        return ()
    bore = site.system.route.legs[0].inside_diameter_m
    return (
        ByFlow(
            partial(cover_wanted_m, bore_m=bore),
            partial(_states, cover_m=cover),
            "would draw air: wants {figure} of water over the intake",
            "length",
            "would draw air at the intake",
        ),
    )


@alone("the submergence of the intake")
def intake_check(running: Running) -> Iterator[Check]:
    """The same of the pump that runs."""
    cover = running.facts.optional("intake_cover")
    if cover is None or not running.system.route.suction_legs:
        return
    bore = running.system.route.legs[0].inside_diameter_m
    wanted = float(cover_wanted_m(running.flow_m3s, bore))
    at_need = float(cover_wanted_m(running.demand.needed_m3s, bore))
    yield Check(
        code="intake",
        label="No air at the intake",
        state=state_of(partial(_states, cover_m=cover), wanted),
        message=message(
            "{cover} of water stand over the intake when the level is lowest; at this flow {wanted}"
            " keep air out (rule HI-04).",
            cover=Measure(cover, "length"),
            wanted=Measure(wanted, "length"),
        ),
        remedy="Set the intake lower, widen its mouth (a bell), or stop the pump earlier.",
        working=Working(
            "Least cover",
            "S = D (1 + 2.3 F), F = v / √(g D)",
            (
                ("bore of the mouth D", Measure(bore, "bore")),
                ("flow", Measure(running.flow_m3s, "flow")),
            ),
            Measure(wanted, "length"),
            "HI 9.8",
        ),
        weight="must",
        about="site" if _ENOUGH * at_need > cover else "pump",
    )
