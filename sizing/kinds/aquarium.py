"""An aquarium: the return from the sump to the display, quiet and for years."""

from __future__ import annotations

from collections.abc import Sequence

from sizing.demand.volume import turnover_m3s
from sizing.facts import Choice, Facts, List, MissingFact, Question
from sizing.job import Row
from sizing.kinds.asking import (
    STATED,
    YES_NO,
    flow_from,
    leg,
    margin,
    stated_flow,
    supply,
    temperature,
)
from sizing.kinds.base import Check, Demand, Kind, Level, Place, Running, Situation, WayTo
from sizing.kinds.checks import pump_checks, state, velocities, year_check
from sizing.requirement import AtMost, Requirement
from sizing.rules import Rules
from sizing.run import Ends
from sizing.said import Measure, Working, said
from sizing.storage.return_sump import return_sump

_SECONDS_PER_HOUR = 3600.0
_ELBOWS_90 = (
    "elbow_90_glued",
    "elbow_90_std_threaded",
    "elbow_90_long_threaded",
    "elbow_90_street",
)


def take_offs_m3s(facts: Facts) -> float:
    """What reactors, a steriliser and the like take besides the display."""
    return sum(row.optional("flow") or 0.0 for row in facts.rows("take_offs"))


def _turned_over(
    title: str, rule: str, facts: Facts, rules: Rules, rate_per_s: float, share: float = 1.0
) -> Working:
    volume, more = facts.si("tank_volume"), take_offs_m3s(facts)
    box = turnover_m3s(volume, rate_per_s * _SECONDS_PER_HOUR)
    inputs: tuple[tuple[str, Measure | str], ...] = (
        ("tank", Measure(volume, "volume")),
        ("turned over", Measure(rate_per_s, "turnover")),
    )
    formula = "volume × turnovers an hour + take-offs"
    if share < 1:
        inputs += (
            ("on the box", Measure(box, "flow")),
            ("left once plumbed", Measure(share, "ratio")),
        )
        formula = "volume × turnovers on the box × what is left of it + take-offs"
    return Working(
        title,
        formula,
        (*inputs, ("take-offs", Measure(more, "flow"))),
        Measure(box * share + more, "flow"),
        f"rule {rule}",
    )


def _as_plumbed(facts: Facts, rules: Rules) -> Working:
    own = facts.optional("turnover")
    return _turned_over(
        "Turnover as plumbed", "AQU-01", facts, rules, rules.value("AQU-01") if own is None else own
    )


def _on_the_box(facts: Facts, rules: Rules) -> Working:
    return _turned_over(
        "Turnover on the box",
        "AQU-02 and POW-01",
        facts,
        rules,
        rules.value("AQU-02"),
        rules.value("POW-01"),
    )


def _filter_school(facts: Facts, rules: Rules) -> Working:
    return _turned_over("Filter school", "AQU-03", facts, rules, rules.value("AQU-03"))


WAYS = (
    WayTo(
        "plumbed",
        "turnover as plumbed",
        _as_plumbed,
        "Feeds skimmer and heater; moving the tank is the wave pumps' work.",
    ),
    WayTo(
        "box",
        "turnover on the box",
        _on_the_box,
        "The box tells the flow at no head: half of it is left, more or less. Buying by it"
        " oversizes.",
        counts=False,
    ),
    WayTo(
        "filter",
        "filter school",
        _filter_school,
        "Canister filters, not sump returns: much for a reef's sump.",
    ),
    STATED,
)
QUESTIONS = (
    temperature("25 °C", "a tropical tank", usual=(8, 30)),
    Question(
        "liquid",
        "Water",
        "water",
        default="sea",
        choices=(Choice("sea", "sea water"), Choice("fresh", "fresh water")),
        help="Sea water wants pumps without metal in the water.",
    ),
    Question(
        "tank_volume",
        "Display holds",
        "flow",
        "volume",
        "l",
        "gal",
        low=0.005,
        high=2000.0,
        usual=(0.05, 5.0),
    ),
    Question(
        "turnover",
        "Turned over",
        "flow",
        "turnover",
        low=0.1 / 3600,
        high=60 / 3600,
        usual=(2 / 3600, 10 / 3600),
        optional=True,
        help="Left away: rule AQU-01.",
    ),
    stated_flow("Stated flow", (1e-4, 5e-3)),
    flow_from(WAYS, "plumbed"),
    margin("1.0 ×", "an adjustable pump is its own margin"),
    Question(
        "chamber",
        "Return chamber is wide",
        "run",
        "size",
        low=0.03,
        high=5.0,
        usual=(0.1, 0.6),
        optional=True,
        help="The narrower side: the pump has to go in.",
    ),
    Question(
        "display_area",
        "Surface of the display",
        "run",
        "area",
        low=0.01,
        high=500.0,
        usual=(0.1, 5.0),
        optional=True,
    ),
    Question(
        "siphon_depth",
        "Water over its weir and nozzle",
        "run",
        "length",
        "mm",
        "in",
        low=0.0,
        high=2.0,
        usual=(0.005, 0.1),
        default="25 mm",
        source="runs back when the power goes",
        shown_when=("display_area", ()),
    ),
    Question(
        "sump_area",
        "Surface of the sump",
        "run",
        "area",
        low=0.01,
        high=500.0,
        usual=(0.05, 3.0),
        shown_when=("display_area", ()),
    ),
    Question(
        "sump_level",
        "Sump runs at",
        "run",
        "length",
        "mm",
        "in",
        low=0.01,
        high=5.0,
        usual=(0.1, 0.5),
        shown_when=("display_area", ()),
        help="Over its floor.",
    ),
    Question(
        "sump_rim",
        "Sump spills over at",
        "run",
        "length",
        "mm",
        "in",
        low=0.02,
        high=5.0,
        usual=(0.2, 0.8),
        shown_when=("display_area", ()),
    ),
    Question(
        "siphon_break",
        "Siphon break or check valve",
        "run",
        default="no",
        choices=YES_NO,
        shown_when=("display_area", ()),
        help=(
            "A hole drilled just under the surface, or a check valve; both clog, so count on the"
            " water."
        ),
    ),
    *supply(hours="8760 h", hours_source="day and night", life=(3600 * 4000.0, 3600 * 8784.0)),
)
TAKE_OFFS = List(
    "take_offs",
    "Take-offs",
    "flow",
    (
        Question("name", "What for", "flow"),
        Question(
            "flow",
            "It takes",
            "flow",
            "flow",
            low=1e-7,
            high=0.01,
            usual=(1e-5, 1e-3),
            optional=True,
        ),
    ),
    first=(Row(id="r1"),),
    help="Reactors, a steriliser, a refugium fed from the same pump.",
)


class Aquarium(Kind):
    code = "aquarium"
    label = "aquarium"
    purpose = "The return pump from the sump to the display."
    datum = "the water in the sump's return chamber"
    questions = QUESTIONS
    lists = (TAKE_OFFS,)
    ways = WAYS
    hint = MissingFact("answers.tank_volume", "the display's volume, or a stated flow", "flow")
    quiet = True
    by_the_clock = True
    default_legs = (
        leg(
            "a",
            "return",
            "32 mm",
            ("ball_valve_full", 1),
            ("union", 1),
            ("elbow_90_glued", 3),
            ("exit", 1),
        ),
    )
    cautions = (
        (
            "Electricity over salt water: a drip loop on every cable, earth-fault protection, and"
            " the plug pulled before a hand goes in."
        ),
        (
            "When the power goes, water runs back until air breaks the siphon: the sump must hold"
            " it, every time, with the hole clogged."
        ),
        "A pump without copper or brass in the water: both kill corals and shrimps.",
        "Local codes and licensed trades come first and override this sizing.",
    )

    def ends(self, facts: Facts, rules: Rules) -> Ends:
        return Ends(0.0)

    def families(self, facts: Facts) -> tuple[str, ...]:
        return ("aquarium",)

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        room = facts.optional("chamber")
        return (
            ()
            if room is None
            else (
                AtMost(
                    "width_m",
                    room,
                    "size",
                    "too wide for the chamber",
                    "{has} wide; the chamber takes {wanted}",
                ),
            )
        )

    def place(self, facts: Facts, rules: Rules) -> Place:
        depth = facts.optional("sump_level") or 0.25
        rim = (facts.optional("sump_rim") or depth + 0.15) - depth
        return Place(
            "tank",
            facts.optional("chamber") or 0.4,
            (
                Level("floor", "sump", -depth),
                Level("stop", "sump water", 0.0),
                Level("rim", "sump rim", rim),
            ),
            outlet="tank",
        )

    def situation(self, facts: Facts) -> Situation:
        return Situation(
            "sea" if facts.choice("liquid") == "sea" else "clean", "chamber", "display", 0.001
        )

    def checks(self, running: Running) -> Sequence[Check]:
        return [
            *pump_checks(running),
            *velocities(running, "", "VEL-16", "keeps it quiet"),
            _box(running),
            _quick_rule(running),
            *_power_cut(running),
            _noise(running),
            year_check(running),
        ]

    def stage_summary(self, facts: Facts) -> str:
        return facts.chosen("liquid")


def _box(running: Running) -> Check:
    """The figure on the box against what runs: the commonest wrong purchase."""
    box = running.curve.last_flow_m3s
    share = running.flow_m3s / box
    text = said(
        "The curve ends at {box}, much like the figure on its box; plumbed here it gives {flow},"
        " {share} of it, and turns the tank over {rate} an hour.",
        box=Measure(box, "flow"),
        flow=Measure(running.flow_m3s, "flow"),
        share=Measure(share, "ratio"),
        rate=(
            f"{running.flow_m3s * _SECONDS_PER_HOUR / volume:.1f} times"
            if (volume := running.facts.optional("tank_volume"))
            else "an unknown number of times"
        ),
    )
    return Check("box", "The box and the truth", "hold", text)


def _quick_rule(running: Running) -> Check:
    """The quick rules for head beside the whole calculation: what each would say."""
    rules, route = running.rules, running.system.route
    elbows = sum(
        one.count for entry in running.legs for one in entry.fittings if one.fitting in _ELBOWS_90
    )
    halves = sum(
        one.count
        for entry in running.legs
        for one in entry.fittings
        if one.fitting.startswith("elbow_45")
    )
    climb = route.legs[-1].end_elevation_m - route.start_level_m
    flat = max(route.length_m - max(climb, 0.0), 0.0)
    quick = (
        climb
        + elbows * rules.value("AQU-05")
        + halves * rules.value("AQU-06")
        + flat * rules.value("AQU-07")
    )
    full = running.system.head_at(running.flow_m3s)
    text = said(
        "The quick rules (AQU-05 to AQU-07) say {quick}; worked out it is {full}. They know neither"
        " the flow nor the bore.",
        quick=Measure(quick, "length"),
        full=Measure(full, "length"),
    )
    inputs = (
        ("up", Measure(climb, "length")),
        ("90° elbows", f"{elbows}"),
        ("45° elbows", f"{halves}"),
        ("flat run", Measure(flat, "length")),
        ("each 90° elbow", Measure(rules.value("AQU-05"), "length")),
        ("of the flat run", Measure(rules.value("AQU-07"), "ratio")),
    )
    working = Working(
        "Quick head rule",
        "up + elbows + a tenth of the flat run",
        inputs,
        Measure(quick, "length"),
        "aquarium rules of thumb",
    )
    return Check(
        "quick_rule",
        "Quick rule for head",
        "hold" if abs(quick - full) <= 0.25 * full else "watch",
        text,
        "Go by the whole calculation: it knows the bore.",
        working,
    )


def _power_cut(running: Running) -> list[Check]:
    facts = running.facts
    area = facts.optional("display_area")
    if area is None:
        return []
    holds = facts.choice("siphon_break") == "yes"
    pipes = sum(leg.volume_m3 for leg in running.system.route.legs)
    found = return_sump(
        drained=[(area, facts.si("siphon_depth"))],
        pipes_m3=pipes,
        other_volume_m3=0.0,
        sump_plan_area_m2=facts.si("sump_area"),
        sump_rim_level_m=facts.si("sump_rim"),
        sump_running_level_m=facts.si("sump_level"),
    )
    text = said(
        "When the power goes {volume} run down; the sump has room for {room}. It may run at {safe}"
        " at most.",
        volume=Measure(found.volume_into_sump_m3, "volume"),
        room=Measure(found.room_before_m3, "volume"),
        safe=Measure(found.highest_safe_running_level_m, "length"),
    )
    inputs = (
        ("display", Measure(area, "area")),
        ("runs down over it", Measure(facts.si("siphon_depth"), "length", 3)),
        ("pipes hold", Measure(pipes, "volume", 1)),
        ("sump", Measure(facts.si("sump_area"), "area")),
        ("rim − running level", Measure(facts.si("sump_rim") - facts.si("sump_level"), "length")),
    )
    working = Working(
        "What runs down",
        "display area × depth + pipes",
        inputs,
        Measure(found.volume_into_sump_m3, "volume", 1),
        "continuity",
    )
    remedy = "Run the sump lower, raise the nozzle, or drill a siphon break" + (
        " (the one there may clog: do not count on it)." if holds else "."
    )
    return [Check("power_cut", "Power cut", state(not found.overflows), text, remedy, working)]


def _noise(running: Running) -> Check:
    noise = running.pump.pump.noise_db
    if noise is None:
        return Check(
            "noise",
            "Noise",
            "watch",
            said("The maker does not say how loud it is."),
            "Ask, or hear one.",
        )
    words = (
        "like a library"
        if noise < 35
        else "like a quiet talk"
        if noise < 50
        else "like a talk across a table"
    )
    return Check(
        "noise",
        "Noise",
        "hold" if noise < 45 else "watch",
        said("{noise} dB: " + words + ".", noise=f"{noise:g}"),
        "Set it on soft feet with a hose tail, or run a larger one slower.",
    )


KIND = Aquarium()
