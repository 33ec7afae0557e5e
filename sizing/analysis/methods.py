"""The schools of friction side by side.

What each gives in head at the flow needed, and in the pump's real flow.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sizing.analysis.changed import Known, changed_system
from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.checks.method_range import out_of_range
from sizing.document.job import JobDocument
from sizing.hydraulics.quick_rules import aquarium_rule, pond_rule
from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
from sizing.operating_point.one import Status, operating_point
from sizing.operating_point.outlets import held

_FAR = 0.25  # a school this far off the one in force is remarked on


@dataclass(frozen=True)
class School:
    """One school's answer.

    ``flow_m3s`` is what the chosen pump really gives by it (None without a pump or a crossing).
    """

    code: str
    label: str
    head_m: float
    loss_m: float
    flow_m3s: float | None
    status: Status | None
    in_force: bool
    cautions: tuple[Message, ...]


# School: how the job is changed for it; ``wall`` goes to every leg.
_SCHOOLS: tuple[tuple[str, str, dict[str, Any]], ...] = (
    (
        "darcy_weisbach",
        "Darcy-Weisbach, walls as entered",
        {"friction": "darcy_weisbach", "fitting_method": "k"},
    ),
    (
        "darcy_new",
        "Darcy-Weisbach, all new and clean",
        {"friction": "darcy_weisbach", "fitting_method": "k", "wall": "new"},
    ),
    (
        "darcy_aged",
        "Darcy-Weisbach, all slimed or lightly rusted",
        {"friction": "darcy_weisbach", "fitting_method": "k", "wall": "aged"},
    ),
    (
        "hazen_williams",
        "Hazen-Williams, walls as entered",
        {"friction": "hazen_williams", "fitting_method": "k"},
    ),
    (
        "hazen_new",
        "Hazen-Williams, C when new",
        {"friction": "hazen_williams", "fitting_method": "k", "wall": "new"},
    ),
    (
        "hazen_aged",
        "Hazen-Williams, C when aged",
        {"friction": "hazen_williams", "fitting_method": "k", "wall": "aged"},
    ),
    ("two_k", "Fittings by size and Reynolds number (2-K)", {"fitting_method": "hooper"}),
    ("three_k", "Fittings by size and Reynolds number (3-K)", {"fitting_method": "darby"}),
    ("equivalent", "Fittings by equivalent length", {"fitting_method": "equivalent_length"}),
    ("percent", "Fittings as a share of the pipe", {"fitting_method": "percent"}),
)


def schools(base: Known) -> tuple[School, ...]:
    """Every school, the exact ones first; one that cannot say is left out."""
    found = []
    for code, label, how in _SCHOOLS:
        try:
            system = changed_system(base, _by(base.sizing.job, how))
        except SizingError:
            continue
        found.append(
            _school(base, code, label, system, tuple(out_of_range(system, base.demand.needed_m3s)))
        )
    return (*found, *_quick_rules(base))


def _by(job: JobDocument, how: dict[str, Any]) -> JobDocument:
    plain = {key: value for key, value in how.items() if key != "wall"}
    legs = (
        tuple(leg.model_copy(update={"wall": how["wall"]}) for leg in job.legs)
        if "wall" in how
        else job.legs
    )
    return job.model_copy(update={**plain, "legs": legs})


def _school(
    base: Known, code: str, label: str, system: SystemCurve, cautions: tuple[Message, ...]
) -> School:
    needed = base.demand.needed_m3s
    head = system.head_at(needed)
    run = None if base.curve is None else operating_point(base.curve, system)
    wanted = base.sizing.wanted
    if run is not None and base.curve is not None and wanted and wanted.held_by_outlets:
        run = held(run, base.curve, system, needed)
    in_force = system.route == base.system.route
    ours = base.system.head_at(needed) - base.system.static_head_m
    loss = head - base.system.static_head_m
    if not in_force and ours > 0.01 and abs(loss - ours) > _FAR * ours:
        word = "more" if loss > ours else "less"
        cautions = (
            *cautions,
            message(
                "it sees {off} {word} friction than what is in force",
                off=Measure(abs(loss / ours - 1), "ratio"),
                word=word,
            ),
        )
    return School(
        code=code,
        label=label,
        head_m=head,
        loss_m=loss,
        flow_m3s=run.point.flow_m3s if run and run.point else None,
        status=run.status if run else None,
        in_force=in_force,
        cautions=cautions,
    )


def _quick_rules(base: Known) -> Iterator[School]:
    """The trade's rules of thumb for ponds and aquariums: a head that does not know the flow."""
    fittings = Counter(
        one.fitting
        for leg in base.sizing.job.legs
        for one in leg.fittings
        for _ in range(one.count)
    )
    for code, label, quick, rule_ids in (
        (
            "pond",
            "Pond rule: a tenth of the tubing",
            pond_rule(base.system, base.rules),
            ("PND-01", "VEL-15"),
        ),
        (
            "aquarium",
            "Aquarium rule: a tenth of the flat run, so much an elbow",
            aquarium_rule(base.system, fittings, base.rules),
            ("AQU-05", "VEL-16"),
        ),
    ):
        flat = Leg(1.0, 0.0, 0.0, 0.0, quick.head_m)
        system = SystemCurve(Route((flat,), 0.0), base.system.water)
        yield _school(base, code, label, system, tuple(_quick_caution(base, *rule_ids)))


def _quick_caution(base: Known, rule_id: str, speed_rule: str) -> Iterator[Message]:
    """A quick rule holds at one speed in smooth pipe of a garden's size.

    Anywhere else it says why not.
    """
    low, high = base.rules.low(speed_rule), base.rules.high(speed_rule)
    speeds = base.system.velocities_m_s(base.demand.needed_m3s)[:, 0]
    slow, fast = float(speeds.min()), float(speeds.max())
    if not low <= slow <= fast <= high:
        found = slow if slow < low else fast
        yield message(
            "outside its range: it belongs to {low} to {high} in the pipe, and this runs at {found}"
            " (rules {rule}, {speed_rule})",
            low=Measure(low, "velocity"),
            high=Measure(high, "velocity"),
            found=Measure(found, "velocity"),
            rule=rule_id,
            speed_rule=speed_rule,
        )
    else:
        yield message("blind to bore and flow (rule {rule})", rule=rule_id)
