"""What must hold for the pump of a pond, a fall or a fountain."""

from __future__ import annotations

import math

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.base.water import GRAVITY_M_S2
from sizing.checks.base import Check, Running, alone, state
from sizing.demand.openings import weir
from sizing.document.answers import Facts

FRANCIS_M05_S = 1.84  # sharp crest, full width (Francis; rule PND-06)
# Broad or rough lips: discharge coefficient 0.55 to 0.62 (rule PND-06).
_ROUGH_M05_S = 0.58 * 2 / 3 * math.sqrt(2 * GRAVITY_M_S2)


_TOO_THIN, _TOO_THICK = 0.5, 2.0  # of a light and of a heavy sheet: beyond, it is none


def crest_m05_s(facts: Facts) -> float:
    """The weir's constant: sharp steel, or a rough lip that gives less."""
    return _ROUGH_M05_S if facts.choice("lip") == "rough" else FRANCIS_M05_S


@alone("the static head from the surface")
def static_check(running: Running) -> Check:
    """Measured from the surface, or from the pump.

    What the difference would have cost (rule PND-07).
    """
    depth = running.facts.si("pump_depth")
    share = depth / max(running.ledger.total_head_m, 1e-6)
    text = message(
        "Reckoned from the surface. From the pump it would be {depth} more, {share} of the head:"
        " that height costs nothing (rule PND-07).",
        depth=Measure(depth, "length"),
        share=Measure(share, "ratio"),
    )
    return Check("static", "Height from the surface", "hold", text, weight="note")


@alone("the sheet of water")
def sheet_checks(running: Running) -> list[Check]:
    """What the weir will look like at the flow that really runs."""
    facts, rules = running.facts, running.rules
    width = facts.optional("weir_width")
    if width is None:
        return []
    found = weir(width, crest_m05_s(facts), flow_m3s=running.flow_m3s)
    light, heavy = rules.value("PND-03"), rules.value("PND-05")
    thin, thick = _TOO_THIN * light, _TOO_THICK * heavy
    words = (
        "thinner than a light sheet"
        if found.flow_per_width_m2s < light
        else (
            "heavier than a heavy sheet"
            if found.flow_per_width_m2s > heavy
            else "a sheet between light and heavy"
        )
    )
    text = message(
        "At the flow that really runs {head} of water stand over the crest, {each}: "
        + words
        + " (rules PND-03 to PND-05).",
        head=Measure(found.head_m, "bore"),
        each=Measure(found.flow_per_width_m2s, "sheet"),
    )
    inputs = (
        ("flow Q", Measure(running.flow_m3s, "flow")),
        ("width b", Measure(width, "length")),
        ("C", f"{crest_m05_s(facts):.2f} m^0.5/s"),
    )
    working = Working(
        "Water over the crest",
        "(Q / (C b))^(2/3)",
        inputs,
        Measure(found.head_m, "bore"),
        "Francis, turned round",
    )
    ok = light <= found.flow_per_width_m2s <= heavy
    return [
        Check(
            code="sheet",
            label="Sheet over the weir",
            state=state(ok, bool(thin <= found.flow_per_width_m2s <= thick)),
            message=text,
            remedy=(
                "A narrower weir thickens the sheet, a wider one thins it; or turn the pump down."
            ),
            working=working,
        )
    ]


@alone("the jets")
def jet_checks(running: Running) -> list[Check]:
    """How high the jets rise at the flow that really runs."""
    nozzles = next((one for one in running.system.route.devices if one.name == "nozzles"), None)
    if nozzles is None:
        return []
    share = running.rules.value("PND-08")
    rises = share * float(nozzles.loss_m(np.array(running.flow_m3s)))
    return [
        Check(
            "jets",
            "Height of the jets",
            "hold",
            message(
                "At the flow that runs they rise to about {rises}; {wanted} is wanted (rule"
                " PND-08).",
                rises=Measure(rises, "length"),
                wanted=Measure(share * nozzles.rated_head_m, "length"),
            ),
            "Wind carries a jet away over half its height: keep the basin twice as wide as it is"
            " high, or fit a wind sensor.",
            weight="note",
            about="site",
        )
    ]
