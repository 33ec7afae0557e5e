"""Where in the picture a site's photos belong: at the water, the pump, the run, the outlet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from kyrtos.drawing.picture import Picture
from kyrtos.drawing.scale import Point, px

_ASIDE = 20.0  # pixels that a mark stands beside its thing, so that it covers nothing
_KEPT_IN = 12.0


@dataclass(frozen=True)
class PhotoMark:
    """One mark: where it stands, what it shows, how many photos, and the address of the first."""

    x: str
    y: str
    place: str
    count: str
    href: str


def photo_marks(
    picture: Picture, photos: Mapping[str, tuple[str, int, str]]
) -> tuple[PhotoMark, ...]:
    """Marks for the places that are in the picture; ``photos`` by place: label, count, address."""
    at = {
        # under the pit, where no level is dragged; under the outlet's own name
        "pump": (float(picture.pump_x) + _ASIDE, float(picture.pump_y) + 1.3 * _ASIDE),
        "source": (float(picture.pump_x) - _ASIDE, float(picture.pump_y) + 1.3 * _ASIDE),
        "outlet": (float(picture.outlet[0]) - _ASIDE / 2, float(picture.outlet[1]) + 2 * _ASIDE),
        "run": _middle_of_the_run(picture),
    }
    return tuple(
        PhotoMark(
            px(min(max(x, _KEPT_IN), picture.width - _KEPT_IN)),
            px(min(max(y, _KEPT_IN), picture.height - _KEPT_IN)),
            photos[place][0],
            str(photos[place][1]),
            photos[place][2],
        )
        for place, (x, y) in at.items()
        if place in photos
    )


def _middle_of_the_run(picture: Picture) -> Point:
    """Beside the middle of the longest stretch of pipe that is drawn."""
    best: tuple[float, Point] = (-1.0, (0.0, 0.0))
    for leg in picture.legs:
        corners = [tuple(map(float, pair.split(","))) for pair in leg.pipe.split()]
        for (x1, y1), (x2, y2) in pairwise(corners):
            length = (x2 - x1) ** 2 + (y2 - y1) ** 2
            best = max(best, (length, ((x1 + x2) / 2, (y1 + y2) / 2 - _ASIDE)))
    return best[1]
