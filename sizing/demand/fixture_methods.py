"""The methods for the flow of many fixtures, each over one and the same schedule."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping

from sizing.base.message import Measure, Working
from sizing.base.rules import Rules
from sizing.demand import fixtures
from sizing.document.answers import Facts, MissingFact

Counts = Mapping[str, float]


UPGRADES = {"rain": "rain_shower", "jets": "jet_shower"}


OUTLETS = (
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


def rooms(facts: Facts) -> list[Counter[str]]:
    """The schedule by the rooms that it names, each kind with all of its fixtures.

    A row without a room stands for itself.
    """
    named: dict[str, Counter[str]] = {}
    alone: list[Counter[str]] = []
    for row in facts.rows("fixtures"):
        room = row.words("room").strip().casefold()
        here = named.setdefault(room, Counter()) if room else Counter()
        here[row.choice("fixture")] += round(row.optional("count") or 0)
        if not room:
            alone.append(here)
    return [*named.values(), *alone]


def upgraded(now: Counts, upgrade: str) -> Counts:
    """The schedule with every plain shower made into something thirstier."""
    changed = Counter({code: round(count) for code, count in now.items() if code != "shower"})
    changed[UPGRADES[upgrade]] += round(now.get("shower", 0))
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
    return fixtures.din_1988_300(facts.choice("building"), _counted_by_din(facts, schedule))


def _counted_by_din(facts: Facts, schedule: Counts) -> Counts:
    """The schedule with two draw-offs of each usage unit; as it is where it names no rooms."""
    named = rooms(facts)
    if sum(named, Counter()) != Counter(schedule):  # an upgrade: rooms of what is no longer there
        return schedule
    return fixtures.in_use_units(named)


def _with_idle(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_probability(schedule, zero_truncated=False).demand_flow_m3s


def _running_only(facts: Facts, schedule: Counts) -> float:
    return fixtures.by_probability(schedule, zero_truncated=True).demand_flow_m3s


# School: its label, the flow for a schedule, the units that go in, the formula, its source, where
# it goes wrong.
School = tuple[str, Callable[[Facts, Counts], float], str, str, str, str]


SCHOOLS: dict[str, School] = {
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
            "By the kind of building. Runs low for a handful of fixtures in few flats; rooms named"
            " in the schedule count with their two largest draw-offs."
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


REASONS = {
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


def by_school(code: str) -> Callable[[Facts, Rules], Working]:
    """The method of a code, as a way to the flow of a job's schedule."""
    label, flow_of, units, formula, source, _ = SCHOOLS[code]

    def arrive(facts: Facts, rules: Rules) -> Working:
        schedule = counts(facts)
        steady = facts.optional("continuous_flow") or 0.0
        flow = flow_of(facts, schedule) + steady
        inputs: list[tuple[str, Measure | str]] = [
            (fixtures.fixture(one).label, f"{count:g}") for one, count in schedule.items()
        ]
        if units == "flow_din1988_300":
            counted = _counted_by_din(facts, schedule)
            inputs += [
                ("sum of calculation flows", Measure(fixtures.sum_of(units, counted), "flow")),
                ("building", facts.choice("building")),
            ]
        elif units:
            inputs.append(("sum of units", f"{fixtures.sum_of(units, schedule):.1f}"))
        if steady:
            inputs.append(("drawn all the time, added", Measure(steady, "flow")))
        return Working(label, formula, tuple(inputs), Measure(flow, "flow"), source)

    return arrive
