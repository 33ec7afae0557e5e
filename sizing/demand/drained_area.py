"""Ground water from the area that drains to the pit, by kind of soil: a rule of thumb."""

from __future__ import annotations

from sizing.base.errors import check_range


def drained_area(area_m2: float, seepage_m_s: float) -> float:
    """Inflow [m3/s] = drained area x seepage of the soil (house rules SMP-01 sand, SMP-02 clay).

    A rule of thumb with a wide spread: real inflows differ tenfold. Measure the rise where you can.

    Raises
    ------
    OutOfRange
        A negative area or seepage.
    """
    check_range("drained area", area_m2, 0.0, 1e7, "m²")
    check_range("seepage", seepage_m_s, 0.0, 1e-3, "m/s")
    return area_m2 * seepage_m_s
