"""Friction by every method, side by side."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.words import STATUS_WORDS, flow_text
from sizing.analysis import methods
from sizing.analysis.changed import Known
from sizing.base import units


@dataclass(frozen=True)
class MethodRow:
    label: str
    head: str
    flow: str
    in_force: bool
    cautions: tuple[str, ...]


def methods_view(base: Known) -> tuple[MethodRow, ...]:
    """The schools of friction side by side."""
    system = base.sizing.job.units
    return tuple(
        MethodRow(
            one.label,
            units.show(one.head_m, "length", system),
            (
                flow_text(one.flow_m3s, system)
                if one.flow_m3s or not one.status
                else STATUS_WORDS[one.status]
            ),
            one.in_force,
            tuple(caution.text(system) for caution in one.cautions),
        )
        for one in methods.schools(base)
    )


DIALOG = Dialog(
    name="methods",
    words="friction by every school",
    key="f",
    tells="friction by every school",
    place="head",
    rank=2,
    view=lambda asked: methods_view(asked.base),
)
