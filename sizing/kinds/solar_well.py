"""A solar well: water by the day, from a borehole into a tank, without a grid."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.base.message import Filling, Measure, Message, Working, message
from sizing.base.rounding import at_least
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_HOUR
from sizing.checks import well
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.checks.velocity import Speeds
from sizing.demand.method import Demand, FlowMethod
from sizing.demand.sun import MONTHS, sun_hours_h
from sizing.document.answers import Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import ListRow
from sizing.kinds.base import Kind, Place, Situation
from sizing.kinds.borehole import SITE_QUESTIONS, WATER_QUESTIONS, fits_the_well, well_place
from sizing.kinds.common_questions import STATED, flow_from, leg, margin, stated_flow
from sizing.kinds.demands import QUESTIONS as DEMANDS
from sizing.kinds.demands import demands
from sizing.kinds.solar_days import (
    ServedBySun,
    need_m3,
    power_to_flow,
    profile_w_m2,
    solar_days,
)
from sizing.selection.limit import Limit
from sizing.selection.requirement import AtLeast, FamilyIn, PowerStated, StillMade
from sizing.selection.sweep import Wanted


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
        dimension="latitude",
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
    *DEMANDS,
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
    speeds = Speeds("VEL-13", "is usual in a drop pipe")
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
    usual_legs = ((41.0, -1.0), (80.0, 6.0))
    sizes = ("solar",)
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
            first_leg_from_m=-facts.si("pump_setting"),
        )

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("solar",)

    def wanted(self, facts: Facts, demand: Demand, rules: Rules) -> Wanted:
        return Wanted(
            demand.needed_m3s,
            (
                FamilyIn(self.families(facts)),
                StillMade(),
                PowerStated(),
                *fits_the_well(facts),
                AtLeast(
                    "hottest_c",
                    facts.si("water_temperature"),
                    "temperature",
                    "not for water so hot",
                    "for water to {has}; this is {wanted}",
                    "how hot the water may be",
                ),
                *demands(facts, rules, facts.running_pumps),
            ),
            life_years=rules.value("CHO-07"),
            discount_rate=rules.value("CHO-10"),
            served=ServedBySun(solar_days(facts, rules)),
            needs_word="water in its hardest month",
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        return well_place(facts)

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("drinking") == "yes" else "clean", "well", "tank", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *well.checks(running, "on_curve", "least_flow", "reserve", "starts_against"),
            *well.drawn_checks(running, running.system),
            _months(running),
            *_tank(running),
        ]

    def limits(self, site: Site) -> tuple[Limit, ...]:
        return (*super().limits(site), *well.limits(site, site.system))

    def site_checks(self, site: Site) -> Sequence[Check]:
        return [*super().site_checks(site), *well.site_checks(site)]

    def stage_summary(self, facts: Facts) -> str:
        return "drinking water" if facts.choice("drinking") == "yes" else "well water"


@alone("the water by month")
def _months(running: Running) -> Check:
    """Litres a day of every month, hour by hour, against the need."""
    label, days = "Water by month", solar_days(running.facts, running.rules)
    table = power_to_flow([running.pump.pump], running.system)[0]
    if not table:
        return Check(
            "months",
            label,
            "watch",
            message("The maker gives no input power: a day's water cannot be worked out."),
            "Ask the maker for power over flow.",
            weight="must",
        )
    (worst, hardest), given = days.served(table), days.volumes_m3(table).tolist()
    panels = days.panels_needed(table, running.facts.si("panel_power"))
    parts: list[str] = []
    values: dict[str, Filling] = {}
    for month, (volume, need) in enumerate(zip(given, days.needs_m3, strict=True), 1):
        parts.append(f"{MONTHS[month - 1][:3]} {{g{month}}} of {{n{month}}}")
        values |= {
            f"g{month}": Measure(volume, "volume"),
            f"n{month}": Measure(need, "volume"),
        }
    short = ""
    if not at_least(worst, 1.0):
        values |= {"short": Measure(1.0 - worst, "ratio", 1), "hardest": MONTHS[hardest]}
        short = " {short} short in {hardest}."
        if panels is not None:
            values |= {
                "panels": panels,
                "each": Measure(running.facts.si("panel_power"), "power", 0),
            }
            short += " {panels} panels of {each} would do."
    inputs = (
        ("panels", Measure(days.array_w, "power", 0)),
        ("share that arrives", Measure(days.share_that_arrives, "ratio")),
        ("pump at full speed", Measure(table[-1][0], "power")),
        ("the well gives", Measure(days.yield_m3s, "flow")),
        ("the worst month gives, of its need", Measure(worst, "ratio")),
        ("panels that would do", "none" if panels is None else f"{panels}"),
    )
    working = Working(
        "A day of the month",
        "hour by hour: sun × panels × share → speed → flow on this site, at most the well's yield",
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
        state=state(
            bool(at_least(worst, 1.0)), bool(at_least(worst, running.rules.value("CHO-01")))
        ),
        message=Message("A mean day gives: " + "; ".join(parts) + "." + short, values),
        remedy=remedy,
        working=working,
        weight="must",
    )


@alone("the tank days")
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
            about="site",
        )
    ]


KIND = SolarWell()
