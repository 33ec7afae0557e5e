"""The sizing in a sentence.

What is needed, what was picked, where it will run, what to look out for.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

from sizing.base.message import Measure, Message, joined, message
from sizing.checks.base import Check
from sizing.selection.chance import sure_of_it
from sizing.selection.match import Candidate
from sizing.size import Chosen, Sizing

State = Literal["open", "good", "ask", "watch", "bad"]
_MOST_NAMED = 5
_HELD_BACK_BY = 2  # reasons that the headline names


@dataclass(frozen=True)
class Reason:
    """One thing that keeps a sizing from being good.

    Bad: it would not live, is unsafe or cannot work. Ask: somebody's word is wanting, the maker's
    or the customer's. Watch: it works, and somebody has to know.
    """

    state: State
    said: Message
    check: Check | None = None


@dataclass(frozen=True)
class Verdict:
    """The main sentence in pieces, and the reasons below it, the worst first.

    Open: facts are missing. Else the worst of the reasons; good where there is none.
    """

    state: State
    main: Message
    worries: tuple[tuple[State, Message], ...]


class Helps(Protocol):
    """Something tried that would help, as :mod:`sizing.analysis.remedies` finds it."""

    @property
    def what(self) -> Message:
        """What to change."""

    @property
    def said(self) -> Message:
        """What to change, and what would then be."""


def best_of(helps: Sequence[Helps]) -> Message | None:
    """The first of what would help, for the headline."""
    return helps[0].what if helps else None


def verdict(sizing: Sizing, best: Message | None = None) -> Verdict:
    """The verdict on a sizing, whole or not; with the ``best`` remedy that was tried, if any."""
    found = reasons(sizing)
    worries = tuple((one.state, one.said) for one in found)
    state = _state(sizing, found)
    if sizing.demand is None or sizing.system is None or sizing.wanted is None:
        if sizing.rough_head_m is not None:
            return Verdict(state, _rough(sizing, sizing.rough_head_m), worries)
        return Verdict(state, _still_needed(sizing), worries)
    needs = message(
        "Needs {flow} at {head}.",
        flow=Measure(sizing.demand.needed_m3s, "flow"),
        head=Measure(sizing.needed_head_m or 0.0, "length"),
    )
    if sizing.no_pump_needed is not None and sizing.chosen is None:
        return Verdict(state, sizing.no_pump_needed, worries)
    if _broke(sizing):
        return Verdict(state, joined(needs, _not_worked_out(sizing)), worries)
    if sizing.chosen is None or not (sizing.chosen.fits or sizing.chosen.by_person):
        said = [_fault(one) for one in sizing.site_faults[:1]]
        helps = [] if best is None else [joined(message("What would help:"), _ended(best))]
        return Verdict(state, joined(needs, *said, _nothing(sizing), *helps), worries)
    return Verdict(
        state, joined(needs, *_first(found), _runs(sizing, sizing.chosen), *_rest(found)), worries
    )


def state_of(sizing: Sizing) -> State:
    """One word for a whole sizing, the same on bench, worksheet, paper and in files."""
    return _state(sizing, reasons(sizing))


def _state(sizing: Sizing, found: tuple[Reason, ...]) -> State:
    if sizing.demand is None or sizing.system is None or sizing.wanted is None:
        return "bad" if sizing.wrong and sizing.rough_head_m is None else "open"
    if _broke(sizing):
        return "open"
    return found[0].state if found else "good"


def reasons(sizing: Sizing) -> tuple[Reason, ...]:
    """All that keeps a sizing from being good, the worst first: the one source of its word.

    Nothing of a note: it informs. A *must* that is only watched, or not known, is no good one.
    """
    found = [*_of_the_job(sizing), *_of_the_pump(sizing)]
    for check in sizing.checks:
        kind = _kind_of(check)
        if kind is not None:
            found.append(Reason(kind, _named(check), check))
    order: tuple[State, ...] = ("bad", "ask", "watch")
    return tuple(sorted(found, key=lambda one: (order.index(one.state), not _of_site(one))))


def _of_site(reason: Reason) -> bool:
    """The site first: no other pump would mend it."""
    return reason.check is None or reason.check.about == "site"


def _kind_of(check: Check) -> State | None:
    if check.weight == "note" or check.raised is not None or check.state == "hold":
        return None
    if check.asks:
        return "ask"
    if check.fatal:
        return "bad"
    return "watch" if check.state == "fail" or check.weight == "must" else None


def _named(check: Check) -> Message:
    word = "fails" if check.state == "fail" else "to be asked" if check.asks else "watch"
    return message("{label}: {word}", label=check.label, word=word)


def _of_the_job(sizing: Sizing) -> list[Reason]:
    """What is wrong, broken, left out, or merely assumed."""
    found = [Reason("bad", message("{problem}", problem=one)) for one in sizing.problems]
    if sizing.system is not None and sizing.demand is not None:
        # first of all: the result stands on less than the whole run, or was not looked at in part
        found += [
            Reason("watch", message("left out: {label} is not known", label=missing.label))
            for missing in sizing.missing
        ]
    found += [
        Reason("watch", message("could not be worked out: {about}", about=one.about))
        for one in sizing.failures
    ]
    if sizing.decisive and sizing.demand is not None and sizing.system is not None:
        listed = ", ".join(sizing.decisive[:_MOST_NAMED])
        found.append(Reason("watch", message("only assumed: {listed}", listed=listed)))
    return found


def _of_the_pump(sizing: Sizing) -> list[Reason]:
    """Why the pump on the job does not fit, or is not sure of its duty."""
    chosen = sizing.chosen
    if chosen is None:
        nothing = sizing.match is not None and sizing.no_pump_needed is None
        return [Reason("bad", message("no pump fits"))] if nothing else []
    one = chosen.candidate
    if not chosen.fits:
        state: State = "ask" if one.might_do else "bad"
        told = one.reasons or (message("it does not fit"),)
        return [Reason(state, why) for why in told]
    if one.chance is not None and one.chance < sizing.rules.value("CHO-16"):
        said = message(
            "only {chance} sure of its duty: see what to measure first",
            chance=Measure(one.chance, "ratio"),
        )
        return [Reason("watch", said)]
    return []


def _first(found: tuple[Reason, ...]) -> list[Message]:
    """The first reason that is bad, in full: what is wrong and what to do."""
    first = found[0] if found else None
    if first is None or first.state != "bad" or first.check is None:
        return []
    return [_fault(first.check)]


def _rest(found: tuple[Reason, ...]) -> list[Message]:
    """What holds it back, where nothing is bad: the first of all, by name."""
    if not found or found[0].state == "bad":
        return []
    state = found[0].state
    named = [one for one in found if one.state == state][:_HELD_BACK_BY]
    labels = [
        message("{label}", label=one.check.label[:1].lower() + one.check.label[1:])
        if one.check
        else one.said
        for one in named
    ]
    word = message("To be asked:" if state == "ask" else "Watch:")
    return [joined(word, _ended(joined(*labels, between="; ")))]


def _ended(sentence: Message) -> Message:
    return Message(sentence.template.rstrip(".") + ".", sentence.values)


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
    """What the site does to every pump, or this pump to itself, and what to change."""
    values = dict(check.message.values) | {"label": check.label, "remedy": check.remedy}
    first = "The site first: " if check.about == "site" else "First: "
    return Message(first + "{label}. " + check.message.template + " {remedy}", values)


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
        return _with_chance(nearest, joined(said, gives, between=""))
    why = next(iter(nearest.reasons), message("it gives too little"))
    return joined(said, Message(" (" + why.template + ").", why.values), between="")


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
