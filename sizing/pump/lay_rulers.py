"""The axes of a printed chart found in its picture, so that the rulers lie along them at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy import ndimage
from skimage.transform import hough_line

from sizing.hydraulics.friction import Array
from sizing.pump.digitise import Point
from sizing.pump.follow_line import Pixels, paper

_TILT_DEG, _STEP_DEG = 6.0, 0.1
_LONG = 0.5  # of the longest straight line: what else may be an axis or a grid line
_LEAST = 0.15  # of the picture
_FAINT, _OVER_NOISE = 15.0, 5.0  # levels that are a line: so many, and so often the paper's grain
_NEAR_PX = 3.0  # what may be of a line that was found
_APART_PX = 12.0  # lines closer than this are one
_GAP_PX = 10
_WIDEST_PX = 1200

Line = tuple[float, float]  # angle of its normal in radians, distance from the upper left corner


@dataclass(frozen=True)
class Rulers:
    """Where the two rulers lie, each by its ends, and whether lines were found to lay them on."""

    flow: tuple[Point, Point]
    head: tuple[Point, Point]
    found: bool


def lay(picture: Pixels | npt.NDArray[np.uint8]) -> Rulers:
    """The rulers on the lowest and the leftmost long straight line, or on the picture's edges.

    Straight lines by the Hough transform, up to 6 degrees out of level or plumb. The flow ruler
    ends where the first and the last upright line cross its line; the head ruler likewise.
    """
    height, width = picture.shape[:2]
    coarse = max(width // _WIDEST_PX + 1, 1)
    levels = np.asarray(picture[::coarse, ::coarse], dtype=np.float32)
    strength = np.linalg.norm(levels - paper(levels), axis=2)
    differs = strength > max(_FAINT, _OVER_NOISE * float(np.median(strength)))
    level, upright = _lines(differs, level=True), _lines(differs, level=False)
    if level and upright:
        rows, columns = differs.shape
        foot = max(level, key=lambda one: _at(one, columns / 2, down=True))
        roof = min(level, key=lambda one: _at(one, columns / 2, down=True))
        first = min(upright, key=lambda one: _at(one, rows / 2, down=False))
        last = max(upright, key=lambda one: _at(one, rows / 2, down=False))
        corner = _crossing(foot, first)
        right = _end(differs, corner, _crossing(foot, last) if last != first else None, foot, True)
        top = _end(differs, corner, _crossing(first, roof) if roof != foot else None, first, False)
        ends = [(x * coarse, y * coarse) for x, y in (corner, right, top)]
        apart = [np.hypot(x - ends[0][0], y - ends[0][1]) for x, y in ends[1:]]
        if min(apart) > 0.2 * min(width, height):
            return Rulers((ends[0], ends[1]), (ends[0], ends[2]), found=True)
    left, right_x, foot_y, top_y = 0.12 * width, 0.92 * width, 0.88 * height, 0.1 * height
    return Rulers(((left, foot_y), (right_x, foot_y)), ((left, foot_y), (left, top_y)), found=False)


def _lines(differs: Array, *, level: bool) -> list[Line]:
    """The long straight lines near level (or near upright), each once."""
    rows, columns = differs.shape
    middle = np.pi / 2 if level else 0.0
    tilt = np.deg2rad(np.arange(-_TILT_DEG, _TILT_DEG + 1e-9, _STEP_DEG))
    votes, angles, distances = hough_line(differs, theta=middle + tilt)
    enough = max(votes.max() * _LONG, (columns if level else rows) * _LEAST)
    places = np.argwhere(votes >= enough)
    kept: list[Line] = []
    for at, turn in places[np.argsort(-votes[votes >= enough], kind="stable")]:
        line = (float(angles[turn]), float(distances[at]))
        half = (columns if level else rows) / 2
        here = _at(line, half, down=level)
        if all(abs(_at(one, half, down=level) - here) > _APART_PX for one in kept):
            kept.append(line)
    return [_fitted(differs, line, level=level) for line in kept]


def _fitted(differs: Array, line: Line, *, level: bool) -> Line:
    """The line through the ink that lies along it, finer than the steps of the transform."""
    angle, distance = line
    rows, columns = np.nonzero(differs)
    for _ in range(2):
        off = columns * np.cos(angle) + rows * np.sin(angle) - distance
        near = np.abs(off) < _NEAR_PX
        along, across = (columns, rows) if level else (rows, columns)
        slope, start = np.polyfit(along[near], across[near], 1)
        angle = float(np.arctan2(1.0, -slope) if level else np.arctan2(-slope, 1.0))
        distance = float(start / np.hypot(slope, 1.0))
    return angle, distance


def _at(line: Line, along: float, *, down: bool) -> float:
    """Where a line is at a column (its row, ``down``) or at a row (its column)."""
    angle, distance = line
    cos, sin = np.cos(angle), np.sin(angle)
    return float((distance - along * cos) / sin if down else (distance - along * sin) / cos)


def _crossing(one: Line, other: Line) -> Point:
    normals = np.array([[np.cos(angle), np.sin(angle)] for angle, _ in (one, other)])
    x, y = np.linalg.solve(normals, [one[1], other[1]])
    return float(x), float(y)


def _end(differs: Array, corner: Point, crossing: Point | None, line: Line, level: bool) -> Point:
    """Where an axis ends: at the last line that crosses it, else where its own ink ends."""
    if crossing is not None:
        return crossing
    rows, columns = differs.shape
    near = ndimage.maximum_filter(differs, size=3)
    steps = range(round(corner[0]), columns) if level else range(round(corner[1]), -1, -1)
    last, gap = corner, 0
    for step in steps:
        other = _at(line, step, down=level)
        x, y = (step, other) if level else (other, step)
        if 0 <= x < columns and 0 <= y < rows and near[int(y), int(x)]:
            last, gap = (float(x), float(y)), 0
        else:
            gap += 1
            if gap > _GAP_PX:
                break
    return last
