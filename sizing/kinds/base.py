"""What a kind of job declares.

Its questions, methods to the flow, demands on the pump, checks and cautions.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from sizing.base.message import Measure
from sizing.base.rules import Rules
from sizing.base.units import SECONDS_PER_DAY
from sizing.checks.base import Check, Running, Site
from sizing.checks.pressure import pressure_limit
from sizing.checks.solids import bore_check
from sizing.checks.suction import npsh_limit
from sizing.checks.velocity import Speeds
from sizing.demand.day_pattern import HOUSEHOLD, Shares, shares_of
from sizing.demand.method import Demand, FlowByMethod, FlowMethod, margin_working, take
from sizing.document.answers import Facts, List, MissingFact, Question
from sizing.document.build_route import Ends
from sizing.document.job import Figure, LegEntry
from sizing.kinds.common_questions import USE_OF_DAY
from sizing.kinds.demands import demands
from sizing.selection.limit import FarRight, LeastFlow, Limit, MotorLoad, StartsAgainst
from sizing.selection.requirement import (
    AtLeast,
    FamilyIn,
    Mains,
    Requirement,
    StillMade,
    Supply,
)
from sizing.selection.sweep import Wanted


@dataclass(frozen=True)
class Level:
    """A level worth drawing at the place the water is drawn from."""

    code: Literal["floor", "stop", "start", "lag", "alarm", "inlet", "rim", "static"]
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


@dataclass(frozen=True)
class FollowOn:
    """A job that this one leaves to be done: its kind, its name, and what is known of it."""

    kind: str
    title: str
    answers: tuple[tuple[str, str | Measure], ...]  # question and what is answered


# what every kind states for itself
_STATED = (
    "label",
    "purpose",
    "datum",
    "questions",
    "methods",
    "hint",
    "default_legs",
    "usual_legs",
    "sizes",
    "cautions",
)


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
    # length of each leg and the level it ends at [m], as on a usual site: drawn before the facts
    usual_legs: ClassVar[tuple[tuple[float, float], ...]]
    # families of pump that are sized in this kind of job
    sizes: ClassVar[tuple[str, ...]]
    closed_loop: ClassVar[bool] = False
    # it runs its hours whatever it moves, instead of stopping when the water is moved
    by_the_clock: ClassVar[bool] = False
    # people sit or sleep beside it, so that its noise counts when pumps are ordered
    quiet: ClassVar[bool] = False
    # the slowest speed at which what it carries stays in motion
    scour_rule: ClassVar[str] = "VEL-07"
    # taps, sprinklers or emitters let no more through than is needed, whatever the pump could give
    held_by_outlets: ClassVar[bool] = False
    speeds: ClassVar[Speeds]
    # the least bore that its line should have, by rule; '' for none
    bore_rule: ClassVar[str] = ""
    # Dialogs that make sense for this kind beside those for all, by name.
    dialogs: ClassVar[tuple[str, ...]] = ()
    # the wall of its pipes where nobody names one, by what they carry; '' for clean water
    liquid_wall: ClassVar[str] = ""
    between_legs: ClassVar[bool] = False  # its pumps run on two legs of a split supply
    drains_people: ClassVar[bool] = False  # their water comes in as they use it, not the ground's
    between_tanks: ClassVar[bool] = False  # it moves water from one tank into another
    # a stated flow is what comes in: that of the pit, not of the pump or of many pits
    stated_is_inflow: ClassVar[bool] = False
    cautions: ClassVar[tuple[str, ...]]

    def __init_subclass__(cls, **named: Any) -> None:
        """See that a declaration states all that has no default.

        Raises
        ------
        TypeError
            What is left out, by name.
        """
        super().__init_subclass__(**named)
        if "code" in vars(cls):
            lacking = [one for one in _STATED if not hasattr(cls, one)]
            if lacking:
                raise TypeError(f"the kind {cls.code!r} does not state: {', '.join(lacking)}")

    def demand(self, facts: Facts, rules: Rules, *, only_taken: bool = False) -> Demand:
        """The flow wanted, by every way there is; or (``only_taken``) by the one that is taken.

        Raises MissingFact when the way taken lacks something.
        """
        taken = self.school(facts)
        named = [method for method in self.methods if method.code == taken and only_taken]
        methods = tuple(method.find(facts, rules) for method in named or self.methods)
        counting = {one.code for one in self.methods if one.counts and one.suits(facts)}
        flow = take(methods, taken, counting, self._still_needed(facts, methods))
        margin, daily = facts.si("margin"), self.daily_volume_m3(facts)
        by_people = self.day_of_people_m3(facts, rules)
        return self.bounded(
            Demand(
                methods=methods,
                taken=taken,
                inflow_m3s=flow,
                margin=margin,
                needed_m3s=flow * margin,
                working=margin_working(flow, margin, self.margin_source),
                mean_inflow_m3s=None if not daily else min(daily / SECONDS_PER_DAY, flow),
                daily_volume_m3=by_people or None,
                day_shares=self.day_shares(facts),
            ),
            facts,
            rules,
        )

    def _still_needed(self, facts: Facts, methods: Sequence[FlowByMethod]) -> MissingFact:
        """What to ask for while no way has what it needs: the rest of the way that was begun."""
        head, _, key = self.hint.path.partition(".")
        if head != "answers" or not isinstance(facts.answer(key), Figure):
            return self.hint
        return next((one.missing[0] for one in methods if one.missing), self.hint)

    def school(self, facts: Facts) -> str:
        """The code of the method that is taken, 'largest' or 'sum'."""
        return facts.choice("flow_from")

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
                "how hot the water may be",
            ),
            *self.electrical(facts, rules),
            *demands(facts, rules, facts.running_pumps),
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
            held_by_outlets=self.outlets_hold(facts),
        )

    def speeds_of(self, facts: Facts) -> Speeds:
        """The rules on the speed in its pipes."""
        return self.speeds

    def scour_rule_of(self, facts: Facts) -> str:
        """The rule on the slowest speed at which what it carries stays in motion."""
        return self.scour_rule

    def outlets_hold(self, facts: Facts) -> bool:
        """Whether its outlets let no more through than is needed."""
        return self.held_by_outlets

    def electrical(self, facts: Facts, rules: Rules) -> tuple[Requirement, ...]:
        """What the electrical supply asks of a motor: voltage, phases, and the mains' frequency."""
        supply = Supply(facts.si("voltage"), int(facts.choice("phases")), rules.value("CHO-08"))
        supply_hz = self.supply_hz(facts)
        if supply_hz is None:
            return (supply,)
        return (supply, Mains(supply_hz, rules.value("ELE-12")))

    def supply_hz(self, facts: Facts) -> float | None:
        """Frequency of the mains [Hz]; None where the kind runs on direct current."""
        return facts.si("supply_frequency") if facts.asks("supply_frequency") else None

    def limits(self, site: Site) -> tuple[Limit, ...]:
        """What must hold of a pump at work here: tried over the whole catalogue."""
        water, rules = site.system.water, site.rules
        suction = self.suction_at(site.facts)
        lifted = () if suction is None else (npsh_limit(site, *suction),)
        return (
            StartsAgainst(self.starts_higher_by_m(site.facts)),
            LeastFlow(rules),
            *lifted,
            MotorLoad(water.density_kg_m3, rules, site.facts.altitude_m),
            pressure_limit(site),
            FarRight(rules),
        )

    def cannot_be_without(self, facts: Facts) -> str:
        """What it serves, where that must not stand still for a failed pump; '' where it may."""
        return ""

    def waters(self, facts: Facts) -> tuple[str, ...]:
        """What its water is to materials: codes of :data:`sizing.checks.materials.WATERS`."""
        return ()

    def suction_at(self, facts: Facts) -> tuple[float, float] | None:
        """Level of a dry pump [m over the datum] and height over the sea [m].

        None for a pump under water, whose NPSH nobody need prove.
        """
        return None

    def starts_higher_by_m(self, facts: Facts) -> float:
        """By how much the water stands higher when the pump starts than where it is sized [m]."""
        return 0.0

    def site_checks(self, site: Site) -> Sequence[Check]:
        """What the site does to every pump, seen even where no pump fits."""
        if not site.facts.asks("largest_solid"):
            return ()
        solid_m = self.solid_m(site.facts, site.rules)
        wanted = self.bore_rule_for(site)
        return tuple(bore_check(site, solid_m, wanted=wanted)) if solid_m > 0 else ()

    def bore_rule_for(self, site: Site) -> str:
        """The rule on the least bore of its line here; '' for none."""
        return self.bore_rule

    def solid_m(self, facts: Facts, rules: Rules) -> float:
        """The largest solid that has to pass [m]."""
        return facts.si("largest_solid")

    def daily_volume_m3(self, facts: Facts) -> float | None:
        """What passes through the pipe in a mean day [m3], where retention time matters.

        None when it is not known.
        """
        return None

    def day_of_people_m3(self, facts: Facts, rules: Rules) -> float | None:
        """What people send down in a day [m3], counted or estimated; None where none do."""
        return None

    def day_shares(self, facts: Facts) -> Shares:
        """By the hour, how a day's water comes or is drawn: as a household's, or as told."""
        return shares_of(facts.choice(USE_OF_DAY)) if facts.asks(USE_OF_DAY) else HOUSEHOLD

    def follow_on(self, facts: Facts, demand: Demand) -> FollowOn | None:
        """The job that this one leaves to be done by a pump of its own; None where none is."""
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
