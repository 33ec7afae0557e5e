"""What a well and a solar well share: questions of the site, the level drawn from, what fits."""

from __future__ import annotations

from sizing.base.rules import Rules
from sizing.document.answers import Choice, Facts, Question
from sizing.kinds.base import Level, Place
from sizing.kinds.common_questions import (
    YES_NO,
    temperature,
)
from sizing.pump.conductors import conductors
from sizing.selection.requirement import AtMost, DrinkingWater, Requirement
from sizing.storage.well import Draw, draw

WATER_QUESTIONS = (
    temperature("10 °C", "usual ground water of temperate places"),
    Question(
        key="drinking",
        label="Drinking water",
        stage="water",
        default="yes",
        choices=YES_NO,
        help="Then the pump must be listed for it, and the well disinfected after work.",
    ),
)


SITE_QUESTIONS = (
    Question(
        key="static_level",
        label="Depth to the standing water",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.0,
        high=600.0,
        usual=(2, 120),
        help="With the pump off, overnight.",
        is_level=True,
    ),
    Question(
        key="tested_yield",
        label="Tested yield",
        stage="flow",
        dimension="flow",
        low=1e-6,
        high=1.0,
        usual=(1e-4, 1e-2),
        help=(
            "Of a test that ran until the level stood still: 4 hours by some schools, 24 by others"
            " (rule WEL-08)."
        ),
    ),
    Question(
        key="test_drawdown",
        label="Fall of the level in the test",
        stage="flow",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=0.01,
        high=500.0,
        usual=(1, 60),
        help="At the tested yield. Each flow then has its own level.",
    ),
    Question(
        key="pump_setting",
        designed=True,
        label="Depth of the pump",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=1.0,
        high=800.0,
        usual=(10, 200),
    ),
    Question(
        key="well_depth",
        label="Depth of the well",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=2.0,
        high=1000.0,
        usual=(15, 250),
        is_level=True,
    ),
    Question(
        key="casing",
        label="Bore of the casing",
        stage="run",
        dimension="bore",
        low=0.05,
        high=1.5,
        usual=(0.1, 0.3),
        default="112 mm",
        source="usual casing of 125 mm (5 in)",
    ),
)


CABLE_QUESTIONS = (
    Question(
        key="cable_length",
        label="Cable from the panel to the motor",
        stage="proof",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=1.0,
        high=3000.0,
        usual=(10, 400),
        optional=True,
        help="One way. Left blank for a well: down to the pump.",
        in_doubt=False,
    ),
    Question(
        "cable_size",
        "Its conductors",
        "proof",
        default="any",
        choices=(
            Choice("any", "the thinnest that does"),
            *(Choice(one.size, one.size) for one in conductors()),
        ),
    ),
    Question(
        key="generator",
        label="It starts on a generator rated",
        stage="proof",
        dimension="power",
        low=100.0,
        high=1e6,
        usual=(1000, 50000),
        optional=True,
        in_doubt=False,
    ),
)


def drawn(facts: Facts, rules: Rules, wanted_flow_m3s: float) -> Draw:
    """What the well gives of a wanted flow."""
    return draw(
        wanted_flow_m3s=wanted_flow_m3s,
        tested_yield_m3s=facts.si("tested_yield"),
        specific_capacity_m2s=facts.si("tested_yield") / facts.si("test_drawdown"),
        static_level_m=facts.si("static_level"),
        pump_setting_m=facts.si("pump_setting"),
        minimum_cover_m=rules.low("WEL-14"),
    )


def fits_the_well(facts: Facts) -> tuple[Requirement, ...]:
    """A pump that goes into the casing, and is listed for drinking water where that is drawn."""
    slim = AtMost(
        "width_m",
        facts.si("casing") - 0.006,
        "size",
        "too thick for the casing",
        "{has} thick; the casing lets {wanted} through",
        "how thick it is",
    )
    return (slim, DrinkingWater()) if facts.choice("drinking") == "yes" else (slim,)


def well_place(facts: Facts) -> Place:
    """The borehole: its floor, the standing water and the ground."""
    levels = [
        Level("rim", "ground", 0.0),
        Level("static", "standing water", -facts.si("static_level"), "answers.static_level", -1),
    ]
    depth, setting = facts.optional("well_depth"), facts.optional("pump_setting")
    deepest = depth if depth is not None else (setting or facts.si("static_level")) * 1.05
    levels.append(Level("floor", "bottom of the well", -deepest))
    if setting is not None:
        levels.append(Level("stop", "pump", -setting, "answers.pump_setting", -1))
    return Place("well", facts.si("casing"), tuple(levels))
