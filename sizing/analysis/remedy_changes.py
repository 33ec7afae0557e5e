"""What may be changed on a job where no pump fits, what costs least first.

Each change is a function of a job, so that two of them can be tried together.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.document import items
from sizing.document.answers import Facts
from sizing.document.job import Figure, JobDocument
from sizing.find_pumps import asked_by
from sizing.kinds.pit import pit_plan
from sizing.pump.catalogue import Catalogue
from sizing.selection.match import Match, match
from sizing.selection.near_miss import next_size
from sizing.selection.requirement import AtMost, FamilyIn, Supply, Truths
from sizing.selection.starts_and_runs import TOO_OFTEN, TOO_SHORT
from sizing.size import Sizing, on_site

_MM = 1e-3
_STEP_M = 0.01  # levels are told to the centimetre
_HALVINGS = 6
_THROTTLED_TO = 1.05  # of the flow needed
_MOST_SOLID_M = 0.012  # what a half-shut valve does not catch


@dataclass(frozen=True)
class Change:
    """Something else, in words; what it costs against the others (1: a float is moved)."""

    key: str
    cost: int
    what: Message
    apply: Callable[[JobDocument], JobDocument]


def matched(sizing: Sizing, job: JobDocument, catalogue: Catalogue) -> Match | None:
    """The pumps that fit a changed job with all limits, without chances and checks; None: none."""
    try:
        site, wanted = asked_by(sizing.kind, job, sizing.rules)
        here = on_site(catalogue, job, sizing.kind, site.facts)
        return match(here, site.system, wanted, sizing.rules)
    except SizingError:  # the change asks for more than is known
        return None


def changes(sizing: Sizing, catalogue: Catalogue) -> tuple[Change, ...]:
    """Every change worth a try on a job, the cheapest first."""
    found = [
        *_other_levels(sizing, catalogue),
        *_wider_apart(sizing, catalogue),
        *_throttled(sizing, catalogue),
        *_other_pipe(sizing),
        *_panels(sizing),
        *_storage(sizing),
        *_other_supply(sizing, catalogue),
        *_together(sizing),
        *_wider_pit(sizing),
    ]
    return tuple(sorted(found, key=lambda one: one.cost))


def _answering(**answers: Figure | str) -> Callable[[JobDocument], JobDocument]:
    return lambda job: job.model_copy(update={"answers": {**job.answers, **answers}})


def _level(facts: Facts, key: str, value_m: float) -> Figure:
    figure = facts.figure(key)
    return Figure(
        value=round(value_m / _MM),
        unit="mm",
        provenance=figure.provenance if figure else "assumed",
    )


def _of_the_family(sizing: Sizing, catalogue: Catalogue) -> Truths:
    requirements = sizing.wanted.requirements if sizing.wanted else ()
    found = np.ones(len(catalogue), dtype=bool)
    for one in requirements:
        if isinstance(one, FamilyIn):
            found &= one.met(catalogue)
    return found


def _other_levels(sizing: Sizing, catalogue: Catalogue) -> Iterator[Change]:
    """Raise all levels to what the pumps of the family want over them."""
    requirements = sizing.wanted.requirements if sizing.wanted else ()
    low = [one for one in requirements if isinstance(one, AtMost) and one.field == "lowest_stop_m"]
    if not low or not sizing.facts.asks("stop_level"):
        return
    facts = sizing.facts
    stop = facts.si("stop_level")
    wanted = catalogue.column("lowest_stop_m")[_of_the_family(sizing, catalogue)]
    higher = sorted({float(one) for one in wanted if one > stop})
    for raised in dict.fromkeys(higher[:1] + higher[-1:]):
        up = math.ceil(raised / _STEP_M - 1e-9) * _STEP_M - stop
        levels = {
            key: _level(facts, key, facts.si(key) + up)
            for key in ("stop_level", "start_level", "alarm_level")
        }
        yield Change(
            f"stop-{levels['stop_level'].value:g}",
            1,
            message("stop at {level}, start and alarm as much higher", level=_size(stop + up)),
            _answering(**levels),
        )


def _size(value_m: float) -> Measure:
    return Measure(value_m, "size")


def _wider_apart(sizing: Sizing, catalogue: Catalogue) -> Iterator[Change]:
    """A higher start: the least with which a pump fits, else the highest that the pit bears."""
    facts = sizing.facts
    if not facts.asks("start_level"):
        return
    start, alarm = facts.si("start_level"), facts.si("alarm_level")
    depth, inlet = facts.si("pit_depth"), facts.optional("inlet_level")
    room = sizing.rules.low("BAS-08") if inlet is not None else sizing.rules.low("BAS-09")
    top = (depth if inlet is None else inlet) - room
    highest = math.floor(top / _STEP_M + 1e-9) * _STEP_M
    if highest <= start:
        return

    def at(level_m: float) -> Change:
        levels = {
            "start_level": _level(facts, "start_level", level_m),
            "alarm_level": _level(facts, "alarm_level", min(level_m + alarm - start, top)),
        }
        what = message("start at {level} instead of {now}", level=_size(level_m), now=_size(start))
        return Change(f"start-{levels['start_level'].value:g}", 1, what, _answering(**levels))

    def does(level_m: float) -> bool:
        found = matched(sizing, at(level_m).apply(sizing.job), catalogue)
        return found is not None and bool(found.fits)

    if _too_often(sizing) and does(highest):
        low, high = start, highest
        for _ in range(_HALVINGS):
            middle = math.ceil((low + high) / 2 / _STEP_M - 1e-9) * _STEP_M
            if middle >= high:
                break
            low, high = (low, middle) if does(middle) else (middle, high)
        yield at(high)
    else:  # no help alone; a stronger pump by another change may need it too
        yield at(highest)


def _too_often(sizing: Sizing) -> bool:
    """Whether pumps fell out, or the best try would, for starting too often or a short run."""
    failing = {one.code for one in sizing.checks if one.fatal} & {"starts", "run_time"}
    fell_out = {label for label, _ in sizing.match.out} if sizing.match else set()
    return bool(failing or fell_out & {TOO_OFTEN, TOO_SHORT})


def _wider_pit(sizing: Sizing) -> Iterator[Change]:
    facts = sizing.facts
    if not facts.asks("start_level") or not _too_often(sizing):
        return
    for times in (1.25, 1.5, 2.0, 2.5):
        wider = {
            key: _level(facts, key, times * facts.si(key))
            for key in ("pit_diameter", "pit_length", "pit_width")
            if facts.asks(key) and facts.optional(key) is not None
        }
        if facts.asks("rise_area") and facts.optional("rise_area") is None:
            # the water rose in the pit there is: a wider one lets no more come in
            area = pit_plan(facts).area_m2
            wider["rise_area"] = Figure(value=round(area, 4), unit="m²", provenance="measured")
        what = message("a pit {times} times as wide", times=f"{times:g}")
        yield Change(f"pit-{times:g}", 8, what, _answering(**wider))


def _throttled(sizing: Sizing, catalogue: Catalogue) -> Iterator[Change]:
    """A valve half shut behind a pump that would run off its curve; solids would catch in it."""
    facts = sizing.facts
    solid_m = sizing.kind.solid_m(facts, sizing.rules) if facts.asks("largest_solid") else 0.0
    nearest = sizing.match.nearest if sizing.match else None
    legs = [leg for leg in sizing.legs if leg.side == "delivery"]
    if nearest is None or solid_m > _MOST_SOLID_M or not legs:
        return
    if sizing.system is None or sizing.demand is None:
        return
    flow = _THROTTLED_TO * sizing.demand.needed_m3s
    curve = nearest.pump.curve
    if not curve.flows_m3s[0] <= flow <= curve.last_flow_m3s:
        return
    loss_m = float(curve.head_m(flow)) - sizing.system.head_at(flow)
    if loss_m <= 0.5:
        return
    last = legs[-1]
    made = items.read(f"throttle valve: {loss_m:.2f} m at {flow * 3600:.3f} m³/h", "metric")

    def apply(job: JobDocument) -> JobDocument:
        leg = job.leg(last.id)
        return job.with_leg(leg.model_copy(update={"items": (*leg.items, *made)}))

    yield Change(
        "throttle",
        2,
        message(
            "a valve behind the pump half shut, to {loss} at {flow}",
            loss=Measure(loss_m, "length"),
            flow=Measure(flow, "flow"),
        ),
        apply,
    )


def _other_pipe(sizing: Sizing) -> Iterator[Change]:
    """Pipes behind the pump one size wider, or narrower where water has to be fast."""
    legs = [leg for leg in sizing.legs if leg.side == "delivery"]
    for wider, word, cost in ((True, "wider", 4), (False, "narrower", 3)):
        if not wider and not sizing.kind.scour_rule_of(sizing.facts):
            continue
        sizes = {leg.id: next_size(leg, wider=wider) for leg in legs}
        able = [leg for leg in legs if sizes[leg.id] is not None]
        groups = [[leg] for leg in able] if len(able) > 1 else []
        for group in (*groups, *([able] if able else [])):
            chosen = {leg.id: sizes[leg.id] for leg in group}

            def apply(job: JobDocument, chosen: dict[str, str | None] = chosen) -> JobDocument:
                for leg_id, nominal in chosen.items():
                    entry = job.leg(leg_id)
                    job = job.with_leg(entry.model_copy(update={"nominal": nominal}))
                return job

            one = group[0]
            which = "every pipe behind the pump" if len(group) == len(able) else one.name
            yield Change(
                f"{word}-{'all' if len(group) == len(able) else one.id}",
                cost,
                message(
                    "{which} one size " + word + " ({size})",
                    which=which,
                    size=", ".join(dict.fromkeys(str(size) for size in chosen.values())),
                ),
                apply,
            )


def _panels(sizing: Sizing) -> Iterator[Change]:
    if not sizing.facts.asks("panels"):
        return
    now = sizing.facts.si("panels")
    for count in sorted({now + 1, now + 2, math.ceil(1.5 * now), 2 * now, 3 * now}):
        figure = Figure(value=count, unit="×", provenance="assumed")
        yield Change(
            f"panels-{count:g}",
            3 + int(count > 1.5 * now),
            message("{count} panels", count=f"{count:g}"),
            _answering(panels=figure),
        )


def _storage(sizing: Sizing) -> Iterator[Change]:
    """A weak well: an open tank that fills slowly, and a booster behind it."""
    facts = sizing.facts
    if facts.asks("fills") and facts.choice("fills") == "pressure":
        yield Change(
            "storage",
            9,
            message("an open storage tank that fills slowly, with a booster behind it"),
            _answering(fills="open"),
        )


def _other_supply(sizing: Sizing, catalogue: Catalogue) -> Iterator[Change]:
    """The supply that most pumps of the family need."""
    requirements = sizing.wanted.requirements if sizing.wanted else ()
    supply = next((one for one in requirements if isinstance(one, Supply)), None)
    if supply is None:
        return
    stated = np.isfinite(catalogue.column("voltage_v")) & np.isfinite(catalogue.column("phases"))
    rows = np.flatnonzero(  # half a supply that is stated is none to propose
        stated
        & _of_the_family(sizing, catalogue)
        & ~supply.met(catalogue)
        & ~supply.unknown(catalogue)
    )
    needed = Counter(
        zip(
            catalogue.column("voltage_v")[rows].tolist(),
            catalogue.column("phases")[rows].tolist(),
            strict=True,
        )
    )
    for (voltage, phases), _ in needed.most_common(2):
        yield Change(
            f"supply-{voltage:g}-{phases:g}",
            5,
            message(
                "a supply of {voltage}, {phases}-phase",
                voltage=Measure(voltage, "voltage"),
                phases=int(phases),
            ),
            _answering(
                voltage=Figure(value=voltage, unit="V", provenance="assumed"),
                phases=str(int(phases)),
            ),
        )


def _together(sizing: Sizing) -> Iterator[Change]:
    """Two in parallel, two in series."""
    if sizing.job.arrangement != "single":
        return
    for arrangement, word in (("parallel", "side by side"), ("series", "one after the other")):
        two = {"arrangement": arrangement, "running_pumps": 2}
        yield Change(
            arrangement,
            6,
            message("two pumps " + word),
            lambda job, two=two: job.model_copy(update=two),  # type: ignore[misc]
        )
