"""Things in a run whose loss is known from their makers: filters, meters, jets."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from sizing.base.errors import SizingError, check_range
from sizing.hydraulics.friction import Array


@dataclass(frozen=True)
class Device:
    """Something whose loss is known from its maker, such as a filter, a meter or the jets of a tub.

    Known at one flow it grows with the flow squared; with ``points`` (flow [m3/s], loss [m]) the
    root of the loss runs straight from point to point, so that one point more never bends the
    square, and beyond the last one it grows with the flow squared.
    """

    name: str
    rated_flow_m3s: float
    rated_head_m: float
    points: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        check_range("rated flow", self.rated_flow_m3s, 1e-9, 1e3, "m³/s")
        check_range("loss at the rated flow", self.rated_head_m, 0.0, 1e4, "m")
        if any(
            after[0] <= before[0] or after[1] < before[1] for before, after in pairwise(self.points)
        ):
            raise SizingError(
                f"the losses of the {self.name} must stand in order of flow and never fall: take"
                " the greater loss where its curve dips"
            )

    @staticmethod
    def of_curve(name: str, points: tuple[tuple[float, float], ...]) -> Device:
        """A device with a curve of its own.

        A curve that does not begin at no flow begins there with no loss.
        """
        if not points:
            raise SizingError(f"the {name} has no loss yet: give it at one flow at least")
        whole = points if points[0][0] == 0 else ((0.0, 0.0), *points)
        return Device(name, *points[-1], points=whole if len(points) > 1 else ())

    def loss_m(self, flow_m3s: Array) -> Array:
        """Loss [m] at flows [m3/s]."""
        squared = self.rated_head_m * (flow_m3s / self.rated_flow_m3s) ** 2
        if not self.points:
            return np.asarray(squared)
        flows, heads = np.array(self.points).T
        inside = np.square(np.interp(flow_m3s, flows, np.sqrt(heads)))
        return np.asarray(np.where(flow_m3s <= flows[-1], inside, squared))
