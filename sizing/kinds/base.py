"""What a kind of job declares.

Its questions, methods to the flow, demands on the pump, checks and cautions.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

from sizing.base.rules import Rules
from sizing.checks.base import Check, Running
from sizing.demand.method import Demand, FlowMethod, margin_working, take
from sizing.document.answers import Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import LegEntry
from sizing.selection.requirement import AtLeast, FamilyIn, Requirement, StillMade, Supply
from sizing.selection.sweep import Wanted


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
    """A job in the words of the family chooser: codes of :mod:`sizing.selection.pump_family`."""

    liquid: str
    place: str
    feeds: str
    solid_m: float


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
    methods: ClassVar[tuple[FlowMethod, ...]]
    hint: ClassVar[MissingFact]
    margin_source: ClassVar[str] = "the only margin in the whole sizing"
    default_legs: ClassVar[tuple[LegEntry, ...]]
    closed_loop: ClassVar[bool] = False
    # it runs its hours whatever it moves, instead of stopping when the water is moved
    by_the_clock: ClassVar[bool] = False
    # people sit or sleep beside it, so that its noise counts when pumps are ordered
    quiet: ClassVar[bool] = False
    # the slowest speed at which what it carries stays in motion
    scour_rule: ClassVar[str] = "VEL-07"
    # Dialogs that make sense for this kind beside those for all, by name.
    dialogs: ClassVar[tuple[str, ...]] = ()
    cautions: ClassVar[tuple[str, ...]]

    def demand(self, facts: Facts, rules: Rules) -> Demand:
        """The flow wanted, by every way there is.

        Raises MissingFact when the way taken lacks something.
        """
        methods = tuple(method.find(facts, rules) for method in self.methods)
        counting = {method.code for method in self.methods if method.counts}
        taken = facts.choice("flow_from")
        flow = take(methods, taken, counting, self.hint)
        margin = facts.si("margin")
        return self.bounded(
            Demand(
                methods=methods,
                taken=taken,
                inflow_m3s=flow,
                margin=margin,
                needed_m3s=flow * margin,
                working=margin_working(flow, margin, self.margin_source),
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
            flow_m3s=demand.needed_m3s,
            requirements=requirements,
            volume_per_year_m3=demand.needed_m3s * runs_s,
            energy_price_per_kwh=facts.si("energy_price"),
            life_years=rules.value("CHO-07"),
            discount_rate=rules.value("CHO-10"),
            quiet=self.quiet,
            clock_s_per_year=runs_s if self.by_the_clock else None,
        )

    def daily_volume_m3(self, facts: Facts) -> float | None:
        """What passes through the pipe in a mean day [m3], where retention time matters.

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
