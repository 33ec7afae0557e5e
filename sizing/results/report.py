"""A sizing as plain JSON content.

SI numbers with their units in the names, sentences in the job's units.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from sizing.base.units import System
from sizing.checks.base import Check
from sizing.demand.method import Demand, FlowByMethod
from sizing.head_breakdown import HeadBreakdown
from sizing.hydraulics.system_curve import Ledger
from sizing.results.verdict import Helps, best_of, verdict
from sizing.selection.match import Candidate, Match
from sizing.size import Chosen, Sizing

FORMAT = "kyrtos-sizing/1"


def report(sizing: Sizing, helps: Sequence[Helps] = ()) -> dict[str, Any]:
    """Everything found, fit for ``json.dumps``; a number that is not finite becomes null.

    ``helps``: what would let a pump fit where none does, the best first.
    """
    system, recommended = sizing.job.units, sizing.recommended
    said = verdict(sizing, best_of(helps))
    content = {
        "format": FORMAT,
        "verdict": {
            "state": said.state,
            "text": said.main.text(system),
            "worries": [
                {"state": state, "said": worry.text(system)} for state, worry in said.worries
            ],
        },
        "recommended": recommended and recommended.pump.pump_id,
        "job": {
            "kind": sizing.job.kind,
            "title": sizing.job.title,
            "units": system,
        },
        "demand": sizing.demand and _demand(sizing.demand),
        "system": sizing.system and {"static_head_m": sizing.system.static_head_m},
        "chosen": sizing.chosen and _chosen(sizing.chosen, system),
        "ledger": (
            sizing.ledger
            and sizing.head_breakdown
            and _ledger(sizing.ledger, sizing.head_breakdown)
        ),
        "match": sizing.match and _match(sizing.match, system),
        "checks": [_check(check, system) for check in sizing.checks],
        "missing": [{"path": missing.path, "label": missing.label} for missing in sizing.missing],
        "cures": [one.said.text(system) for one in helps],
        "problems": list(sizing.problems),
        "failures": [one.about for one in sizing.failures],
    }
    return {key: _finite(value) for key, value in content.items()}


def _finite(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _finite(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_finite(inner) for inner in value]
    return None if isinstance(value, float) and not math.isfinite(value) else value


def _method(method: FlowByMethod) -> dict[str, Any]:
    return {
        "way": method.code,
        "flow_m3s": method.flow_m3s,
        "missing": [missing.path for missing in method.missing],
    }


def _demand(demand: Demand) -> dict[str, Any]:
    return {
        "ways": [_method(method) for method in demand.methods],
        "taken": demand.taken,
        "inflow_m3s": demand.inflow_m3s,
        "margin": demand.margin,
        "needed_m3s": demand.needed_m3s,
    }


def _candidate(one: Candidate, system: System) -> dict[str, Any]:
    return {
        "pump": one.pump.pump_id,
        "name": one.pump.name,
        "status": one.status,
        "flow_m3s": one.flow_m3s,
        "head_m": one.head_m,
        "share_of_best_flow": one.share_of_best_flow,
        "surplus": one.surplus,
        "shutoff_margin_m": one.shutoff_margin_m,
        "power_w": one.power_w,
        "cost_per_year": one.cost_per_year,
        "chance": one.chance,
        "reasons": [reason.text(system) for reason in one.reasons],
    }


def _chosen(chosen: Chosen, system: System) -> dict[str, Any]:
    crossings = [vars(crossing) for crossing in chosen.operating_point.crossings]
    return {
        **_candidate(chosen.candidate, system),
        "crossings": crossings,
        "picked_by_a_person": chosen.by_person,
        "fits": chosen.fits,
    }


def _ledger(ledger: Ledger, breakdown: HeadBreakdown) -> dict[str, Any]:
    lines = [
        {
            "code": line.code,
            "leg": line.leg_id or None,
            "label": f"{line.label} {line.detail}".strip(),
            "head_m": line.head_m,
            "counted": line.counted,
        }
        for line in breakdown.lines
    ]
    return {
        "flow_m3s": ledger.flow_m3s,
        "lines": lines,
        "total_head_m": ledger.total_head_m,
        "governing": breakdown.governing_leg,
    }


def _match(match: Match, system: System) -> dict[str, Any]:
    return {
        "considered": match.considered,
        "fit_count": match.fit_count,
        "near_count": match.near_count,
        "fits": [_candidate(one, system) for one in match.fits],
        "near_misses": [_candidate(one, system) for one in match.near_misses],
        "ask_count": match.ask_count,
        "ask": [_candidate(one, system) for one in match.to_ask],
        "out": [{"reason": reason, "pumps": count} for reason, count in match.out],
    }


def _check(check: Check, system: System) -> dict[str, Any]:
    return {
        "check": check.code,
        "label": check.label,
        "state": check.state,
        "weight": check.weight,
        "about": check.about,
        "said": check.message.text(system),
        "remedy": check.remedy,
    }
