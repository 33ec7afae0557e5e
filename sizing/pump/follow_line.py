"""A printed line followed from click to click, by its colour and darkness.

The picture becomes *ink*: how much each pixel differs from the paper around it the way the line
does under the clicks. A minimal-cost path (Dijkstra, scikit-image's ``graph``) runs where there is
ink; it is then drawn to the middle of the stroke and thinned.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy import ndimage
from scipy.signal import oaconvolve, savgol_filter
from skimage.graph import route_through_array
from skimage.measure import approximate_polygon, block_reduce
from skimage.transform import resize

from sizing.base.errors import SizingError
from sizing.hydraulics.friction import Array
from sizing.pump.digitise import Point

Pixels = npt.NDArray[np.floating[Any]]  # single precision is enough, and half the memory
MOST_POINTS = 24
_BLOCK_PX = 8  # the paper is judged in blocks of so many pixels
_NEAR_PX = 7  # a click may be so far off its line
_ROUTE_PX = 1000  # the path is sought in a picture at most so wide
_BARE = 0.03  # bare paper costs 1 / this a pixel, full ink about 1
_DASH_PX, _TURNS = 25, 12  # gaps are bridged by the ink before and behind, in so many directions
_OTHER_COLOUR = 0.35  # so much of another colour, as a share of the line's, and it is another line
_TOLERANCE_PX = 0.4


class FollowError(SizingError):
    """No line under a click, or none from click to click."""


def paper(picture: Pixels) -> Pixels:
    """The bare paper of a picture (rows, columns, 3), shadows and all: medians of its blocks."""
    blocks = block_reduce(picture, (_BLOCK_PX, _BLOCK_PX, 1), np.median, cval=0.0)
    rows, columns = picture.shape[0] // _BLOCK_PX, picture.shape[1] // _BLOCK_PX
    blocks = blocks[: max(rows, 1), : max(columns, 1)]  # whole blocks only
    smooth = ndimage.median_filter(blocks, size=(7, 7, 1), mode="nearest")
    found: Pixels = resize(smooth, picture.shape, order=1, mode="edge", preserve_range=True)
    return found


def follow(picture: Pixels | npt.NDArray[np.uint8], places: Sequence[Point]) -> list[Point]:
    """The line through the places clicked, thinned to what its shape needs.

    Parameters
    ----------
    picture
        Rows, columns and three colours, 0 to 255.
    places
        Two or more pixels on or near the line; they are joined from left to right.

    Raises
    ------
    FollowError
        Fewer than two places, or no line under one of them.
    """
    if len(places) < 2:
        raise FollowError("click both ends of the line")
    levels = np.asarray(picture, dtype=np.float32)
    ink = _ink(levels - paper(levels), places)
    ends = [_on_line(ink, place) for place in sorted(places)]
    rough = _route(ink, ends)
    return _thinned(_middle(ink, rough))


def _ink(differs: Pixels, places: Sequence[Point]) -> Array:
    """How much of the line's own colour is at each pixel, 0 to 1.

    The line's colour is the mean of the strongest pixels near the clicks. A pixel counts by its
    share of that colour, less by what it has of another.
    """
    strength = np.linalg.norm(differs, axis=2)
    colours = []
    for x, y in places:
        window = _window(strength.shape, x, y)
        row, column = np.unravel_index(int(np.argmax(strength[window])), strength[window].shape)
        colours.append(differs[window][row, column])
    colour = np.mean(colours, axis=0)
    size = float(colour @ colour)
    if size < 24.0**2:
        raise FollowError("there is no line under the click: click on the line itself")
    share = differs @ colour / size
    other = np.linalg.norm(differs - share[..., None] * colour, axis=2) / size**0.5
    found: Array = np.clip(share, 0.0, 1.0) * np.exp(-((other / _OTHER_COLOUR) ** 2))
    return found


def _window(shape: tuple[int, ...], x: float, y: float) -> tuple[slice, slice]:
    row, column = round(y), round(x)
    return (
        slice(max(row - _NEAR_PX, 0), min(row + _NEAR_PX + 1, shape[0])),
        slice(max(column - _NEAR_PX, 0), min(column + _NEAR_PX + 1, shape[1])),
    )


def _on_line(ink: Array, place: Point) -> Point:
    """The click moved to the thickest ink near it, the nearer the better."""
    smooth = ndimage.gaussian_filter(ink, 1.2)
    window = _window(ink.shape, *place)
    rows, columns = np.mgrid[window]
    away = np.hypot(columns - place[0], rows - place[1])
    worth = smooth[window] * (1.0 - away / (3.0 * _NEAR_PX))
    if float(worth.max()) < 0.12:
        raise FollowError("there is no line under a click: click on the line itself")
    row, column = np.unravel_index(int(np.argmax(worth)), worth.shape)
    return float(columns[row, column]), float(rows[row, column])


def _route(ink: Array, ends: Sequence[Point]) -> Array:
    """The cheapest way along the ink from end to end, as (x, y) rows.

    Blurred first: a thin grid line then costs more than a stroke as thick as a curve.
    """
    coarse = max(ink.shape[1] // _ROUTE_PX + 1, 1)
    smooth = ndimage.gaussian_filter(ink, 1.2 * coarse**0.5)
    if coarse > 1:
        smooth = block_reduce(smooth, (coarse, coarse), np.max)
    cost = 1.0 / (_BARE + (1.0 - _BARE) * np.maximum(smooth, _bridged(smooth)) ** 2)
    steps: list[tuple[int, int]] = []
    for (x, y), (to_x, to_y) in itertools.pairwise(ends):
        start, end = (
            (int(y) // coarse, int(x) // coarse),
            (int(to_y) // coarse, int(to_x) // coarse),
        )
        way, _ = route_through_array(cost, start, end, fully_connected=True, geometric=True)
        steps += way if not steps else way[1:]
    found: Array = np.array(steps, dtype=float)[:, ::-1] * coarse + (coarse - 1) / 2.0
    return found


def _bridged(smooth: Array) -> Array:
    """The most ink along a short straight line through each pixel: a dashed line is one line."""
    best: Array = np.zeros_like(smooth)
    half = _DASH_PX // 2
    along = np.arange(-half, half + 1)
    for angle in np.arange(_TURNS) * np.pi / _TURNS:
        kernel = np.zeros((_DASH_PX, _DASH_PX))
        rows, columns = np.rint(along * np.sin(angle)), np.rint(along * np.cos(angle))
        kernel[half + rows.astype(int), half + columns.astype(int)] = 1.0
        np.maximum(best, oaconvolve(smooth, kernel / kernel.sum(), mode="same"), out=best)
    return best


def _middle(ink: Array, rough: Array) -> Array:
    """The path drawn to the middle of its stroke, across its own direction, and smoothed."""
    if len(rough) < 9:
        return rough
    reach = np.arange(-4.0, 4.01, 0.5)
    path = rough
    for _ in range(2):
        window = min(31, len(path) // 2 * 2 - 1)
        path = savgol_filter(path, window, 2, axis=0, mode="interp")
        along = np.gradient(path, axis=0)
        along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
        across = np.column_stack([-along[:, 1], along[:, 0]])
        samples = path[:, None, :] + reach[None, :, None] * across[:, None, :]
        seen = ndimage.map_coordinates(
            ink, [samples[..., 1], samples[..., 0]], order=1, mode="nearest"
        )
        weight = seen**2 * np.exp(-((reach / 3.0) ** 2))
        total = weight.sum(axis=1)
        shift = np.where(total > 0.05, (weight @ reach) / np.maximum(total, 1e-9), 0.0)
        path = path + shift[:, None] * across
    found: Array = savgol_filter(path, min(31, len(path) // 2 * 2 - 1), 2, axis=0, mode="interp")
    return found


def _thinned(path: Array) -> list[Point]:
    """The fewest points that keep to the path, from left to right, at most ``MOST_POINTS``."""
    return thinned([(float(x), float(y)) for x, y in path])


def thinned(path: Sequence[Point]) -> list[Point]:
    """The points of a path that its shape needs, from left to right, at most ``MOST_POINTS``.

    Douglas-Peucker with the tolerance doubled until few enough are left; a straight line keeps
    points between, since a curve is fitted through them.
    """
    line = np.array(path)
    if line[0, 0] > line[-1, 0]:
        line = line[::-1]
    rising = np.concatenate([[True], np.diff(np.maximum.accumulate(line[:, 0])) > 1e-6])
    line = line[rising]
    tolerance = _TOLERANCE_PX
    kept = approximate_polygon(line, tolerance)
    while len(kept) > MOST_POINTS:
        tolerance *= 1.5
        kept = approximate_polygon(line, tolerance)
    if len(kept) < 7:
        at = np.unique(np.linspace(0, len(line) - 1, min(7, len(line))).round().astype(int))
        kept = line[at]
    return [(round(float(x), 2), round(float(y), 2)) for x, y in kept]
