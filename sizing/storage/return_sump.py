"""What runs back into a sump when the power goes, and whether it finds room there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sizing.base.errors import check_range


@dataclass(frozen=True)
class ReturnSump:
    volume_into_sump_m3: float
    room_before_m3: float
    room_left_m3: float
    overflows: bool
    spilled_m3: float
    sump_level_after_m: float
    highest_safe_running_level_m: float


def return_sump(
    *,
    drained: Sequence[tuple[float, float]],
    pipes_m3: float,
    other_volume_m3: float,
    sump_plan_area_m2: float,
    sump_rim_level_m: float,
    sump_running_level_m: float,
) -> ReturnSump:
    """The sump after a power cut (continuity).

    Parameters
    ----------
    drained : (area [m2], depth over its weir or siphon break [m]) of each body of water that runs
        down.
    pipes_m3, other_volume_m3 : what the pipes hold that empty into the sump, and what else does
        [m3].
    sump_rim_level_m, sump_running_level_m : above the sump's floor [m].

    Raises
    ------
    OutOfRange
        A sump without area, or a level over its rim.
    """
    check_range("area of the sump", sump_plan_area_m2, 1e-6, 1e5, "m²")
    check_range("running level", sump_running_level_m, 0.0, sump_rim_level_m, "m")
    volume = sum(area * depth for area, depth in drained) + pipes_m3 + other_volume_m3
    before = sump_plan_area_m2 * (sump_rim_level_m - sump_running_level_m)
    left = before - volume
    level = min(sump_running_level_m + volume / sump_plan_area_m2, sump_rim_level_m)
    return ReturnSump(
        volume_into_sump_m3=volume,
        room_before_m3=before,
        room_left_m3=left,
        overflows=left < 0,
        spilled_m3=max(0.0, -left),
        sump_level_after_m=level,
        highest_safe_running_level_m=sump_rim_level_m - volume / sump_plan_area_m2,
    )
