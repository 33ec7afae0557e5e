"""A weather file whose sun is to be taken for the months of a solar well."""

from __future__ import annotations

from dataclasses import dataclass

from kyrtos.jobs import sun_from_file
from kyrtos.worksheet.dialogs.base import Asked, Dialog
from sizing.size import Sizing


@dataclass(frozen=True)
class WeatherView:
    """What the dialog shows: what came of the last file, and what was wrong with one just sent."""

    state: str
    text: str
    problem: str


def weather_view(asked: Asked) -> WeatherView:
    """What came of the last file of this job."""
    return view_of(asked.job_id)


def view_of(job_id: str, problem: str = "") -> WeatherView:
    """The same, with what was wrong with a file just sent."""
    found = sun_from_file.said(job_id)
    return WeatherView(found.get("state", ""), found.get("text", ""), problem)


def _applies(sizing: Sizing) -> bool:
    return sizing.facts.asks("panels") and sizing.facts.asks("latitude")


DIALOG = Dialog(
    name="weather",
    words="weather file",
    key="j",
    tells="the sun of the months from a weather file",
    place="choosing",
    rank=14,
    view=weather_view,
    applies=_applies,
)
