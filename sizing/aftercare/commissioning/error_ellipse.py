"""The measured point with its error: flow and head were read together, so their errors lean."""

from __future__ import annotations

import math

import numpy as np

from sizing.aftercare.commissioning.readings import Readings

_POINTS = 48


def ellipse(readings: Readings, sigmas: float = 2.0) -> tuple[tuple[float, float], ...]:
    """The curve of so many sigmas round the measured point, as flows [m3/s] and heads [m].

    From the covariance of flow and head, first order: both hang on the same bucket and watch, so
    its axes lean. At two sigmas it holds 86 % of what the truth may be (two figures at once).
    """
    flow, head = (lambda one: one.flow_m3s), (lambda one: one.head_m)
    lean = readings.covariance(flow, head)
    spread = np.array(
        [[readings.covariance(flow, flow), lean], [lean, readings.covariance(head, head)]]
    )
    scale = np.sqrt(np.maximum(np.diag(spread), 1e-300))  # the two differ by powers of ten
    values, axes = np.linalg.eigh(spread / np.outer(scale, scale))
    reach = sigmas * np.sqrt(np.maximum(values, 0.0))
    points = []
    for at in range(_POINTS):
        turn = 2.0 * math.pi * at / _POINTS
        along = axes @ (reach * np.array([math.cos(turn), math.sin(turn)])) * scale
        points.append((readings.flow_m3s + float(along[0]), readings.head_m + float(along[1])))
    return tuple(points)
