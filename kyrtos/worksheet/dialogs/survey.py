"""The ground of a leg, typed, pasted or from a file."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base import units
from sizing.document.build_route import the_leg
from sizing.hydraulics.survey import length_m
from sizing.size import Sizing


@dataclass(frozen=True)
class SurveyView:
    leg_id: str
    leg_name: str
    text: str
    points: int
    length: str
    highest: str
    problem: str = ""


def survey_view(
    sizing: Sizing, leg_id: str, problem: str = "", text: str | None = None
) -> SurveyView:
    """The ground of a leg as it can be typed and pasted."""
    system, entry = sizing.job.units, sizing.job.leg(leg_id)
    lines = [f"{point.distance_m:g}, {point.elevation_m:g}" for point in entry.survey]
    highest = max((point.elevation_m for point in entry.survey), default=0.0)
    return SurveyView(
        leg_id=leg_id,
        leg_name=the_leg(entry, sizing.job.legs.index(entry) + 1),
        text="\n".join(lines) if text is None else text,
        points=len(entry.survey),
        length=units.show(length_m(entry.survey), "length", system),
        highest=units.show(highest, "length", system),
        problem=problem,
    )
