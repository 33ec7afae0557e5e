"""What to measure first, and the chance that a pump makes its duty."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.worksheet.dialogs.base import Dialog
from kyrtos.worksheet.dialogs.words import flow_text
from sizing.analysis import chance, sensitivity
from sizing.analysis.changed import Known
from sizing.base import units
from sizing.base.message import Measure
from sizing.base.units import System
from sizing.document.job import PROVENANCE_WORDS
from sizing.pump.catalogue import Catalogue
from sizing.selection.chance import SAMPLES

_MOST_RIVALS = 6


@dataclass(frozen=True)
class SwingRow:
    label: str
    path: str
    value: str
    provenance: str
    flow: str
    needed: str
    tip: str
    share: str


@dataclass(frozen=True)
class ChanceRow:
    name: str
    share: str
    off_end: str


@dataclass(frozen=True)
class SensitivityView:
    first: str
    swings: tuple[SwingRow, ...]
    chances: tuple[ChanceRow, ...]
    samples: str


def sensitivity_view(base: Known, catalogue: Catalogue) -> SensitivityView:
    """What to measure next, with the chance of the chosen pump and of its rivals."""
    system, sizing = base.sizing.job.units, base.sizing
    ranked = sensitivity.sensitivities(base)
    tips = {tip.figure.path: tip for tip in sensitivity.tipping_points(base, catalogue, ranked)}
    most = ranked[0].size_m3s if ranked else 1.0
    rows = tuple(
        _swing(one, tips.get(one.path) if one.figure else None, system, one.size_m3s / most)
        for one in ranked
    )
    first = next(
        (
            one.label[:1].lower() + one.label[1:]
            for one in ranked
            if one.provenance != "measured" and one.figure
        ),
        "",
    )
    rivals = [
        one.pump
        for one in (
            *(sizing.match.fits if sizing.match else ()),
            *(sizing.match.near_misses if sizing.match else ()),
        )
    ]
    chosen = sizing.chosen.candidate.pump if sizing.chosen else None
    curves = [
        (pump.name, pump.curve)
        for pump in dict.fromkeys([chosen, *rivals][: _MOST_RIVALS + 1])
        if pump is not None
    ][:_MOST_RIVALS]
    found = chance.chances(base, curves)
    return SensitivityView(
        first, rows, tuple(_chance(one) for one in found), units.number_text(SAMPLES, 0)
    )


def _swing(
    one: sensitivity.Sensitivity, tip: sensitivity.TippingPoint | None, system: System, share: float
) -> SwingRow:
    ends = (flow_text(one.flow_low_m3s, system), flow_text(one.flow_high_m3s, system))
    flow = f"{ends[0]} … {ends[1]}" if ends[0] != ends[1] else ""
    moved = one.needed_low_m3s != one.needed_high_m3s
    needed = (
        f"{flow_text(one.needed_low_m3s, system)} … {flow_text(one.needed_high_m3s, system)}"
        if moved
        else ""
    )
    said = ""
    if tip is not None and tip.by_si is not None:
        dimension = (
            "temperature_step" if tip.figure.dimension == "temperature" else tip.figure.dimension
        )
        said = (
            f"{'+' if tip.by_si > 0 else '−'}{Measure(abs(tip.by_si), dimension).text(system)}:"
            f" {tip.pump_name}"
        )
    elif tip is not None:
        said = "even twice as far off changes nothing"
    return SwingRow(
        label=one.label[:1].upper() + one.label[1:],
        path=one.path,
        value=one.value.text(system),
        provenance=PROVENANCE_WORDS[one.provenance] if one.provenance else "",
        flow=flow,
        needed=needed,
        tip=said,
        share=f"{share:.3f}",
    )


def _chance(one: chance.Chance) -> ChanceRow:
    percent, error = round(100 * one.share), max(round(100 * one.error), 1)
    word = "over 99 %" if percent == 100 else "under 1 %" if percent == 0 else f"{percent} %"
    return ChanceRow(
        one.pump_name,
        f"{word} ± {error}" if 0 < percent < 100 else word,
        f"{100 * one.off_end_share:.0f} %" if one.off_end_share >= 0.005 else "",
    )


DIALOG = Dialog(
    name="sensitivity",
    words="what to measure first",
    key="w",
    tells="what to measure first",
    place="head",
    rank=1,
    view=lambda asked: sensitivity_view(asked.base, asked.catalogue),
)
