"""The sizing in a sentence.

What is needed, what was picked, where it will run, what to look out for.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from sizing.base.message import Measure, Message, message
from sizing.size import Chosen, Sizing

State = Literal["open", "good", "bad"]
_MOST_WORRIES = 3
_MOST_NAMED = 5


@dataclass(frozen=True)
class Verdict:
    """The main sentence in pieces, and the worries below it, the worst first.

    Each worry has its check's state.
    """

    state: State
    main: Message
    worries: tuple[tuple[str, Message], ...]


def verdict(sizing: Sizing) -> Verdict:
    """The verdict on a sizing, whole or not."""
    worries = tuple(_worries(sizing))
    if sizing.demand is None or sizing.system is None or sizing.ledger is None:
        return Verdict("open", _still_needed(sizing), worries)
    needs = message(
        "Needs {flow} at {head}.",
        flow=Measure(sizing.demand.needed_m3s, "flow"),
        head=Measure(sizing.system.head_at(sizing.demand.needed_m3s), "length"),
    )
    if sizing.chosen is None:
        return Verdict("bad", _joined(needs, _nothing(sizing)), worries)
    return Verdict(
        "good" if sizing.chosen.fits else "bad",
        _joined(needs, _runs(sizing, sizing.chosen)),
        worries,
    )


def _joined(*sentences: Message) -> Message:
    values: dict[str, Measure | str | int] = {}
    template = []
    for index, sentence in enumerate(sentences):
        named = {key: f"{key}_{index}" for key in sentence.values}
        template.append(
            sentence.template.format(**{key: "{" + new + "}" for key, new in named.items()})
        )
        values |= {named[key]: value for key, value in sentence.values.items()}
    return Message(" ".join(template), values)


def _still_needed(sizing: Sizing) -> Message:
    labels = [missing.label[:1].lower() + missing.label[1:] for missing in sizing.missing]
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
    if sizing.match is None or not sizing.match.considered:
        return message("The catalogue is empty: import pumps first.")
    if sizing.match.near_misses:
        nearest = sizing.match.near_misses[0]
        return message(
            "No pump of {count} fits; {name} comes nearest.",
            count=sizing.match.considered,
            name=nearest.pump.name,
        )
    return message("No pump of {count} fits, and none comes near.", count=sizing.match.considered)


def _runs(sizing: Sizing, chosen: Chosen) -> Message:
    name, one = chosen.candidate.pump.name, chosen.candidate
    if chosen.operating_point.status == "cannot_lift":
        return message("The {name} cannot lift it.", name=name)
    if chosen.operating_point.status == "off_end" or chosen.operating_point.point is None:
        return message("The {name} would run off the end of its curve.", name=name)
    needed = sizing.demand.needed_m3s if sizing.demand else 0.0
    surplus = chosen.operating_point.point.flow_m3s / needed - 1.0
    hand = "with {surplus} in hand" if surplus >= 0 else "{surplus} short of it"
    return message(
        "The {name} will run at {flow}, {head}, at {share} of its best flow, " + hand + ".",
        name=name,
        flow=Measure(chosen.operating_point.point.flow_m3s, "flow"),
        head=Measure(chosen.operating_point.point.head_m, "length"),
        share=Measure(one.share_of_best_flow, "ratio"),
        surplus=Measure(abs(surplus), "ratio"),
    )


def _worries(sizing: Sizing) -> list[tuple[str, Message]]:
    found: list[tuple[str, Message]] = []
    if sizing.system is not None:  # first of all: the result stands on less than the whole run
        found += [
            ("fail", message("left out: {label} is not known", label=missing.label))
            for missing in sizing.missing
            if missing.path.startswith("legs.")
        ]
    found += [("fail", message("{problem}", problem=problem)) for problem in sizing.problems]
    if sizing.chosen and not sizing.chosen.fits:
        found += [("fail", reason) for reason in sizing.chosen.candidate.reasons]
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
            for check in sizing.checks
            if check.state == state
        ]
    assumed = sizing.facts.provenances()["assumed"]
    if sizing.demand and len(found) < _MOST_WORRIES and assumed:
        found.append(("watch", message("{count} figures are only assumed", count=len(assumed))))
    return found[:_MOST_WORRIES]
