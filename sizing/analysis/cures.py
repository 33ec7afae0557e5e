"""What would let a pump fit where none does.

Each cure is worked out and tried before it is told.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sizing.base.message import Measure, Message, message
from sizing.document.answers import Facts
from sizing.document.job import Figure, JobDocument
from sizing.kinds.pit import pit_plan
from sizing.pump.catalogue import Catalogue
from sizing.selection.near_miss import next_size
from sizing.selection.requirement import AtMost, FamilyIn, Supply, Truths
from sizing.size import Sizing, size

_MOST = 4
_ROOM = 1.1  # over what is just enough, so that what is proposed does not stand at its limit
_MM = 1e-3


@dataclass(frozen=True)
class Trial:
    """Something changed, in words, and the job with it."""

    what: Message
    job: JobDocument


def cures(sizing: Sizing, catalogue: Catalogue) -> tuple[Message, ...]:
    """What would help, with how many pumps then fit and which is first; none where one fits.

    Only what was tried and helps is told, at most four.
    """
    if sizing.match is None or sizing.match.fits or sizing.no_pump_needed or sizing.problems:
        return ()
    if sizing.rough_head_m is not None:
        return ()
    found: list[Message] = []
    for trial in _trials(sizing, catalogue):
        said = _tried(sizing, trial, catalogue)
        if said is not None:
            found.append(said)
        if len(found) == _MOST:
            break
    return tuple(found)


def _tried(sizing: Sizing, trial: Trial, catalogue: Catalogue) -> Message | None:
    then = size(trial.job, catalogue, sizing.rules)
    if then.match is None or not then.match.fits or then.site_faults:
        return None
    values = dict(trial.what.values) | {
        "count": then.match.fit_count,
        "first": then.match.fits[0].pump.name,
    }
    one = then.match.fit_count == 1
    fit = "the {first} fits" if one else "{count} pumps fit, the {first} first"
    return Message(trial.what.template + ": " + fit, values)


def _trials(sizing: Sizing, catalogue: Catalogue) -> Iterator[Trial]:
    """The cure of each reason, those that cost least first."""
    yield from _other_levels(sizing, catalogue)
    yield from _wider_apart(sizing)
    yield from _wider_pipe(sizing)
    yield from _other_supply(sizing, catalogue)
    yield from _two_together(sizing)


def _answered(job: JobDocument, **answers: Figure | str) -> JobDocument:
    return job.model_copy(update={"answers": {**job.answers, **answers}})


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


def _other_levels(sizing: Sizing, catalogue: Catalogue) -> Iterator[Trial]:
    """Raise all levels to what the pumps of the family want over them."""
    requirements = sizing.wanted.requirements if sizing.wanted else ()
    low = [one for one in requirements if isinstance(one, AtMost) and one.field == "lowest_stop_m"]
    if not low or not sizing.facts.asks("stop_level"):
        return
    facts = sizing.facts
    stop = facts.si("stop_level")
    wanted = catalogue.column("lowest_stop_m")[_of_the_family(sizing, catalogue)]
    higher = sorted({float(one) for one in wanted if one > stop})
    for raised in higher[:1] + higher[-1:]:
        up = math.ceil(raised / 0.01) * 0.01 - stop
        levels = {
            key: _level(facts, key, facts.si(key) + up)
            for key in ("stop_level", "start_level", "alarm_level")
        }
        yield Trial(
            message("stop at {level}, start and alarm as much higher", level=_size(stop + up)),
            _answered(sizing.job, **levels),
        )


def _size(value_m: float) -> Measure:
    return Measure(value_m, "size")


def _wider_apart(sizing: Sizing) -> Iterator[Trial]:
    """Set the levels further apart where the nearest pump starts too often or runs too short."""
    failing = {check.code for check in sizing.checks if check.fatal}
    facts = sizing.facts
    if not failing & {"starts", "run_time"} or not facts.asks("start_level"):
        return
    stop, start = facts.si("stop_level"), facts.si("start_level")
    depth, inlet = facts.si("pit_depth"), facts.optional("inlet_level")
    room = sizing.rules.low("BAS-08") if inlet is not None else sizing.rules.low("BAS-09")
    highest = (depth if inlet is None else inlet) - room
    for times in (1.25, 1.5, 2.0, 3.0):
        wanted = stop + times * (start - stop)
        if wanted <= highest:
            levels = {
                "start_level": _level(facts, "start_level", wanted),
                "alarm_level": _level(
                    facts, "alarm_level", wanted + facts.si("alarm_level") - start
                ),
            }
            what = message(
                "start at {level} instead of {now}", level=_size(wanted), now=_size(start)
            )
            trial = Trial(what, _answered(sizing.job, **levels))
            if size_fits(sizing, trial):
                yield trial
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
        yield Trial(what, _answered(sizing.job, **wider))


def size_fits(sizing: Sizing, trial: Trial) -> bool:
    """Whether the best try of a sizing keeps its limits on a changed job."""
    nearest = sizing.match.nearest if sizing.match else None
    if nearest is None:
        return False
    then = size(trial.job, Catalogue([nearest.pump]), sizing.rules)
    return bool(then.match and then.match.fits)


def _wider_pipe(sizing: Sizing) -> Iterator[Trial]:
    """Every leg behind the pump one size wider."""
    job = sizing.job
    for entry in sizing.legs:
        wider = next_size(entry) if entry.side == "delivery" else None
        if wider is not None:
            job = job.with_leg(entry.model_copy(update={"nominal": wider}))
    if job is not sizing.job:
        yield Trial(message("every pipe behind the pump one size wider"), job)


def _other_supply(sizing: Sizing, catalogue: Catalogue) -> Iterator[Trial]:
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
        yield Trial(
            message(
                "a supply of {voltage}, {phases}-phase",
                voltage=Measure(voltage, "voltage"),
                phases=int(phases),
            ),
            _answered(
                sizing.job,
                voltage=Figure(value=voltage, unit="V", provenance="assumed"),
                phases=str(int(phases)),
            ),
        )


def _two_together(sizing: Sizing) -> Iterator[Trial]:
    """Two in parallel, then two in series."""
    if sizing.job.arrangement != "single":
        return
    for arrangement, word in (("parallel", "side by side"), ("series", "one after the other")):
        job = sizing.job.model_copy(update={"arrangement": arrangement, "running_pumps": 2})
        yield Trial(message("two pumps " + word), job)
