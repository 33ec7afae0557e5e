"""What a booster asks, and its methods to the flow: every school of simultaneous demand."""

from __future__ import annotations

from sizing.demand import fixtures
from sizing.demand.fixture_methods import (
    OUTLETS,
    SCHOOLS,
    by_school,
)
from sizing.demand.method import FlowMethod
from sizing.document.answers import Choice, List, Question
from sizing.document.job import ListRow
from sizing.kinds.common_questions import (
    ALTITUDE,
    QUICK_VALVE,
    STATED,
    SURGE,
    YES_NO,
    by_people,
    flow_from,
    margin,
    stated_flow,
    supply,
    temperature,
    water_per_person,
)

METHODS = (
    FlowMethod(
        "per_head",
        "per head",
        by_people,
        "Crude: blind to what is installed. Low for few people, high for many.",
        counts=False,
    ),
    *(
        FlowMethod(code, school[0], by_school(code), school[5], counts=code != "hunter_valve")
        for code, school in SCHOOLS.items()
    ),
    STATED,
)
QUESTIONS = (
    temperature("12 °C", "cold water", usual=(4, 60), hottest=95.0),
    Question("drinking", "Drinking water", "water", default="yes", choices=YES_NO),
    Question(
        key="building",
        label="Building",
        stage="flow",
        default="residential building",
        choices=tuple(Choice(name, name) for name in fixtures.din_buildings()),
        help="The German school asks it, and it says which school fits.",
    ),
    Question(
        key="people",
        label="People",
        stage="flow",
        dimension="people",
        low=1.0,
        high=50000.0,
        usual=(2, 1000),
        optional=True,
    ),
    water_per_person(),
    Question(
        key="peak_factor",
        label="Peak over the day's mean",
        stage="flow",
        dimension="ratio",
        metric_unit="×",
        us_unit="×",
        low=1.0,
        high=60.0,
        usual=(5, 40),
        default="20 ×",
        source="small buildings peak sharply: frequency of use times how long a use lasts",
        shown_when=("people", ()),
    ),
    Question(
        key="continuous_flow",
        label="Drawn longer than 15 min",
        stage="flow",
        dimension="flow",
        low=1e-6,
        high=0.5,
        usual=(1e-5, 5e-3),
        optional=True,
        help="Watering, cooling, a process: added to what any school makes of the fixtures.",
    ),
    stated_flow("Stated peak flow", (2e-4, 2e-2)),
    flow_from(
        METHODS, "fitting", first_choice=Choice("fitting", "the school that fits the building")
    ),
    margin("1.0 ×", "every school holds its own"),
    Question(
        key="upgrade",
        label="What if the showers become",
        stage="flow",
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
        key="supply_pressure",
        label="Lowest pressure of the main",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=1.5e6,
        usual=(1e5, 5e5),
        shown_when=("supply_from", ("main",)),
        help="At the pump, in the worst hour, while the building draws.",
    ),
    Question(
        key="highest_supply",
        label="Highest pressure of the main",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=1.6e6,
        usual=(2e5, 6e5),
        optional=True,
        shown_when=("supply_from", ("main",)),
        help="At night: with it pipes and taps stand under most. Left away: as the lowest.",
    ),
    Question(
        key="backflow_loss",
        label="Backflow preventer loses",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=3e5,
        usual=(2e4, 1e5),
        optional=True,
        shown_when=("supply_from", ("main",)),
        help="At the peak, by its maker; most lose 0.3 to 1 bar (4 to 15 psi).",
        in_doubt=False,
    ),
    Question(
        key="tank_level",
        label="Lowest water in the tank",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-10.0,
        high=100.0,
        usual=(-3, 5),
        shown_when=("supply_from", ("tank",)),
        help="Over the floor the pump stands on; minus for a tank below it.",
        is_level=True,
    ),
    Question(
        key="worst_outlet",
        label="Worst outlet is",
        stage="run",
        default="shower",
        choices=tuple(Choice(code, fixtures.fixture(code).label) for code in OUTLETS),
        help="The highest and furthest, or the one that wants most pressure.",
    ),
    Question(
        key="residual",
        label="Pressure wanted there",
        stage="run",
        dimension="pressure",
        low=0.0,
        high=1e6,
        usual=(5e4, 3e5),
        optional=True,
        help=(
            "Left away: what that kind of outlet usually wants (shown in Proof). The maker's figure"
            " goes first."
        ),
        in_doubt=False,
    ),
    Question(
        key="lowest_outlet",
        label="Lowest outlet",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-50.0,
        high=100.0,
        usual=(-4, 5),
        default="1 m",
        source="a tap on the pump's floor",
        is_level=True,
    ),
    Question(
        "outlet_limit",
        "Most at an outlet by",
        "run",
        default="us",
        choices=(
            Choice("us", "US codes: 80 psi (5.5 bar)"),
            Choice("en", "EN 806: 5 bar (73 psi)"),
        ),
        help="With nobody drawing. Two schools; your code names one.",
    ),
    Question(
        key="floors",
        label="Floors with outlets",
        stage="run",
        dimension="count",
        metric_unit="×",
        us_unit="×",
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
        key="storey",
        label="Height of a storey",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=2.0,
        high=10.0,
        usual=(2.5, 4.5),
        default="3 m",
        source="usual building",
        shown_when=("floors", ()),
    ),
    Question(
        key="roof_tank",
        label="Water in a tank on the roof",
        stage="run",
        dimension="length",
        metric_unit="m",
        us_unit="ft",
        low=-100.0,
        high=400.0,
        usual=(3, 100),
        optional=True,
        shown_when=("floors", ()),
        help="Its lowest level, to compare with a pump below. Left away: a storey over the top.",
        is_level=True,
        in_doubt=False,
    ),
    Question(
        "dry_run",
        "Stops when the tank is empty",
        "proof",
        default="unknown",
        choices=(
            Choice("unknown", "nobody has said"),
            Choice("none", "nothing stops it"),
            Choice("fitted", "by a float, a level or a flow switch"),
        ),
        shown_when=("supply_from", ("tank",)),
    ),
    ALTITUDE,
    Question(
        key="control",
        label="It is run by",
        stage="proof",
        default="open",
        choices=(
            Choice("open", "not decided: tell both"),
            Choice("switch", "a pressure switch and a vessel"),
            Choice("drive", "a drive that holds the pressure"),
        ),
    ),
    Question(
        key="vessel",
        label="Pressure vessel holds",
        stage="proof",
        dimension="volume",
        metric_unit="l",
        us_unit="gal",
        low=0.001,
        high=20.0,
        usual=(0.02, 1.0),
        optional=True,
        shown_when=("control", ("switch",)),
        help="Left away: Proof says what it takes.",
    ),
    *SURGE,
    QUICK_VALVE,
    *supply(hours="1500 h", hours_source="a building that draws by day"),
)
FIXTURES = List(
    key="fixtures",
    label="Fixtures by floor",
    stage="flow",
    columns=(
        Question("floor", "Floor", "flow"),
        Question(
            "fixture",
            "Fixture",
            "flow",
            default="shower",
            choices=tuple(Choice(one.code, one.label) for one in fixtures.fixtures().values()),
        ),
        Question(
            key="count",
            label="How many",
            stage="flow",
            dimension="count",
            metric_unit="×",
            us_unit="×",
            low=0.0,
            high=5000.0,
            usual=(1, 300),
            optional=True,
        ),
        Question("room", "Room", "flow"),
    ),
    first=tuple(
        ListRow(id=f"r{number}", cells={"fixture": code})
        for number, code in enumerate(("shower", "basin", "wc", "kitchen"), 1)
    ),
    help=(
        "How often each is used, and how long, decides how many run at once: that is what the"
        " schools differ about. Rows of one room (24 baths alike) may name it: DIN 1988-300 then"
        " counts two draw-offs of each."
    ),
)
