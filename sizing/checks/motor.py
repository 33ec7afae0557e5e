"""Whether the motor carries what the pump asks of it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.checks.base import Check, Running, alone, state_of
from sizing.pump.power import hydraulic_power_w
from sizing.selection.limit import (
    AIR_COOLED,
    cooled_share,
    load_states,
    loads,
    motor_efficiency,
    way_there,
)


@alone("the motor load")
def motor_check(running: Running) -> Iterator[Check]:
    """The worst load on the way to the flow it runs at; nothing where no rating is stated."""
    rated, curve, rules = running.pump.pump.motor_power_w, running.curve, running.rules
    if rated is None or curve.powers_w is None:
        return
    flows = way_there(np.array([curve.flows_m3s[0]]), np.array([running.flow_m3s]))
    powers = [curve.power_at(float(flow[0])) for flow in flows]
    power = max((one for one in powers if one is not None), default=None)
    if power is None:
        return
    density = running.system.water.density_kg_m3
    altitude_m = running.facts.altitude_m
    dry = running.pump.pump.family in AIR_COOLED
    thin = cooled_share(altitude_m, rules) if dry else 1.0
    bears_w = rated * running.running * thin
    load = float(loads(np.array([power]), np.array([bears_w]), density, rules)[0])
    most = rules.value("MOT-08")
    share = float(motor_efficiency(np.array(rated), rules))
    hydraulic_w = hydraulic_power_w(running.flow_m3s, running.operating_head_m, density)
    yield Check(
        code="motor",
        label="Load of the motor",
        state=state_of(lambda figure: load_states(figure, rules), load),
        message=message(
            "At its worst on the way from no flow it takes {power}; {share} of that at the shaft"
            " (rule MOT-07) is {load} of the motor's {rated}. Up to {most} is borne (rule MOT-08)."
            + (
                " At {altitude} over the sea thin air cools it less: {thin} of its rating counts"
                " (rule ELE-14)."
                if thin < 1.0
                else ""
            ),
            altitude=Measure(altitude_m, "length", 0),
            thin=Measure(thin, "ratio"),
            power=Measure(power, "power"),
            share=Measure(share, "ratio"),
            load=Measure(load, "ratio"),
            rated=Measure(rated, "power"),
            most=Measure(most, "ratio"),
        ),
        remedy="Take a pump with a larger motor, or throttle it where its curve takes less.",
        working=Working(
            "Load of the motor",
            "input × efficiency of the motor × density / rating",
            (
                ("the water takes up", Measure(hydraulic_w, "power")),
                ("input", Measure(power, "power")),
                ("at the shaft", Measure(power * share, "power")),
                ("efficiency of the motor", Measure(share, "ratio")),
                ("motor rated", Measure(rated, "power")),
            ),
            Measure(load, "ratio"),
            "rules MOT-07 and MOT-08",
        ),
        weight="must",
    )
