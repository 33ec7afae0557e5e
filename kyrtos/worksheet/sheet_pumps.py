"""The pumps and the checks as the worksheet and the paper print them."""

from __future__ import annotations

from kyrtos.worksheet.dialogs import buttons
from kyrtos.worksheet.sheet_views import CandidateView, CheckView, Choosing, WorkingView
from sizing.base import units
from sizing.base.message import Message, Working
from sizing.base.units import System
from sizing.checks.base import CHECK_WORDS, Check
from sizing.selection.match import Candidate, Match
from sizing.size import Sizing

_MOST_SHOWN = 6
SIGNS = {"hold": "✓", "watch": "▲", "fail": "✕"}


def working(made: Working, system: System) -> WorkingView:
    """A working as text."""
    return WorkingView(
        made.title, made.formula, tuple(made.lines(system)), made.source, made.stands_on
    )


def choosing(sizing: Sizing, currency: str, cures: tuple[Message, ...]) -> Choosing:
    """The pumps of a sizing: those that fit, might do or nearly do, and why the rest is out."""
    match = sizing.match or Match((), (), 0, 0)
    system = sizing.job.units
    asked = sizing.system is not None and bool(match.fits or match.nearest)
    return Choosing(
        dialogs=buttons(sizing, "choosing") if asked else (),
        candidates=candidates(match.fits[:_MOST_SHOWN], sizing, currency),
        near_misses=candidates(match.near_misses, sizing, currency),
        fit_count=match.fit_count,
        considered=match.considered,
        rough=sizing.rough_head_m is not None,
        near_count=match.near_count,
        out=match.out,
        order=tuple((rule_id, text.text(system)) for rule_id, text in match.order),
        picked_by_person=sizing.job.pump is not None,
        pump_id=sizing.chosen.candidate.pump.pump_id if sizing.chosen else "",
        to_ask=candidates(match.to_ask, sizing, currency),
        ask_count=match.ask_count,
        nearest=candidates(nearest_beside(sizing.match), sizing, currency),
        cures=tuple(cure.text(system) for cure in cures),
    )


def candidates(
    found: tuple[Candidate, ...], sizing: Sizing, currency: str
) -> tuple[CandidateView, ...]:
    system, picked = (
        sizing.job.units,
        sizing.chosen.candidate.pump.pump_id if sizing.chosen else "",
    )
    return tuple(
        CandidateView(
            pump_id=one.pump.pump_id,
            name=one.pump.name,
            flow=units.show(one.flow_m3s, "flow", system) if one.status == "operates" else "—",
            head=units.show(one.head_m, "length", system) if one.status == "operates" else "—",
            why="; ".join(reason.text(system) for reason in one.reasons),
            cost=(
                f"{currency}\u00a0{units.number_text(one.cost_per_year, 0)} a year"
                if one.cost_per_year is not None
                else ""
            ),
            picked=one.pump.pump_id == picked,
            rough=one.pump.rough,
        )
        for one in found
    )


def checks(sizing: Sizing, *, notes: bool) -> tuple[CheckView, ...]:
    """What must and should hold, the worst first, a must before a should; or the notes."""
    worst_first = tuple(SIGNS)[::-1]
    found = sorted(
        (check for check in sizing.checks if (check.weight == "note") == notes),
        key=lambda check: (worst_first.index(check.state), check.weight != "must"),
    )
    return tuple(_check(check, sizing.job.units) for check in found)


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
        sign="·" if note else SIGNS[check.state],
        word=CHECK_WORDS[check.state],
        said=check.message.text(system),
        remedy="" if check.state == "hold" else check.remedy,
        working=shown,
        tone="soft" if note else _TONES[check.state],
        whose="" if note or check.state == "hold" else _WHOSE[check.about],
    )
