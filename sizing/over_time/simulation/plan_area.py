"""The plan area of a pit or tank by level, what it holds, and back."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from sizing.base.errors import SizingError


@dataclass(frozen=True)
class AreaByLevel:
    """Plan area, linear between rows of (level, area) and held beyond them [m, m2].

    Raises
    ------
    SizingError
        No rows, levels that do not rise, or an area that is not above zero.
    """

    rows: tuple[tuple[float, float], ...]
    _volumes: tuple[float, ...] = field(init=False, repr=False, default=())

    def __post_init__(self) -> None:
        levels = [level for level, _ in self.rows]
        if not levels or any(b <= a for a, b in pairwise(levels)):
            raise SizingError("the plan areas must stand by rising levels")
        if any(not area > 0 for _, area in self.rows):
            raise SizingError("the plan area must be above zero at every level")
        volumes = [self.rows[0][0] * self.rows[0][1]]  # from the level 0
        for (low, small), (high, large) in pairwise(self.rows):
            volumes.append(volumes[-1] + (high - low) * (small + large) / 2)
        object.__setattr__(self, "_volumes", tuple(volumes))

    @classmethod
    def upright(cls, area_m2: float) -> AreaByLevel:
        """Upright walls."""
        return cls(((0.0, area_m2),))

    @classmethod
    def of(cls, rows: Sequence[tuple[float, float]]) -> AreaByLevel:
        """From rows in any sequence type."""
        return cls(tuple((float(level), float(area)) for level, area in rows))

    @property
    def breaks_m(self) -> tuple[float, ...]:
        """Levels at which the walls bend."""
        return tuple(level for level, _ in self.rows) if len(self.rows) > 1 else ()

    def line(self, low_m: float, high_m: float) -> tuple[float, float]:
        """Area = first + second x level, between two levels that no bend parts [m2, m]."""
        middle = (low_m + high_m) / 2
        at = bisect_right([level for level, _ in self.rows], middle)
        if at == 0:
            return self.rows[0][1], 0.0
        if at == len(self.rows):
            return self.rows[-1][1], 0.0
        (low, small), (high, large) = self.rows[at - 1], self.rows[at]
        slope = (large - small) / (high - low)
        return small - slope * low, slope

    def volume_m3(self, level_m: float) -> float:
        """What it holds from the level 0 up to a level; negative below it."""
        first, first_area = self.rows[0]
        if level_m <= first:
            return self._volumes[0] + (level_m - first) * first_area
        at = bisect_right([level for level, _ in self.rows], level_m) - 1
        low, small = self.rows[at]
        if at == len(self.rows) - 1:
            return self._volumes[at] + (level_m - low) * small
        high, large = self.rows[at + 1]
        here = small + (large - small) * (level_m - low) / (high - low)
        return self._volumes[at] + (level_m - low) * (small + here) / 2

    def level_m(self, volume_m3: float) -> float:
        """The level at which it holds a volume."""
        if volume_m3 <= self._volumes[0]:
            first, area = self.rows[0]
            return first + (volume_m3 - self._volumes[0]) / area
        at = bisect_right(self._volumes, volume_m3) - 1
        low, small = self.rows[at]
        more = volume_m3 - self._volumes[at]
        if at == len(self.rows) - 1:
            return low + more / small
        high, large = self.rows[at + 1]
        slope = (large - small) / (high - low)
        if abs(slope) * (high - low) < 1e-12 * small:
            return low + more / small
        return low + 2 * more / (small + math.sqrt(max(small * small + 2 * slope * more, 0.0)))
