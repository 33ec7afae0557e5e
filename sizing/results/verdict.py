"""The sizing in a sentence.

What is needed, what was picked, where it will run, what to look out for.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from sizing.base.message import Filling, Measure, Message, message
from sizing.checks.base import Check
from sizing.selection.chance import sure_of_it
from sizing.selection.match import Candidate
from sizing.size import Chosen, Sizing

State = Literal["open", "good", "watch", "bad"]
_MOST_WORRIES = 3
_MOST_NAMED = 5


@dataclass(frozen=True)
class Verdict:
    """The main sentence in pieces, and the worries below it, the worst first.

    Open: facts are missing. Bad: nothing fits, or something would not live or cannot work. Watch:
    something that should hold fails. Good: no check fails. Each worry has its check's state.
    """

    state: State
    main: Message
    worries: tuple[tuple[str, Message], ...]


def verdict(sizing: Sizing) -> Verdict:
    """The verdict on a sizing, whole or not."""
    worries = tuple(_worries(sizing))
    if sizing.demand is None or sizing.system is None or sizing.wanted is None:
        if sizing.rough_head_m is not None:
            return Verdict("open", _rough(sizing, sizing.rough_head_m), worries)
        state: State = "bad" if sizing.wrong else "open"
        return Verdict(state, _still_needed(sizing), worries)
    needs = message(
        "Needs {flow} at {head}.",
        flow=Measure(sizing.demand.needed_m3s, "flow"),
        head=Measure(sizing.needed_head_m or 0.0, "length"),
    )
    if sizing.no_pump_needed is not None and sizing.chosen is None:
        return Verdict(state_of(sizing), sizing.no_pump_needed, worries)
    if _broke(sizing):
        return Verdict("open", _joined(needs, _not_worked_out(sizing)), worries)
    said = [needs, *(_fault(one) for one in sizing.site_faults[:1])]
    if sizing.chosen is None or not (sizing.chosen.fits or sizing.chosen.by_person):
        return Verdict("bad", _joined(*said, _nothing(sizing)), worries)
    return Verdict(state_of(sizing), _joined(*said, _runs(sizing, sizing.chosen)), worries)


def state_of(sizing: Sizing) -> State:
    """One word for a whole sizing, the same on bench, worksheet, paper and in files."""
    failing = [check for check in sizing.checks if check.state == "fail"]
    unfit = sizing.no_pump_needed is None and not (sizing.chosen and sizing.chosen.fits)
    # what is not stated is not unfit: a person who picks it is told what to ask
    to_ask = unfit and sizing.chosen is not None and sizing.chosen.asks
    unfit = unfit and not to_ask
    if sizing.demand is None or sizing.system is None or sizing.wanted is None:
        return "bad" if sizing.wrong else "open"
    if _broke(sizing):
        return "open"
    if unfit or sizing.problems or any(check.fatal for check in failing):
        return "bad"
    left_out = any(missing.path.startswith("legs.") for missing in sizing.missing)
    return "watch" if failing or left_out or to_ask or sizing.failures else "good"


def _broke(sizing: Sizing) -> bool:
    """Whether no pump stands there because a part broke: that is no judgement on any pump."""
    unneeded = sizing.no_pump_needed is not None
    return bool(sizing.failures) and sizing.chosen is None and not unneeded


def _not_worked_out(sizing: Sizing) -> Message:
    return message(
        "This could not be worked out: {about}. What is typed is kept.",
        about=sizing.failures[0].about,
    )


def _rough(sizing: Sizing, head_m: float) -> Message:
    """What would do for a flow and a head that somebody told: rough, and said to be."""
    found, needed = sizing.match, sizing.demand.needed_m3s if sizing.demand else 0.0
    duty = {"flow": Measure(needed, "flow"), "head": Measure(head_m, "length")}
    if found is None or not found.fits:
        return message("Rough: {flow} at {head}, and no pump would do. Give the run.", **duty)
    return message(
        "Rough: {flow} at {head}. Of {considered} pumps {count} would do, the {name} first; nothing"
        " is proved until the run is known.",
        **duty,
        considered=found.considered,
        count=found.fit_count,
        name=found.fits[0].pump.name,
    )


def _fault(check: Check) -> Message:
    """What the site does to every pump, and what to change."""
    values = dict(check.message.values) | {"label": check.label, "remedy": check.remedy}
    return Message("The site first: {label}. " + check.message.template + " {remedy}", values)


def _joined(*sentences: Message, between: str = " ") -> Message:
    values: dict[str, Filling] = {}
    template = []
    for index, sentence in enumerate(sentences):
        named = {key: f"{key}_{index}" for key in sentence.values}
        template.append(
            sentence.template.format(**{key: "{" + new + "}" for key, new in named.items()})
        )
        values |= {named[key]: value for key, value in sentence.values.items()}
    return Message(between.join(template), values)


def _still_needed(sizing: Sizing) -> Message:
    labels = [missing.label[:1].lower() + missing.label[1:] for missing in sizing.missing]
    if not labels and sizing.failures:
        return _not_worked_out(sizing)
    if not labels:
        return message(
            "Something is wrong: {problem}.",
            problem=sizing.problems[0] if sizing.problems else "nothing is known yet",
        )
    if len(labels) > _MOST_NAMED:
        labels = [*labels[: _MOST_NAMED - 1], f"{len(labels) - _MOST_NAMED + 1} more (marked ▲)"]
    listed = labels[0] if len(labels) == 1 else f"{', '.join(labels[:-1])} and {labels[-1]}"
    return message("Still needed: {listed}.", listed=listed)


def _nothing(sizing: Sizing) -> Message:
    """That no pump fits: the best try, what it gives and why it does not do."""
    found = sizing.match
    if found is None or not found.considered:
        return message("The catalogue is empty: import pumps first.")
    if found.nearest is None:
        return message("No pump of {count} fits, and none comes near.", count=found.considered)
    nearest = found.nearest
    said = message(
        "No pump of {count} fits; nearest: {name}",
        count=found.considered,
        name=nearest.pump.name,
    )
    short = not math.isnan(nearest.surplus) and nearest.surplus < 0
    if short and sizing.demand and not math.isnan(nearest.flow_m3s):
        gives = message(
            ", gives {gives} of {needed}.",
            gives=Measure(nearest.flow_m3s, "flow"),
            needed=Measure(sizing.demand.needed_m3s, "flow"),
        )
        return _joined(said, gives, between="")
    why = next(iter(nearest.reasons), message("it gives too little"))
    return _joined(said, Message(" (" + why.template + ").", why.values), between="")


def _runs(sizing: Sizing, chosen: Chosen) -> Message:
    name, one = chosen.candidate.pump.name, chosen.candidate
    if chosen.operating_point.status == "cannot_lift":
        return message("The {name} cannot lift it.", name=name)
    if chosen.operating_point.status == "off_end" or chosen.operating_point.point is None:
        return message("The {name} would run off the end of its curve.", name=name)
    if one.excess_m:
        said = message(
            "The {name} holds {head} there, {excess} more than the run asks, at {share} of its best"
            " flow.",
            name=name,
            head=Measure(one.head_m, "length"),
            excess=Measure(one.excess_m, "length"),
            share=Measure(one.share_of_best_flow, "ratio"),
        )
        return _with_chance(one, said)
    if sizing.wanted and sizing.wanted.served is not None:
        return message(
            "The {name} gives {surplus} "
            + ("more than" if one.surplus >= 0 else "less than")
            + " its hardest month needs; in full sun {flow} at {head}, {share} of its best flow.",
            name=name,
            surplus=Measure(abs(one.surplus), "ratio"),
            flow=Measure(one.flow_m3s, "flow"),
            head=Measure(one.head_m, "length"),
            share=Measure(one.share_of_best_flow, "ratio"),
        )
    needed = sizing.demand.needed_m3s if sizing.demand else 0.0
    surplus = chosen.operating_point.point.flow_m3s / needed - 1.0
    hand = "with {surplus} in hand" if surplus >= 0 else "{surplus} short of it"
    return _with_chance(
        one,
        message(
            "The {name} will run at {flow}, {head}, at {share} of its best flow, " + hand + ".",
            name=name,
            flow=Measure(chosen.operating_point.point.flow_m3s, "flow"),
            head=Measure(chosen.operating_point.point.head_m, "length"),
            share=Measure(one.share_of_best_flow, "ratio"),
            surplus=Measure(abs(surplus), "ratio"),
        ),
    )


def _with_chance(one: Candidate, said: Message) -> Message:
    """The sentence with how sure the pump is of its duty, where that was worked out."""
    if one.chance is None:
        return said
    sure = sure_of_it(one.chance)
    values = dict(said.values) | dict(sure.values)
    return Message(said.template.rstrip(".") + "; " + sure.template + ".", values)


def _worries(sizing: Sizing) -> list[tuple[str, Message]]:
    found: list[tuple[str, Message]] = []
    if sizing.system is not None:  # first of all: the result stands on less than the whole run
        found += [
            ("fail", message("left out: {label} is not known", label=missing.label))
            for missing in sizing.missing
            if missing.path.startswith("legs.")
        ]
    found += [
        ("fail", message("could not be worked out: {about}", about=one.about))
        for one in sizing.failures
    ]
    found += [("fail", message("{problem}", problem=problem)) for problem in sizing.problems]
    if sizing.chosen and not sizing.chosen.fits:
        said = 0 if sizing.chosen.by_person else 1  # the first stands in the main sentence
        sign = "watch" if sizing.chosen.asks else "fail"
        found += [(sign, reason) for reason in sizing.chosen.candidate.reasons[said:]]
    for state in ("fail", "watch"):
        found += [
            (
                state,
                message(
                    "{label}: {word}",
                    label=check.label,
                    word="fails" if state == "fail" else "watch",
                ),
            )
            for check in sorted(sizing.checks, key=lambda check: check.weight != "must")
            if check.state == state and check.weight != "note" and check.raised is None
        ]
    chance = sizing.chosen.candidate.chance if sizing.chosen else None
    if chance is not None and chance < sizing.rules.value("CHO-16"):
        found.append(
            (
                "watch",
                message(
                    "only {chance} sure of its duty: see what to measure first",
                    chance=Measure(chance, "ratio"),
                ),
            )
        )
    assumed = sizing.facts.provenances()["assumed"]
    if sizing.demand and len(found) < _MOST_WORRIES and assumed:
        found.append(("watch", message("{count} figures are only assumed", count=len(assumed))))
    return found[:_MOST_WORRIES]
