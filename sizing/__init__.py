"""The rules and arithmetic of sizing a pump: plain data in, frozen results out.

Nothing here knows of the web, a database or a clock. SI floats and arrays inside,
names carry the unit; text with units is read and written only by ``quantity`` and ``units``.

What others need stands here by name and is loaded when it is first asked for; docs/library.md
shows it at work.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

__version__ = "1.0.0"  # of what stands here; files of jobs carry a version of their own

if TYPE_CHECKING:
    from sizing.base.errors import SizingError
    from sizing.base.water import Water, water
    from sizing.document.job import JobDocument
    from sizing.document.job import dump as write_job
    from sizing.document.job import loads as read_job
    from sizing.hydraulics.fittings import Counted, k_sum
    from sizing.hydraulics.pipes import pipe, roughness, usual_roughness
    from sizing.hydraulics.system_curve import Leg, Route, SystemCurve
    from sizing.operating_point.one import OperatingPoint
    from sizing.operating_point.one import operating_point as find_operating_point
    from sizing.pump.catalogue import Catalogue, Pump
    from sizing.pump.catalogue_file import read_csv as read_catalogue
    from sizing.pump.curve import PumpCurve
    from sizing.results.report import report
    from sizing.size import Sizing
    from sizing.size import size as size_job

# where each name lives, and what it is called there
_LIVES = {
    "SizingError": ("sizing.base.errors", "SizingError"),
    "Water": ("sizing.base.water", "Water"),
    "water": ("sizing.base.water", "water"),
    "JobDocument": ("sizing.document.job", "JobDocument"),
    "read_job": ("sizing.document.job", "loads"),
    "write_job": ("sizing.document.job", "dump"),
    "Counted": ("sizing.hydraulics.fittings", "Counted"),
    "k_sum": ("sizing.hydraulics.fittings", "k_sum"),
    "pipe": ("sizing.hydraulics.pipes", "pipe"),
    "roughness": ("sizing.hydraulics.pipes", "roughness"),
    "usual_roughness": ("sizing.hydraulics.pipes", "usual_roughness"),
    "Leg": ("sizing.hydraulics.system_curve", "Leg"),
    "Route": ("sizing.hydraulics.system_curve", "Route"),
    "SystemCurve": ("sizing.hydraulics.system_curve", "SystemCurve"),
    "OperatingPoint": ("sizing.operating_point.one", "OperatingPoint"),
    "find_operating_point": ("sizing.operating_point.one", "operating_point"),
    "Catalogue": ("sizing.pump.catalogue", "Catalogue"),
    "Pump": ("sizing.pump.catalogue", "Pump"),
    "read_catalogue": ("sizing.pump.catalogue_file", "read_csv"),
    "PumpCurve": ("sizing.pump.curve", "PumpCurve"),
    "report": ("sizing.results.report", "report"),
    "Sizing": ("sizing.size", "Sizing"),
    "size_job": ("sizing.size", "size"),
}
__all__ = [  # noqa: RUF022 - in the order of their rooms
    "SizingError",
    "Water",
    "water",
    "JobDocument",
    "read_job",
    "write_job",
    "Counted",
    "k_sum",
    "pipe",
    "roughness",
    "usual_roughness",
    "Leg",
    "Route",
    "SystemCurve",
    "OperatingPoint",
    "find_operating_point",
    "Catalogue",
    "Pump",
    "read_catalogue",
    "PumpCurve",
    "report",
    "Sizing",
    "size_job",
]


def __getattr__(name: str) -> Any:
    """Load what is asked for, so that a head of water needs no catalogue."""
    if name not in _LIVES:
        raise AttributeError(f"module 'sizing' has no attribute '{name}'")
    module, there = _LIVES[name]
    return getattr(import_module(module), there)
