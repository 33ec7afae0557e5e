"""A booster.

Pressure for the taps of a building, by every school of simultaneous demand side by side.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

from sizing.demand import fixtures
from sizing.errors import SizingError
from sizing.facts import Choice, Facts, List, MissingFact, Question
from sizing.job import Row
from sizing.kinds.asking import (
    STATED,
    YES_NO,
    by_people,
    flow_from,
    head_m,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.kinds.base import Check, Demand, Kind, Level, Place, Running, Situation, WayTo
from sizing.kinds.checks import pump_checks, state, suction_check, velocities
from sizing.requirement import DrinkingWater, Requirement
from sizing.rules import Rules
from sizing.run import Ends
from sizing.said import Measure, Working, said
from sizing.water import water

Counts = Mapping[str, float]
_UPGRADES = {"rain": "rain_shower", "jets": "jet_shower"}
_OUTLETS = (
    "shower",
    "rain_shower",
    "jet_shower",
    "basin",
    "bath",
    "wc",
    "wc_valve",
    "urinal_valve",
    "kitchen",
    "washer",
    "dishwasher",
    "hose",
)


def counts(facts: Facts) -> Counter[str]:
    """How many of each fixture the schedule holds, over all floors.

    Raises
    ------
    MissingFact
        No row has a count yet.
    """
    found: Counter[str] = Counter()
    for row in facts.rows("fixtures"):
        found[row.choice("fixture")] += round(row.optional("count") or 0)
    if not found.total():
        first = facts.rows("fixtures")
        raise MissingFact(
            first[0].path("count") if first else "lists.fixtures",
            "the schedule of fixtures",
            "flow",
        )
    return +found


def upgraded(now: Counts, upgrade: str) -> Counts:
    """The schedule with every plain shower made into something thirstier."""
    changed = Counter({code: round(count) for code, count in now.items() if code != "shower"})
    changed[_UPGRADES[upgrade]] += round(now.get("shower", 0))
    return changed


def _tank(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_curve("wsfu_ipc", "hunter_flush_tank", schedule)


def _valve(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_curve("wsfu_ipc", "hunter_flush_valve", schedule)


def _british(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_curve("lu_british", "british_loading_units", schedule)


def _european(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_curve("lu_en806", "en806_approx", schedule)


def _german(facts: Facts, schedule: Counts) -> float:
    return fixtures.din_1988_300(facts.choice("building"), schedule)


def _with_idle(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_probability(schedule, zero_truncated=False).demand_flow_m3s


def _running_only(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_probability(schedule, zero_truncated=True).demand_flow_m3s


# School: its label, the flow for a schedule, the units that go in, the formula, its source, where
# it goes wrong.
_School = tuple[str, Callable[[Facts, Counts], float], str, str, str, str]
SCHOOLS: dict[str, _School] = {
    "hunter_tank": (
        "Hunter, flush tanks",
        _tank,
        "wsfu_ipc",
        "curve of fixture units",
        "Hunter 1940; US code table E103.3",
        "Oversizes for water-saving fixtures, often by half and more; drawn for congested use.",
    ),
    "hunter_valve": (
        "Hunter, flush valves",
        _valve,
        "wsfu_ipc",
        "curve of fixture units",
        "Hunter 1940; US code table E103.3",
        "Only where toilets have flush valves; far too much without them.",
    ),
    "british": (
        "British loading units",
        _british,
        "lu_british",
        "curve of loading units",
        "British practice of 1987 to 2006",
        "Low confidence: read off a chart, ± 20 %. Oversizes today's dwellings.",
    ),
    "en806": (
        "EN 806-3",
        _european,
        "lu_en806",
        "0.118 LU^0.45",
        "a stand-in for the standard's figure",
        (
            "Low confidence: the curve is a stand-in within ± 20 %, not the standard's figure."
            " Homes; not for hotels at breakfast."
        ),
    ),
    "din1988": (
        "DIN 1988-300",
        _german,
        "flow_din1988_300",
        "a (ΣV_R)^b − c",
        "DIN 1988-300",
        (
            "By the kind of building. Runs low for a handful of fixtures in few flats; add whatever"
            " runs longer than 15 minutes."
        ),
    ),
    "statistical": (
        "99th percentile, some running",
        _running_only,
        "",
        "smallest flow not exceeded 99 times in 100, given one runs",
        "exact convolution; US code appendix M 2017",
        (
            "For water-saving fixtures in homes. Undersizes where all bathe at once: hotels,"
            " sports, dormitories."
        ),
    ),
    "statistical_idle": (
        "99th percentile, idle time too",
        _with_idle,
        "",
        "smallest flow not exceeded 99 times in 100",
        "exact convolution; US code appendix M 2017",
        "Counts the time when nothing runs: undersizes small groups.",
    ),
}
_REASONS = {
    "statistical": "it is exact for water-saving fixtures, with no old table in it",
    "din1988": "it knows the kind of building",
    "largest": "it is the safest of all schools, though mostly too much",
    "stated": "somebody answers for it",
    "hunter_tank": "a code asks for it; it oversizes water-saving fixtures",
    "hunter_valve": "flush valves govern",
    "british": "an older building is sized like its kind",
    "en806": "a code asks for it; the curve here is a stand-in",
    "per_head": "nothing better is known than the people",
    "statistical_idle": "with many fixtures idle time makes no odds",
}


def _by_school(code: str) -> Callable[[Facts, Rules], Working]:
    label, flow_of, units, formula, source, _ = SCHOOLS[code]

    def arrive(facts: Facts, rules: Rules) -> Working:
        schedule = counts(facts)
        flow = flow_of(facts, schedule)
        inputs: list[tuple[str, Measure | str]] = [
            (fixtures.fixture(one).label, f"{count:g}") for one, count in schedule.items()
        ]
        if units == "flow_din1988_300":
            inputs += [
                ("sum of calculation flows", Measure(fixtures.sum_of(units, schedule), "flow")),
                ("building", facts.choice("building")),
            ]
        elif units:
            inputs.append(("sum of units", f"{fixtures.sum_of(units, schedule):.1f}"))
        return Working(label, formula, tuple(inputs), Measure(flow, "flow"), source)

    return arrive


WAYS = (
    WayTo(
        "per_head",
        "per head",
        by_people,
        "Crude: blind to what is installed. Low for few people, high for many.",
        counts=False,
    ),
    *(
        WayTo(code, school[0], _by_school(code), school[5], counts=code != "hunter_valve")
        for code, school in SCHOOLS.items()
    ),
    STATED,
)
QUESTIONS = (
    temperature("12 °C", "cold water", usual=(4, 60)),
    Question("drinking", "Drinking water", "water", default="yes", choices=YES_NO),
    Question(
        "building",
        "Building",
        "flow",
        default="residential building",
        choices=tuple(Choice(name, name) for name in fixtures.din_buildings()),
        help="Asked by the German school only.",
    ),
    Question(
        "people", "People", "flow", "people", low=1.0, high=50000.0, usual=(2, 1000), optional=True
    ),
    Question(
        "volume_per_person",
        "Water a person and day",
        "flow",
        "volume",
        "l",
        "gal",
        low=0.01,
        high=1.0,
        usual=(0.08, 0.4),
        default="125 l",
        source="rule WEL-07",
        shown_when=("people", ()),
    ),
    Question(
        "peak_factor",
        "Peak over the day's mean",
        "flow",
        "ratio",
        "×",
        "×",
        low=1.0,
        high=60.0,
        usual=(5, 40),
        default="20 ×",
        source="small buildings peak sharply: frequency of use times how long a use lasts",
        shown_when=("people", ()),
    ),
    stated_flow("Stated peak flow", (2e-4, 2e-2)),
    flow_from(WAYS, "statistical"),
    margin("1.0 ×", "every school holds its own"),
    Question(
        "upgrade",
        "What if the showers become",
        "flow",
        default="none",
        choices=(
            Choice("none", "no change"),
            Choice("rain", "rain heads"),
            Choice("jets", "rain heads with three body jets"),
        ),
        help=(
            "Clients do this after the booster is fixed. Proof then shows flow and pressure before"
            " and after."
        ),
    ),
    Question(
        "supply_from",
        "It draws from",
        "run",
        default="main",
        choices=(
            Choice("main", "the main, under pressure"),
            Choice("tank", "a break tank"),
        ),
    ),
    Question(
        "supply_pressure",
        "Lowest pressure of the main",
        "run",
        "pressure",
        low=0.0,
        high=1.5e6,
        usual=(1e5, 5e5),
        shown_when=("supply_from", ("main",)),
        help="At the pump, in the worst hour, while the building draws.",
    ),
    Question(
        "tank_level",
        "Lowest water in the tank",
        "run",
        "length",
        "m",
        "ft",
        low=-10.0,
        high=100.0,
        usual=(-3, 5),
        shown_when=("supply_from", ("tank",)),
        help="Over the floor the pump stands on; minus for a tank below it.",
    ),
    Question(
        "worst_outlet",
        "Worst outlet is",
        "run",
        default="shower",
        choices=tuple(Choice(code, fixtures.fixture(code).label) for code in _OUTLETS),
        help="The highest and furthest, or the one that wants most pressure.",
    ),
    Question(
        "residual",
        "Pressure wanted there",
        "run",
        "pressure",
        low=0.0,
        high=1e6,
        usual=(5e4, 3e5),
        optional=True,
        help=(
            "Left away: what that kind of outlet usually wants (shown in Proof). The maker's figure"
            " goes first."
        ),
    ),
    Question(
        "lowest_outlet",
        "Lowest outlet",
        "run",
        "length",
        "m",
        "ft",
        low=-50.0,
        high=100.0,
        usual=(-4, 5),
        default="1 m",
        source="a tap on the pump's floor",
    ),
    Question(
        "floors",
        "Floors with outlets",
        "run",
        "count",
        "×",
        "×",
        low=1.0,
        high=60.0,
        usual=(2, 12),
        optional=True,
        help=(
            "Gives the pressure at each, and where a reducing valve is wanted. Counted from the"
            " lowest outlet up."
        ),
    ),
    Question(
        "storey",
        "Height of a storey",
        "run",
        "length",
        "m",
        "ft",
        low=2.0,
        high=10.0,
        usual=(2.5, 4.5),
        default="3 m",
        source="usual building",
        shown_when=("floors", ()),
    ),
    Question(
        "altitude",
        "Height over the sea",
        "run",
        "length",
        "m",
        "ft",
        low=-400.0,
        high=6000.0,
        usual=(0, 2500),
        default="300 m",
        source="air is thinner higher up: suction suffers",
    ),
    *supply(hours="1500 h", hours_source="a building that draws by day"),
)
FIXTURES = List(
    "fixtures",
    "Fixtures by floor",
    "flow",
    (
        Question("floor", "Floor", "flow"),
        Question(
            "fixture",
            "Fixture",
            "flow",
            default="shower",
            choices=tuple(Choice(one.code, one.label) for one in fixtures.fixtures().values()),
        ),
        Question(
            "count",
            "How many",
            "flow",
            "count",
            "×",
            "×",
            low=0.0,
            high=5000.0,
            usual=(1, 300),
            optional=True,
        ),
    ),
    first=tuple(
        Row(id=f"r{number}", cells={"fixture": code})
        for number, code in enumerate(("shower", "basin", "wc", "kitchen"), 1)
    ),
    help=(
        "How often each is used, and how long, decides how many run at once: that is what the"
        " schools differ about."
    ),
)


class Booster(Kind):
    code = "booster"
    label = "booster"
    purpose = "Pressure at the taps of a building that the main does not give."
    datum = "the floor the pump stands on"
    questions = QUESTIONS
    lists = (FIXTURES,)
    ways = WAYS
    hint = MissingFact(
        "lists.fixtures.r1.count", "the schedule of fixtures, or another way to the flow", "flow"
    )
    quiet = True
    default_legs = (
        leg("a", "suction", "63 mm", ("gate_valve", 1), ("elbow_90_glued", 2), side="suction"),
        leg(
            "b",
            "riser",
            "63 mm",
            ("check_spring_inline", 1),
            ("gate_valve", 1),
            ("elbow_90_glued", 3),
        ),
        leg(
            "c",
            "floor branch",
            "32 mm",
            ("tee_branch_threaded", 1),
            ("ball_valve_full", 1),
            ("elbow_90_glued", 6),
        ),
    )
    cautions = (
        (
            "Drinking water: backflow protection towards the main, certified materials, flush and"
            " disinfect before use. Water that stands grows legionella."
        ),
        (
            "A booster on a public main may draw it down and suck dirt in: many suppliers ask for a"
            " break tank or a low-pressure cut-out."
        ),
        (
            "Over 5.5 bar (80 psi) at a fixture most codes want a reducing valve; hot water systems"
            " want relief valves sized for the new pressure."
        ),
        (
            "Electricity and water: isolate and lock off before touching the pump; earth-fault"
            " protection; a licensed electrician makes the connection."
        ),
        (
            "One pump down is a building without water: one on duty and one as standby is the plain"
            " rule (BST-04)."
        ),
        (
            "Codes name the school to be used in many places; they and licensed trades come first"
            " and override this sizing."
        ),
    )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        return replace(demand, reason=_REASONS[demand.taken])

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        residual = self._residual(facts)
        if facts.choice("supply_from") == "main":
            return Ends(0.0, residual, head_m(facts, "supply_pressure"))
        return Ends(facts.si("tank_level"), residual)

    def _residual(self, facts: Facts) -> float:
        """Head wanted at the worst outlet [m]."""
        if facts.optional("residual") is not None:
            return head_m(facts, "residual")
        return water_head_m(facts, fixtures.fixture(facts.choice("worst_outlet")).residual_pa)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("booster",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        return (DrinkingWater(),) if facts.choice("drinking") == "yes" else ()

    def place(self, facts: Facts, rules: Rules) -> Place:
        floors = facts.optional("floors")
        storeys = (
            ()
            if floors is None
            else tuple(
                facts.si("lowest_outlet") - 1.0 + number * facts.si("storey")
                for number in range(round(floors) + 1)
            )
        )
        if facts.choice("supply_from") == "main":
            return Place(
                "main",
                0.1,
                (Level("floor", "floor", -0.5), Level("rim", "floor", 0.0)),
                0.0,
                "tap",
                storeys,
            )
        level = facts.si("tank_level")
        return Place(
            "tank",
            1.0,
            (
                Level("floor", "tank bottom", level - 0.4),
                Level("stop", "lowest water", level, "answers.tank_level"),
                Level("rim", "tank rim", level + 1.0),
            ),
            0.0,
            "tap",
            storeys,
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "drinking" if facts.choice("drinking") == "yes" else "clean", "beside", "taps", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        facts = running.facts
        return [
            *pump_checks(running),
            *velocities(running, "", "VEL-06", "keeps the pipe quiet", suction_fastest="VEL-02"),
            suction_check(running, 0.0, facts.si("altitude")),
            *_supply(running),
            _lowest(running),
            _outlet(running),
            *_upgrade(running),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return "drinking water" if facts.choice("drinking") == "yes" else "service water"


def water_head_m(facts: Facts, pressure_pa: float) -> float:
    """A pressure as a head of this job's water [m]."""
    return water(facts.si("water_temperature")).head_m(pressure_pa)


def _supply(running: Running) -> Iterator[Check]:
    """The main's pressure while the building draws (BST-03)."""
    facts, rules = running.facts, running.rules
    if facts.choice("supply_from") != "main":
        return
    there, wanted = facts.si("supply_pressure"), rules.value("BST-03")
    text = said(
        "The main still has {there} at the pump in the worst hour; {wanted} keeps it from drawing"
        " the street down (rule BST-03).",
        there=Measure(there, "pressure"),
        wanted=Measure(wanted, "pressure"),
    )
    yield Check(
        "supply",
        "Pressure left in the main",
        state(there >= wanted, there >= rules.low("BST-03")),
        text,
        "Set a break tank between main and pump.",
    )


def _lowest(running: Running) -> Check:
    """The pressure at the lowest outlet with nobody drawing: where a reducing valve is wanted."""
    facts, rules, system = running.facts, running.rules, running.system
    start = system.route.start_level_m + system.water.head_m(system.route.supply_pressure_pa)
    lowest = facts.si("lowest_outlet")
    pressure, most = (
        system.water.pressure_pa(running.curve.shut_off_head_m + start - lowest),
        rules.high("BST-07") if rules.rule("BST-07").high_si else rules.value("BST-07"),
    )
    text = said(
        "With nobody drawing, the lowest outlet stands under {pressure}; over {most} it wants a"
        " reducing valve (rule BST-07).",
        pressure=Measure(pressure, "pressure"),
        most=Measure(most, "pressure"),
    )
    inputs = (
        ("pump at no flow", Measure(running.curve.shut_off_head_m, "length")),
        ("water and pressure before it", Measure(start, "length")),
        ("lowest outlet", Measure(lowest, "length")),
    )
    working = Working(
        "Pressure at no flow",
        "ρ g (shut-off + start − level)",
        inputs,
        Measure(pressure, "pressure"),
        "hydrostatics",
    )
    return Check(
        "lowest",
        "Pressure at the lowest outlet",
        "hold" if pressure <= most else "watch",
        text,
        "Fit reducing valves on the lower floors, or a drive that holds the pressure by speed.",
        working,
    )


def _pressure_pa(running: Running, flow_m3s: float) -> float | None:
    """Pressure left at the worst outlet while this flow is drawn [Pa].

    None beyond the pump's curve.
    """
    if not running.curve.covers(flow_m3s):
        return None
    wanted_m = running.system.water.head_m(running.system.route.delivery_pressure_pa)
    return running.system.water.pressure_pa(
        running.curve.head_at(flow_m3s) - running.system.head_at(flow_m3s) + wanted_m
    )


def _outlet(running: Running) -> Check:
    wanted, found = (
        running.system.route.delivery_pressure_pa,
        _pressure_pa(running, running.demand.needed_m3s),
    )
    outlet = fixtures.fixture(running.facts.choice("worst_outlet"))
    if found is None:
        return Check(
            "outlet",
            "Worst outlet",
            "fail",
            said("The demand lies beyond this pump's curve."),
            "Take a larger pump.",
        )
    text = said(
        "At the peak of {flow} the worst outlet ({outlet}) has {found}; {wanted} is wanted.",
        flow=Measure(running.demand.needed_m3s, "flow"),
        outlet=outlet.label,
        found=Measure(found, "pressure"),
        wanted=Measure(wanted, "pressure"),
    )
    return Check(
        "outlet",
        "Worst outlet",
        state(found >= wanted * 0.999, found >= 0.8 * wanted),
        text,
        "Take a pump with more head, or a wider branch.",
    )


def _upgrade(running: Running) -> Iterator[Check]:
    """The showers made thirstier: flow and pressure before and after."""
    facts, upgrade = running.facts, running.facts.choice("upgrade")
    if upgrade == "none":
        return
    label = f"If the showers become {facts.chosen('upgrade')}"
    school = running.demand.taken if running.demand.taken in SCHOOLS else "statistical"
    if school in ("hunter_tank", "hunter_valve", "british", "en806"):
        school = "statistical"  # these know no such shower
    try:
        now = counts(facts)
        after = SCHOOLS[school][1](facts, upgraded(now, upgrade))
        before = SCHOOLS[school][1](facts, now)
    except SizingError as problem:
        yield Check(
            "upgrade",
            label,
            "watch",
            said("Cannot be worked out: {problem}.", problem=str(problem)),
            "Fill in the schedule of fixtures.",
        )
        return
    needed = running.demand.needed_m3s + (after - before) * running.demand.margin
    pressure_before, pressure_after = (
        _pressure_pa(running, running.demand.needed_m3s),
        _pressure_pa(running, needed),
    )
    wanted = fixtures.fixture(_UPGRADES[upgrade]).residual_pa
    text = said(
        "The peak grows from {before} to {needed} (by the {school}), and the worst outlet falls"
        " from {p_before} to {p_after}; such a head wants {wanted} (low confidence: heads differ"
        " widely, go by the maker).",
        before=Measure(running.demand.needed_m3s, "flow"),
        needed=Measure(needed, "flow"),
        school=SCHOOLS[school][0],
        p_before="nothing" if pressure_before is None else Measure(pressure_before, "pressure"),
        p_after=(
            "what lies beyond the pump's curve"
            if pressure_after is None
            else Measure(pressure_after, "pressure")
        ),
        wanted=Measure(wanted, "pressure"),
    )
    holds = pressure_after is not None and pressure_after >= wanted
    yield Check(
        "upgrade",
        label,
        "hold" if holds else "watch",
        text,
        "Agree on the shower heads in writing, or size for these now: take the flow as stated.",
    )


KIND = Booster()
