"""What a kind of job declares.

Its questions, ways to the flow, demands on the pump, checks and cautions.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Container, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from sizing.duty import Duty
from sizing.errors import SizingError
from sizing.facts import Facts, List, MissingFact, Question, stands_on
from sizing.job import LegEntry
from sizing.match import Candidate, Wanted
from sizing.pipework.route import Ledger, SystemCurve
from sizing.pump.curve import PumpCurve
from sizing.requirement import AtLeast, FamilyIn, Requirement, StillMade, Supply
from sizing.rules import Rules
from sizing.run import Ends
from sizing.said import Measure, Said, Working

CheckState = Literal["hold", "watch", "fail"]
CHECK_WORDS: dict[CheckState, str] = {"hold": "holds", "watch": "watch", "fail": "fails"}


@dataclass(frozen=True)
class Way:
    """One way to the flow: its answer, or what it still needs, or why it cannot say."""

    code: str
    label: str
    flow_m3s: float | None
    missing: tuple[MissingFact, ...] = ()
    working: Working | None = None
    caution: str = ""
    problem: str = ""


@dataclass(frozen=True)
class WayTo:
    """A way to the flow as a kind declares it; ``arrive`` works it out.

    ``caution`` says where the school is known to go wrong. One that does not ``count`` is shown
    beside the others, but is never the largest of them.
    """

    code: str
    label: str
    arrive: Callable[[Facts, Rules], Working]
    caution: str = ""
    counts: bool = True

    def find(self, facts: Facts, rules: Rules) -> Way:
        """The way with these facts."""
        mark = facts.mark
        try:
            working = self.arrive(facts, rules)
        except MissingFact as missing:
            return Way(self.code, self.label, None, (missing,), caution=self.caution)
        except SizingError as problem:
            return Way(self.code, self.label, None, caution=self.caution, problem=str(problem))
        told = replace(working, stands_on=stands_on(facts.noted(mark)))
        return Way(
            self.code, self.label, working.result.value_si, working=told, caution=self.caution
        )


@dataclass(frozen=True)
class Demand:
    """The flow that the job wants: the way taken, with the margin added once."""

    ways: tuple[Way, ...]
    taken: str
    inflow_m3s: float
    margin: float
    needed_m3s: float
    working: Working
    reason: str = ""  # why this school is the one taken, where several stand side by side


@dataclass(frozen=True)
class Check:
    """One thing that must hold for the pump to live; a failing one says the remedy."""

    code: str
    label: str
    state: CheckState
    said: Said
    remedy: str = ""
    working: Working | None = None
    band: tuple[float, float] | None = (
        None  # of a check on a figure [SI]: what it should lie between
    )


@dataclass(frozen=True)
class Level:
    """A level worth drawing at the place the water is drawn from."""

    code: Literal["floor", "stop", "start", "alarm", "inlet", "rim", "static"]
    label: str
    elevation_m: float
    path: str = ""  # of the field that it stands in, where moving it means changing that figure
    sign: int = 1  # -1 where that field counts downwards


Shape = Literal["pit", "well", "tank", "pond", "main", "loop"]
Outlet = Literal["open", "tank", "fall", "tap", "main", "tub", "bed"]


@dataclass(frozen=True)
class Place:
    """Where the water is drawn from and what it comes to, for the picture.

    ``pump_level_m`` is that of a pump that stands dry beside it.
    """

    shape: Shape
    width_m: float
    levels: tuple[Level, ...]
    pump_level_m: float | None = None
    outlet: Outlet = "open"
    storeys_m: tuple[float, ...] = ()

    def level_m(self, code: str) -> float | None:
        """Elevation of a level, or None where the job does not name it."""
        return next((level.elevation_m for level in self.levels if level.code == code), None)


@dataclass(frozen=True)
class Situation:
    """A job in the words of the family chooser: codes of :mod:`sizing.family`."""

    liquid: str
    place: str
    feeds: str
    solid_m: float


@dataclass(frozen=True)
class Running:
    """A pump at work on the job: all that a check may look at."""

    facts: Facts
    rules: Rules
    demand: Demand
    system: SystemCurve
    legs: tuple[LegEntry, ...]
    pump: Candidate
    curve: PumpCurve
    duty: Duty
    flow_m3s: float
    ledger: Ledger


class Kind(ABC):
    """A kind of job. Subclasses are declarations with a few short methods.

    Each module names one ``KIND``.
    """

    code: ClassVar[str]
    label: ClassVar[str]
    purpose: ClassVar[str]
    datum: ClassVar[str]
    questions: ClassVar[tuple[Question, ...]]
    lists: ClassVar[tuple[List, ...]] = ()
    ways: ClassVar[tuple[WayTo, ...]]
    hint: ClassVar[MissingFact]
    margin_source: ClassVar[str] = "the only margin in the whole sizing"
    default_legs: ClassVar[tuple[LegEntry, ...]]
    closed_loop: ClassVar[bool] = False
    by_the_clock: ClassVar[bool] = (
        False  # it runs its hours whatever it moves, instead of stopping when the water is moved
    )
    quiet: ClassVar[bool] = (
        False  # people sit or sleep beside it, so that its noise counts when pumps are ordered
    )
    scour_rule: ClassVar[str] = (
        "VEL-07"  # the slowest speed at which what it carries stays in motion
    )
    cautions: ClassVar[tuple[str, ...]]

    def demand(self, facts: Facts, rules: Rules) -> Demand:
        """The flow wanted, by every way there is.

        Raises MissingFact when the way taken lacks something.
        """
        ways = tuple(way.find(facts, rules) for way in self.ways)
        counting = {way.code for way in self.ways if way.counts}
        taken = facts.choice("flow_from")
        flow = take(ways, taken, counting, self.hint)
        margin = facts.si("margin")
        return self.bounded(
            Demand(
                ways,
                taken,
                flow,
                margin,
                flow * margin,
                margin_working(flow, margin, self.margin_source),
            ),
            facts,
            rules,
        )

    def bounded(self, demand: Demand, facts: Facts, rules: Rules) -> Demand:
        """The demand after what bounds it.

        Raised so that solids move, held to what a well yields, split over pumps.
        """
        return demand

    @abstractmethod
    def ends(self, facts: Facts, rules: Rules) -> Ends:
        """The level drawn from at its lowest while pumping, and what is wanted at the other end."""

    @abstractmethod
    def families(self, facts: Facts) -> tuple[str, ...]:
        """Families of pump that may do this job."""

    def requirements(self, facts: Facts, demand: Demand, rules: Rules) -> tuple[Requirement, ...]:
        """What a pump must be, besides its family, the supply and the water's temperature."""
        return ()

    def wanted(self, facts: Facts, demand: Demand, rules: Rules) -> Wanted:
        """What the job asks of a pump."""
        requirements: tuple[Requirement, ...] = (
            FamilyIn(self.families(facts)),
            StillMade(),
            *self.requirements(facts, demand, rules),
            AtLeast(
                "hottest_c",
                facts.si("water_temperature"),
                "temperature",
                "not for water so hot",
                "for water to {has}; this is {wanted}",
            ),
            Supply(facts.si("voltage"), int(facts.choice("phases")), rules.value("CHO-08")),
        )
        runs_s = facts.si("hours_per_year")
        return Wanted(
            demand.needed_m3s,
            requirements,
            demand.needed_m3s * runs_s,
            facts.si("energy_price"),
            rules.value("CHO-07"),
            rules.value("CHO-10"),
            self.quiet,
            runs_s if self.by_the_clock else None,
        )

    def daily_volume_m3(self, facts: Facts) -> float | None:
        """What passes through the pipe in a mean day [m3], where standing time matters.

        None when it is not known.
        """
        return None

    @abstractmethod
    def place(self, facts: Facts, rules: Rules) -> Place:
        """The place the water is drawn from; levels that are not known are left out."""

    @abstractmethod
    def situation(self, facts: Facts) -> Situation:
        """The job as the family chooser sees it."""

    @abstractmethod
    def checks(self, running: Running) -> Sequence[Check]:
        """Everything that must hold for a pump at work."""

    @abstractmethod
    def stage_summary(self, facts: Facts) -> str:
        """The water stage in a few words."""


def margin_working(inflow_m3s: float, margin: float, source: str) -> Working:
    """How the needed flow came of the flow taken: the one place where a margin is added."""
    inputs = (("flow taken", Measure(inflow_m3s, "flow")), ("margin", Measure(margin, "factor")))
    return Working(
        "Flow needed",
        "needed = flow taken × margin",
        inputs,
        Measure(inflow_m3s * margin, "flow"),
        source,
    )


def take(ways: Sequence[Way], taken: str, counting: Container[str], hint: MissingFact) -> float:
    """The flow of the way that is taken.

    One by its code, the largest, or the sum of those answered.

    Raises
    ------
    MissingFact
        The way taken lacks something, or (``hint``) no way has what it needs.
    SizingError
        The way taken cannot say, or the flow comes out as nought.
    """
    known = {way.code: way.flow_m3s for way in ways if way.flow_m3s is not None}
    for way in ways:
        if way.code == taken and way.flow_m3s is None:
            raise way.missing[0] if way.missing else SizingError(f"{way.label}: {way.problem}")
    if taken in known:
        flow = known[taken]
    else:
        counted = [flow for code, flow in known.items() if code in counting]
        if not counted:
            raise hint
        flow = (sum if taken == "sum" else max)(counted)
    if not flow > 0:
        raise SizingError(
            "the flow comes out as nought: look at the figures of the way that is taken"
        )
    return flow
