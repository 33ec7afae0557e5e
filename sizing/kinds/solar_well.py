"""A solar well: water by the day, from a borehole into a tank, without a grid."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from sizing.base.message import Measure, Working, message
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks import well
from sizing.checks.base import Check, Running, state
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.sun import MONTHS, day_profile_w_m2, solar_day, sun_hours_h
from sizing.document.answers import Answers, Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import ListRow
from sizing.kinds.asking import STATED, flow_from, leg, margin, stated_flow
from sizing.kinds.base import Kind, Place, Situation
from sizing.kinds.borehole import SITE_QUESTIONS, WATER_QUESTIONS, fits_the_well, well_place
from sizing.operating_point.one import operating_point
from sizing.pump.curve import at_speed
from sizing.selection.requirement import AtLeast, AtMost, FamilyIn
from sizing.selection.sweep import Wanted

_SPEEDS = tuple(np.linspace(0.3, 1.0, 15).tolist())


def profile_w_m2(facts: Facts, row: Answers, month: int) -> list[float]:
    """The month's mean day on the panels, scaled to the sun that was answered for it."""
    profile = day_profile_w_m2(facts.si("latitude"), facts.si("tilt"), month, facts.si("clearness"))
    told = row.optional("sun")
    share = 1.0 if told is None else told / SECONDS_PER_HOUR / sun_hours_h(profile)
    return [share * value for value in profile]


def need_m3(facts: Facts, row: Answers) -> float:
    """What a day of the month needs: its own figure, else that of the whole year."""
    own = row.optional("need")
    return facts.si("daily_need") if own is None else own


def _by_months(facts: Facts, rules: Rules) -> Working:
    flows = []
    for month, row in enumerate(facts.rows("months"), 1):
        need, hours = need_m3(facts, row), sun_hours_h(profile_w_m2(facts, row, month))
        flows.append((need / (hours * SECONDS_PER_HOUR), month, need, hours))
    flow, month, need, hours = max(flows)
    inputs = (
        ("hardest month", MONTHS[month - 1]),
        ("a day's need", Measure(need, "volume")),
        ("hours of full sun", Measure(hours * SECONDS_PER_HOUR, "time")),
    )
    return Working(
        "Hardest month",
        "day's need / hours of full sun",
        inputs,
        Measure(flow, "flow"),
        "sun by latitude and clearness, or as told by month",
    )


METHODS = (
    FlowMethod(
        "months",
        "hardest month",
        _by_months,
        "A first figure: hours of weak sun pump less than their share. Proof counts every hour.",
    ),
    STATED,
)
QUESTIONS = (
    *WATER_QUESTIONS,
    Question(
        key="daily_need",
        label="Water wanted a day",
        stage="flow",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.001,
        high=2000.0,
        usual=(0.3, 60.0),
        help="In a month that has no figure of its own.",
    ),
    Question(
        key="latitude",
        label="Latitude",
        stage="flow",
        dimension="angle",
        low=-66.0,
        high=66.0,
        help="South is minus. Beyond the polar circles give the sun by month.",
    ),
    Question(
        key="tilt",
        label="Tilt of the panels",
        stage="flow",
        dimension="angle",
        low=0.0,
        high=90.0,
        usual=(5, 75),
        default="35 deg",
        source="facing the equator, about the latitude",
    ),
    Question(
        key="clearness",
        label="Clearness of the sky",
        stage="flow",
        dimension="ratio",
        low=0.1,
        high=0.8,
        usual=(0.3, 0.7),
        default="45 %",
        source="temperate places; 30 % dull winters, 65 % dry lands",
        help="Share of the sun outside the air that reaches the ground.",
    ),
    stated_flow("Stated flow in full sun", (1e-4, 3e-3)),
    flow_from(METHODS),
    margin("1.0 ×", "the tank carries dull days"),
    *SITE_QUESTIONS[1:3],
    SITE_QUESTIONS[0],
    *SITE_QUESTIONS[3:],
    Question(
        key="tank",
        label="Tank at the end holds",
        stage="run",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.01,
        high=5000.0,
        usual=(1.0, 200.0),
        optional=True,
    ),
    Question(
        key="panels",
        label="Panels",
        stage="pump",
        dimension="count",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=400.0,
        usual=(1, 40),
        default="6 ×",
        source="to be chosen with the pump",
    ),
    Question(
        key="panel_power",
        label="Each is rated",
        stage="pump",
        dimension="power",
        low=5.0,
        high=1000.0,
        usual=(50, 600),
        default="400 W",
        source="usual module",
    ),
    Question(
        key="start_share",
        label="Pump starts at",
        stage="pump",
        dimension="ratio",
        low=0.01,
        high=0.9,
        usual=(0.05, 0.3),
        default="10 %",
        source="of its full power; ask the maker",
    ),
)
LISTS = (
    List(
        key="months",
        label="Months",
        stage="flow",
        columns=(
            Question(
                key="need",
                label="Need a day",
                stage="flow",
                dimension="volume",
                metric_unit="l",
                us_unit="gal",
                low=0.0,
                high=2000.0,
                optional=True,
            ),
            Question(
                key="sun",
                label="Hours of full sun",
                stage="flow",
                dimension="time",
                metric_unit="h",
                us_unit="h",
                low=360.0,
                high=12 * SECONDS_PER_HOUR,
                usual=(1800, 8 * SECONDS_PER_HOUR),
                optional=True,
            ),
        ),
        first=tuple(ListRow(id=f"m{number}") for number in range(1, 13)),
        fixed=True,
        names=MONTHS,
        help=(
            "Left away: the need of the year, and the sun by latitude. Hours of full sun are kWh/m²"
            " a day on the panels."
        ),
    ),
)


class SolarWell(Kind):
    code = "solar_well"
    label = "solar well"
    purpose = "Water by the day from a borehole into a tank, by the sun alone."
    datum = "the ground at the well (below it is minus)"
    questions = QUESTIONS
    lists = LISTS
    methods = METHODS
    hint = MissingFact("answers.daily_need", "what is wanted a day, and the latitude", "flow")
    default_legs = (
        leg("a", "riser", "40 mm", ("check_spring_inline", 1), series="pe100_sdr11"),
        leg(
            "b",
            "line to the tank",
            "40 mm",
            ("elbow_90_glued", 2),
            ("exit", 1),
            series="pe100_sdr11",
        ),
    )
    cautions = (
        (
            "Panels in daylight are live and cannot be switched off: cover them or part the string"
            " under no load before any work; direct current arcs."
        ),
        (
            "Earth the array and the well head, with surge protection on both ends of the cable; a"
            " licensed electrician makes the connection."
        ),
        (
            "Drinking water: certified materials, a sealed well head and a covered tank; disinfect"
            " the well after every opening and test the water."
        ),
        "A fire reserve is kept below its own outlet, so that taps cannot drain it.",
        (
            "Wells need permits, a licensed driller and distances from septic fields; local codes"
            " come first and override this sizing."
        ),
    )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        return Ends(
            -facts.si("static_level"),
            drawdown_s_m2=facts.si("test_drawdown") / facts.si("tested_yield"),
        )

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("solar",)

    def wanted(self, facts: Facts, demand: Demand, rules: Rules) -> Wanted:
        array_w = facts.si("panels") * facts.si("panel_power") * rules.value("SOL-01")
        return Wanted(
            demand.needed_m3s,
            (
                FamilyIn(self.families(facts)),
                *fits_the_well(facts),
                AtLeast(
                    "hottest_c",
                    facts.si("water_temperature"),
                    "temperature",
                    "not for water so hot",
                    "for water to {has}; this is {wanted}",
                ),
                AtMost(
                    "motor_power_w",
                    array_w,
                    "power",
                    "needs more panels",
                    "its motor takes {has}; the panels bring {wanted} in full sun",
                ),
            ),
            life_years=rules.value("CHO-07"),
            discount_rate=rules.value("CHO-10"),
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        return well_place(facts)

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("drinking") == "yes" else "clean", "well", "tank", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        found = [*well.checks(running), _months(running)]
        return [*found, *_tank(running)]

    def stage_summary(self, facts: Facts) -> str:
        return "drinking water" if facts.choice("drinking") == "yes" else "well water"


def power_to_flow(running: Running) -> list[tuple[float, float]]:
    """Flow on this site over input power [W], at speeds up to the catalogue's.

    By the affinity laws.
    """
    table = []
    for speed in _SPEEDS:
        curve = at_speed(running.curve, speed)
        point = operating_point(curve, running.system).point
        power = curve.power_at(point.flow_m3s) if point else curve.power_at(curve.flows_m3s[0])
        if power is not None:
            table.append((power, point.flow_m3s if point else 0.0))
    return sorted(set(table))


def _months(running: Running) -> Check:
    """Litres a day of every month, hour by hour, against the need."""
    facts, label = running.facts, "Water by month"
    table = power_to_flow(running)
    if not table:
        return Check(
            "months",
            label,
            "watch",
            message("The maker gives no input power: a day's water cannot be worked out."),
            "Ask the maker for power over flow.",
        )
    array_w = facts.si("panels") * facts.si("panel_power")
    full_w = table[-1][0]
    parts: list[str] = []
    values: dict[str, Measure] = {}
    worst = math.inf
    for month, row in enumerate(facts.rows("months"), 1):
        day = solar_day(
            profile_w_m2(facts, row, month),
            panel_peak_w=array_w,
            derating=running.rules.value("SOL-01"),
            maximum_power_w=full_w,
            start_power_w=facts.si("start_share") * full_w,
            model="flow_table",
            table=table,
        )
        need = need_m3(facts, row)
        worst = min(worst, day.daily_volume_m3 / need if need else math.inf)
        parts.append(f"{MONTHS[month - 1][:3]} {{g{month}}} of {{n{month}}}")
        values |= {
            f"g{month}": Measure(day.daily_volume_m3, "volume"),
            f"n{month}": Measure(need, "volume"),
        }
    text = message("A mean day gives: " + "; ".join(parts) + ".", **values)
    inputs = (
        ("panels", Measure(array_w, "power")),
        ("share that arrives", Measure(running.rules.value("SOL-01"), "ratio")),
        ("pump at full speed", Measure(full_w, "power")),
        ("the worst month gives, of its need", Measure(worst, "ratio")),
    )
    working = Working(
        "A day of the month",
        "hour by hour: sun × panels × share → speed → flow on this site",
        inputs,
        Measure(worst, "ratio"),
        "affinity laws; sun by Liu and Jordan 1963, clearness by Page 1961",
    )
    remedy = (
        "More panels where the pump has speed to spare, else a stronger pump, a larger tank, or"
        " less water in that month."
    )
    return Check(
        code="months",
        label=label,
        state=state(worst >= 1, worst >= running.rules.value("CHO-01")),
        message=text,
        remedy=remedy,
        working=working,
    )


def _tank(running: Running) -> list[Check]:
    facts = running.facts
    need = max(need_m3(facts, row) for row in facts.rows("months"))
    if facts.optional("tank") is None or not need:
        return []
    days, wanted = facts.si("tank") / need, running.rules.value("SOL-02")
    text = message(
        "The tank lasts {days} days at the largest need; {wanted} carry a row of dull days (rule"
        " SOL-02).",
        days=f"{days:.1f}",
        wanted=f"{wanted:g}",
    )
    inputs = (
        ("tank", Measure(facts.si("tank"), "volume")),
        ("largest need a day", Measure(need, "volume")),
    )
    working = Working(
        "Days without sun", "tank / a day's need", inputs, Measure(days, "factor"), "continuity"
    )
    found = state(days >= wanted, days >= running.rules.low("SOL-02"))
    return [
        Check(
            code="tank_days",
            label="Days in the tank",
            state=found,
            message=text,
            remedy="Take a larger tank: it is cheaper than panels for the darkest week.",
            working=working,
        )
    ]


KIND = SolarWell()
