"""What a weather file must hold to be believed, and what it makes of a month on the panels.

Reading the file is done by a package of the trade, outside of the core; here its hours are checked
against the sun of its own place.
"""

from __future__ import annotations

import math

import numpy as np

from sizing.base.errors import SizingError
from sizing.hydraulics.friction import Array

_LEAST_ROWS = 8000
_MOST_W_M2 = 1500.0
_AGREES = 0.75  # correlation of the sun on the flat with the sun's height, by the file's own hours


def check_hours(flat_w_m2: Array, beam_w_m2: Array, diffuse_w_m2: Array, months: Array) -> None:
    """A year of hours, of figures that sun can have.

    Raises
    ------
    SizingError
        Saying what is missing or cannot be.
    """
    if len(flat_w_m2) < _LEAST_ROWS:
        raise SizingError(f"it holds {len(flat_w_m2):,} hours; a year has 8,760")
    missing = sorted(set(range(1, 13)) - {int(one) for one in months})
    if missing:
        raise SizingError(f"it has no hours of month {missing[0]}")
    for name, values in (("global", flat_w_m2), ("direct", beam_w_m2), ("diffuse", diffuse_w_m2)):
        if not np.isfinite(values).all():
            raise SizingError(f"its {name} sun has gaps or words among the figures")
        if values.min() < -5.0 or values.max() > _MOST_W_M2:
            raise SizingError(
                f"its {name} sun runs from {values.min():.0f} to {values.max():.0f} W/m²: no sun is"
                " such, so its columns are others than they say"
            )


def check_labels(flat_w_m2: Array, zenith_deg: Array) -> None:
    """The file's hours fit its place: the sun shines while it is up.

    Raises
    ------
    SizingError
        They do not: another place, another hour, or another year's order.
    """
    height = np.maximum(np.cos(np.radians(zenith_deg)), 0.0)
    agrees = float(np.corrcoef(flat_w_m2, height)[0, 1])
    if not agrees >= _AGREES:
        raise SizingError(
            "its hours do not fit its place: the sun shines at night there. Look at its latitude,"
            " longitude and time zone"
        )


def monthly_sun_h(slope_w_m2: Array, months: Array) -> tuple[float, ...]:
    """Hours of full sun a day on the panels, of each month (kWh/m2 and day)."""
    found = []
    for month in range(1, 13):
        here = slope_w_m2[months == month]
        found.append(float(np.nan_to_num(here).mean()) * 24 / 1000)
    if not all(math.isfinite(one) and one > 0 for one in found):
        raise SizingError("a month of it has no sun at all")
    return tuple(found)
