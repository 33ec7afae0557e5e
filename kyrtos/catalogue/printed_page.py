"""A file with printed curves as a picture, and the lines that a PDF holds as vectors."""

from __future__ import annotations

import io
from collections.abc import Iterator
from ctypes import byref, c_float, c_int
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image, UnidentifiedImageError

from sizing.pump.digitise import Point, TraceError

MOST_BYTES = 12 * 1024 * 1024
_WIDEST_PX, _TALLEST_PX, _MOST_PX = 2000, 4000, 60_000_000
_MOST_LINES, _MOST_POINTS = 120, 400
_JOIN_PX = 0.6  # ends so close are one line that was written in pieces
_LEAST_SHARE = 0.08  # of the page's width: shorter ones are letters and ticks
_STRAIGHT = 0.004  # of its length off its chord: axes and grid lines are straighter
_PARTS = 16  # straight pieces of a Bézier piece
_FINE = 64  # parts of a pixel in which pdfium tells whole numbers


@dataclass(frozen=True)
class PrintedPage:
    """The picture, and the curved lines of a PDF in its pixels."""

    image: Image.Image
    lines: tuple[tuple[Point, ...], ...] = ()


def read(content: bytes, page: int = 1) -> PrintedPage:
    """A picture (PNG, JPEG and the like), or a page of a PDF.

    Raises
    ------
    TraceError
        Neither picture nor PDF, too large, or no such page.
    """
    if len(content) > MOST_BYTES:
        raise TraceError("the file is larger than 12 MB: scan it smaller")
    if content[:5] == b"%PDF-":
        return _page(content, page)
    image = _image(content).convert("RGB")
    if image.width > _WIDEST_PX:
        image = image.resize((_WIDEST_PX, max(round(image.height * _WIDEST_PX / image.width), 1)))
    return PrintedPage(image)


def _image(content: bytes) -> Image.Image:
    try:
        image = Image.open(io.BytesIO(content))
        if image.width * image.height > _MOST_PX:
            raise TraceError("the picture has too many pixels: scan it at 200 dots an inch")
        image.load()
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        raise TraceError("this is neither a picture (PNG, JPEG) nor a PDF") from None
    return image


def _page(content: bytes, page: int) -> PrintedPage:
    import pypdfium2  # type: ignore[import-untyped]

    try:
        document = pypdfium2.PdfDocument(content)
    except pypdfium2.PdfiumError:
        raise TraceError("this PDF cannot be read") from None
    try:
        if not 1 <= page <= len(document):
            raise TraceError(f"the PDF has {len(document)} pages: there is no page {page}")
        sheet = document[page - 1]
        scale = min(
            2.5,
            _WIDEST_PX / max(sheet.get_width(), 1.0),
            _TALLEST_PX / max(sheet.get_height(), 1.0),
        )
        image: Image.Image = sheet.render(scale=scale).to_pil().convert("RGB")
        return PrintedPage(image, _lines(sheet, image.width, image.height))
    finally:
        document.close()


def _lines(sheet: Any, width: int, height: int) -> tuple[tuple[Point, ...], ...]:
    """The long curved lines of a page, the longest first, in the pixels of its picture."""
    joined: list[list[Point]] = []
    for piece in _pieces(sheet, width, height):
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
    import pypdfium2.raw as raw  # type: ignore[import-untyped]

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
    import pypdfium2.raw as raw

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
