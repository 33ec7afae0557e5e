"""A page of a PDF drawn in a process of its own, under limits of time and memory.

``python -m kyrtos.catalogue.pdf_page PAGE WIDEST TALLEST`` reads the file from its standard input,
and writes a line of JSON (``problem``, ``lines``) and then the picture as PNG.
"""

from __future__ import annotations

import io
import itertools
import json
import resource
import sys
from collections.abc import Iterator
from ctypes import byref, c_float, c_int
from typing import Any

import numpy as np
import pypdfium2  # type: ignore[import-untyped]
import pypdfium2.raw as raw  # type: ignore[import-untyped]

_MOST_S, _MOST_BYTES = 15, 2 * 1024**3
_SCALE = 2.5  # pixels to a point, where the page is small enough
_MOST_PIECES = 20_000  # lines looked at for curves
_MOST_LINES, _MOST_POINTS = 120, 400
_JOIN_PX = 0.6  # ends so close are one line that was written in pieces
_LEAST_SHARE = 0.08  # of the page's width: shorter ones are letters and ticks
_STRAIGHT = 0.004  # of its length off its chord: axes and grid lines are straighter
_PARTS = 16  # straight pieces of a Bézier piece
_FINE = 64  # parts of a pixel in which pdfium tells whole numbers
Point = tuple[float, float]


def main() -> None:
    """Draw the page, or say why not."""
    resource.setrlimit(resource.RLIMIT_CPU, (_MOST_S, _MOST_S))
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, _MOST_BYTES))
    page, widest, tallest = (int(one) for one in sys.argv[1:4])
    problem, lines, picture = _drawn(sys.stdin.buffer.read(), page, widest, tallest)
    told = json.dumps({"problem": problem, "lines": lines}).encode()
    sys.stdout.buffer.write(told + b"\n" + picture)


def _drawn(
    content: bytes, page: int, widest: int, tallest: int
) -> tuple[str, tuple[tuple[Point, ...], ...], bytes]:
    try:
        document = pypdfium2.PdfDocument(content)
    except pypdfium2.PdfiumError:
        return "this PDF cannot be read", (), b""
    if not 1 <= page <= len(document):
        return f"the PDF has {len(document)} pages: there is no page {page}", (), b""
    sheet = document[page - 1]
    wide, tall = max(sheet.get_width(), 1.0), max(sheet.get_height(), 1.0)
    image = sheet.render(scale=min(_SCALE, widest / wide, tallest / tall)).to_pil().convert("RGB")
    out = io.BytesIO()
    image.save(out, "PNG")
    return "", _lines(sheet, image.width, image.height), out.getvalue()


def _lines(sheet: Any, width: int, height: int) -> tuple[tuple[Point, ...], ...]:
    """The long curved lines of a page, the longest first, in the pixels of its picture."""
    joined: list[list[Point]] = []
    for piece in itertools.islice(_pieces(sheet, width, height), _MOST_PIECES):
        if joined and _near(joined[-1][-1], piece[0]) and not _near(joined[-1][0], piece[-1]):
            joined[-1] += piece[1:]
        else:
            joined.append(piece)
    kept = [line for line in joined if _is_curve(line, width)]
    kept.sort(key=lambda line: -abs(line[-1][0] - line[0][0]))
    return tuple(_at_most(line) for line in kept[:_MOST_LINES])


def _near(one: Point, other: Point) -> bool:
    return abs(one[0] - other[0]) < _JOIN_PX and abs(one[1] - other[1]) < _JOIN_PX


def _is_curve(line: list[Point], width: int) -> bool:
    """Whether it runs across a good part of the page and is no axis, frame or straight line."""
    places = np.array(line)
    chord = places[-1] - places[0]
    length = float(np.hypot(*chord))
    if len(line) < 3 or abs(chord[0]) < _LEAST_SHARE * width:
        return False
    if bool((np.abs(np.diff(places, axis=0)).min(axis=1) < _JOIN_PX).all()) and len(line) < 8:
        return False  # only level and upright pieces: a frame, or two axes
    off = np.abs((places - places[0]) @ np.array([-chord[1], chord[0]])) / length
    return bool(off.max() > _STRAIGHT * length)


def _at_most(line: list[Point]) -> tuple[Point, ...]:
    at = np.unique(np.linspace(0, len(line) - 1, min(len(line), _MOST_POINTS)).round().astype(int))
    return tuple((round(line[one][0], 2), round(line[one][1], 2)) for one in at)


def _pieces(sheet: Any, width: int, height: int) -> Iterator[list[Point]]:
    """Every drawn line of a page from one move of the pen to the next."""
    for part in sheet.get_objects(filter=[raw.FPDF_PAGEOBJ_PATH]):
        place = part.get_matrix()
        holder = part.container
        while holder is not None:  # a form within the page has a matrix of its own
            place = place.multiply(holder.get_matrix())
            holder = holder.container
        line: list[Point] = []
        bends: list[Point] = []
        for at in range(raw.FPDFPath_CountSegments(part)):
            segment = raw.FPDFPath_GetPathSegment(part, at)
            x, y = c_float(), c_float()
            raw.FPDFPathSegment_GetPoint(segment, byref(x), byref(y))
            point = _on_picture(sheet, place.on_point(x.value, y.value), width, height)
            kind = raw.FPDFPathSegment_GetType(segment)
            if kind == raw.FPDF_SEGMENT_MOVETO:
                if len(line) > 1:
                    yield line
                line = [point]
            elif kind == raw.FPDF_SEGMENT_LINETO:
                line.append(point)
            else:
                bends.append(point)
                if len(bends) == 3:
                    line += _bezier(line[-1], *bends)
                    bends = []
        if len(line) > 1:
            yield line


def _on_picture(sheet: Any, point: Point, width: int, height: int) -> Point:
    x, y = c_int(), c_int()
    size = (0, 0, width * _FINE, height * _FINE, 0)
    raw.FPDF_PageToDevice(sheet, *size, *point, byref(x), byref(y))
    return x.value / _FINE, y.value / _FINE


def _bezier(start: Point, first: Point, second: Point, end: Point) -> list[Point]:
    share = np.linspace(0, 1, _PARTS + 1)[1:, None]
    corners = [np.array(one) for one in (start, first, second, end)]
    weights = ((1 - share) ** 3, 3 * share * (1 - share) ** 2, 3 * share**2 * (1 - share), share**3)
    places = sum(weight * corner for weight, corner in zip(weights, corners, strict=True))
    return [(float(x), float(y)) for x, y in np.asarray(places)]


if __name__ == "__main__":
    main()
