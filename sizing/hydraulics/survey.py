"""The ground along a leg as surveyed.

Distance and elevation, typed or from a CSV, GPX or GeoJSON file.
"""

from __future__ import annotations

import csv
import io
import json
import math
import re
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import Any, Protocol

from sizing.base import quantity
from sizing.base.errors import SizingError
from sizing.hydraulics.system_curve import Top

MOST_POINTS = 5000


class OnGround(Protocol):
    """A point of a survey, in metres."""

    @property
    def distance_m(self) -> float: ...
    @property
    def elevation_m(self) -> float: ...


Pairs = list[tuple[float, float]]


def _steps_m(points: Sequence[OnGround]) -> list[float]:
    return [
        math.hypot(after.distance_m - before.distance_m, after.elevation_m - before.elevation_m)
        for before, after in pairwise(points)
    ]


def length_m(points: Sequence[OnGround]) -> float:
    """Length of a pipe laid along the ground [m]."""
    return math.fsum(_steps_m(points))


def tops(points: Sequence[OnGround]) -> tuple[Top, ...]:
    """The points between first and last as high ground of a leg."""
    steps = _steps_m(points)
    total, gone, found = math.fsum(steps), 0.0, []
    for step, point in zip(steps[:-1], points[1:-1], strict=True):
        gone += step
        found.append(Top(gone / total, point.elevation_m))
    return tuple(found)


def read(text: str, unit: str = "m") -> Pairs:
    """A survey typed or pasted.

    A distance and an elevation on each line, with a comma, semicolon, tab or blank between.

    Numbers may carry units ('120 ft'); bare ones are in ``unit``. A first line of words is a
    heading; it may name the columns in either order.

    Raises
    ------
    SizingError
        Naming the line that cannot be read.
    """
    rows = [_cells(line) for line in text.splitlines() if line.strip()]
    if not rows:
        raise SizingError(
            "there is nothing in it: a survey has a distance and an elevation on each line"
        )
    first, second = 0, 1
    if not any(re.search(r"\d", cell) for cell in rows[0]):
        first, second = _columns(rows[0])
        rows = rows[1:]
    pairs = []
    for number, row in enumerate(rows, 1):
        if len(row) <= max(first, second):
            raise SizingError(
                f"point {number} ('{' '.join(row)}') wants two numbers: a distance and an elevation"
            )
        try:
            pairs.append(
                (
                    quantity.read(row[first], "length", unit).si,
                    quantity.read(row[second], "length", unit).si,
                )
            )
        except SizingError as problem:
            raise SizingError(f"point {number}: {problem}") from None
    return checked(pairs)


def _cells(line: str) -> list[str]:
    for delimiter in (";", "\t", ","):
        if delimiter in line:
            return [
                cell.strip() for cell in next(csv.reader(io.StringIO(line), delimiter=delimiter))
            ]
    return line.split()


def _columns(heading: Sequence[str]) -> tuple[int, int]:
    """Where distance and elevation stand by their heading.

    The first two columns where it does not tell.
    """
    words = {
        "distance": ("dist", "chain", "station", "length"),
        "elevation": ("elev", "height", "level", "alt"),
    }
    found = [
        next(
            (at for at, cell in enumerate(heading) if any(word in cell.lower() for word in starts)),
            None,
        )
        for starts in words.values()
    ]
    return (0, 1) if found[0] is None or found[1] is None else (found[0], found[1])


def read_gpx(text: str) -> Pairs:
    """The first track (or route) of a GPX file; distances on the ground from its coordinates.

    Raises
    ------
    SizingError
        Not GPX, or points without elevation.
    """
    import gpxpy  # here: most jobs read none

    try:
        found = gpxpy.parse(text)
    except (gpxpy.gpx.GPXException, ValueError, OverflowError, RecursionError) as problem:
        raise SizingError(f"this is no GPX file that can be read: {problem}") from None
    points: Iterable[Any] = [
        point
        for track in found.tracks[:1]
        for segment in track.segments
        for point in segment.points
    ]
    points = points or [point for route in found.routes[:1] for point in route.points]
    return _from_places([(point.longitude, point.latitude, point.elevation) for point in points])


def read_geojson(text: str) -> Pairs:
    """The first line of a GeoJSON file: longitude, latitude and elevation of each point.

    Raises
    ------
    SizingError
        Not GeoJSON, no line in it, or points without elevation.
    """
    try:
        content = json.loads(text)
    except (ValueError, RecursionError) as problem:
        raise SizingError(f"this is not JSON that can be read: {problem}") from None
    try:
        line = _line(content)
    except RecursionError:
        line = None
    if line is None:
        raise SizingError("there is no line in this GeoJSON file")
    try:
        return _from_places(
            [
                (float(point[0]), float(point[1]), float(point[2]) if len(point) > 2 else None)
                for point in line
            ]
        )
    except (TypeError, ValueError, IndexError, KeyError, OverflowError):
        raise SizingError(
            "the coordinates of the line are no numbers: each is [longitude, latitude, elevation]"
        ) from None


def _line(content: Any) -> list[Any] | None:
    """The coordinates of the first LineString within."""
    if not isinstance(content, dict):
        return None
    if content.get("type") == "LineString" and isinstance(content.get("coordinates"), list):
        return list(content["coordinates"])
    inner = [
        content.get("geometry"),
        *(part for name in ("features", "geometries") for part in _list(content.get(name))),
    ]
    return next((line for part in inner if (line := _line(part)) is not None), None)


def _list(content: Any) -> list[Any]:
    return content if isinstance(content, list) else []


def _from_places(places: Sequence[tuple[float, float, float | None]]) -> Pairs:
    from gpxpy.geo import haversine_distance

    pairs: Pairs = []
    distance = 0.0
    for at, (longitude, latitude, elevation) in enumerate(places):
        if elevation is None:
            raise SizingError(
                f"point {at + 1} has no elevation: record the track with heights, or type the"
                " survey"
            )
        if not all(map(math.isfinite, (longitude, latitude, elevation))):
            raise SizingError(f"point {at + 1} lies nowhere: its coordinates are no finite numbers")
        if abs(latitude) > 90 or abs(longitude) > 360:
            raise SizingError(f"point {at + 1} lies nowhere: latitudes run from −90 to 90 degrees")
        if at:
            before = places[at - 1]
            distance += haversine_distance(before[1], before[0], latitude, longitude)
        if not pairs or distance > pairs[-1][0]:
            pairs.append((distance, elevation))
    return checked(pairs)


def checked(pairs: Pairs) -> Pairs:
    """The survey, if it is one.

    Raises
    ------
    SizingError
        Fewer than two points, too many, one that does not go on, or numbers no ground has.
    """
    if not 2 <= len(pairs) <= MOST_POINTS:
        raise SizingError(f"a survey has 2 to {MOST_POINTS} points; this one has {len(pairs)}")
    for number, (before, after) in enumerate(pairwise(pairs), 2):
        if after[0] <= before[0]:
            raise SizingError(
                f"point {number} lies at {after[0]:g} m, not further on than the {before[0]:g} m"
                " before it: distances run from the beginning of the leg"
            )
    if not all(
        0 <= distance <= 100_000 and -2000 <= elevation <= 9000 for distance, elevation in pairs
    ):
        raise SizingError("distances run from 0 to 100 km, elevations from -2,000 to 9,000 m")
    return pairs


def shifted(pairs: Pairs, begins_at_m: float) -> Pairs:
    """The same ground raised or sunk as a whole, so that it begins at a level."""
    by = begins_at_m - pairs[0][1]
    return [(distance, elevation + by) for distance, elevation in pairs]
