"""The pumps and the checks as the worksheet and the paper print them."""

from __future__ import annotations

from functools import partial

from kyrtos.worksheet.dialogs import buttons
from kyrtos.worksheet.sheet_views import CandidateView, CheckView, Choosing, WorkingView
from sizing.analysis.remedies import Remedy
from sizing.base import units
from sizing.base.failure import Parts
from sizing.base.message import Working
from sizing.base.units import System
from sizing.checks.base import CHECK_WORDS, Check
from sizing.selection.match import Candidate, Match
from sizing.size import Sizing

_MOST_SHOWN = 6
SIGNS = {"hold": "✓", "watch": "▲", "fail": "✕"}
WORD_SIGNS = {"bad": "✕", "ask": "?", "watch": "▲"}  # of the reasons of a verdict


def working(made: Working, system: System) -> WorkingView:
    """A working as text."""
    return WorkingView(
        made.title, made.formula, tuple(made.lines(system)), made.source, made.stands_on
    )


def choosing(sizing: Sizing, currency: str, remedies: tuple[Remedy, ...], parts: Parts) -> Choosing:
    """The pumps of a sizing: those that fit, might do or nearly do, and why the rest is out."""
    match = sizing.match or Match((), (), 0, 0)
    system = sizing.job.units
    asked = sizing.system is not None and bool(match.fits or match.nearest)

    def listed(found: tuple[Candidate, ...]) -> tuple[CandidateView, ...]:
        return candidates(found, sizing, currency, parts)

    return Choosing(
        dialogs=buttons(sizing, "choosing") if asked else (),
        candidates=listed(match.fits[:_MOST_SHOWN]),
        near_misses=listed(match.near_misses),
        fit_count=match.fit_count,
        considered=match.considered,
        rough=sizing.rough_head_m is not None,
        near_count=match.near_count,
        out=match.out,
        order=tuple((rule_id, text.text(system)) for rule_id, text in match.order),
        picked_by_person=sizing.job.pump is not None,
        pump_id=sizing.chosen.candidate.pump.pump_id if sizing.chosen else "",
        to_ask=listed(match.to_ask),
        ask_count=match.ask_count,
        nearest=listed(nearest_beside(sizing.match)),
        remedies=tuple((one.key, one.said.text(system)) for one in remedies),
    )


def candidates(
    found: tuple[Candidate, ...], sizing: Sizing, currency: str, parts: Parts
) -> tuple[CandidateView, ...]:
    made = [
        parts.part(one.pump.name, partial(_candidate, one, sizing, currency), None) for one in found
    ]
    return tuple(one for one in made if one is not None)


def _candidate(one: Candidate, sizing: Sizing, currency: str) -> CandidateView:
    system = sizing.job.units
    picked = sizing.chosen.candidate.pump.pump_id if sizing.chosen else ""
    runs = one.status == "operates"
    return CandidateView(
        pump_id=one.pump.pump_id,
        name=one.pump.name,
        flow=units.show(one.flow_m3s, "flow", system) if runs else "—",
        head=units.show(one.head_m, "length", system) if runs else "—",
        why="; ".join(reason.text(system) for reason in one.reasons),
        cost=(
            f"{currency}\u00a0{units.number_text(one.cost_per_year, 0)} a year"
            if one.cost_per_year is not None
            else ""
        ),
        picked=one.pump.pump_id == picked,
        rough=one.pump.rough,
    )


def checks(sizing: Sizing, parts: Parts, *, notes: bool) -> tuple[CheckView, ...]:
    """What must and should hold, the worst first, a must before a should; or the notes."""
    worst_first = tuple(SIGNS)[::-1]
    found = sorted(
        (check for check in sizing.checks if (check.weight == "note") == notes),
        key=lambda check: (worst_first.index(check.state), check.weight != "must"),
    )
    return tuple(_check_alone(check, sizing.job.units, parts) for check in found)


def _check_alone(check: Check, system: System, parts: Parts) -> CheckView:
    """A check in words; where the words break, that it could not be told."""
    untold = CheckView(
        label=check.label,
        state=check.state,
        sign=SIGNS[check.state],
        word=CHECK_WORDS[check.state],
        said="What was found could not be put into words.",
        remedy="" if check.state == "hold" else check.remedy,
        working=None,
        tone=_TONES[check.state],
    )
    return parts.part(check.label, lambda: _check(check, system), untold)


def best_try(sizing: Sizing) -> str:
    chosen = sizing.chosen
    return "" if chosen is None or chosen.fits or chosen.by_person else chosen.candidate.pump.name


def nearest_beside(match: Match | None) -> tuple[Candidate, ...]:
    """The best try, where it stands in no other list."""
    if match is None or match.nearest is None or match.to_ask or match.near_misses:
        return ()
    return (match.nearest,)


_TONES = {"hold": "good", "watch": "watch", "fail": "bad"}
_WHOSE = {"site": "The site:", "pump": "The pump:"}


def _check(check: Check, system: System) -> CheckView:
    note = check.weight == "note"
    shown = working(check.working, system) if check.working else None
    return CheckView(
        label=check.label,
        state=check.state,
        sign="·" if note else "?" if check.asks else SIGNS[check.state],
        word="not worked out"
        if check.raised
        else "ask"
        if check.asks
        else CHECK_WORDS[check.state],
        said=check.message.text(system),
        remedy="" if check.state == "hold" else check.remedy,
        working=shown,
        tone="soft" if note else _TONES[check.state],
        whose="" if note or check.raised or check.state == "hold" else _WHOSE[check.about],
    )
