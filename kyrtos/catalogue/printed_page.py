"""A file with printed curves as a picture, and the lines that a PDF holds as vectors.

What comes from outside is judged before it is unfolded: a picture by the size that it states, a
PDF in a process of its own under limits of time and memory (``pdf_page.py``).
"""

from __future__ import annotations

import io
import json
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from PIL import Image, ImageFile, UnidentifiedImageError

from sizing.pump.digitise import Point, TraceError

MOST_BYTES = 12 * 1024 * 1024
FORMATS = ("PNG", "JPEG", "WEBP", "TIFF")
_MOST_PX, _LONGEST_SIDE_PX = 50_000_000, 20_000
_SHOWN_PX = (2000, 2800)
_PATIENCE_S = 25.0
_STRICT = threading.Lock()


@dataclass(frozen=True)
class PrintedPage:
    """The picture, and the curved lines of a PDF in its pixels."""

    image: Image.Image
    lines: tuple[tuple[Point, ...], ...] = ()


def read(content: bytes, page: int = 1) -> PrintedPage:
    """A picture (PNG, JPEG, WebP, TIFF), or a page of a PDF.

    Raises
    ------
    TraceError
        Neither picture nor PDF, too large, cut off, or no such page.
    """
    if len(content) > MOST_BYTES:
        raise TraceError("the file is larger than 12 MB: scan it smaller")
    return _page(content, page) if content[:5] == b"%PDF-" else PrintedPage(_image(content))


def _image(content: bytes) -> Image.Image:
    try:
        image = Image.open(io.BytesIO(content), formats=FORMATS)
        if image.width * image.height > _MOST_PX or max(image.size) > _LONGEST_SIDE_PX:
            raise TraceError("the picture has too many pixels: scan it at 200 dots an inch")
        image.draft("RGB", _SHOWN_PX)
        with _whole_pictures_only():
            image.load()
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise TraceError(
            "this is neither a picture (PNG, JPEG, WebP, TIFF) nor a PDF, or it is cut off"
        ) from None
    if image.width > _SHOWN_PX[0] or image.height > _SHOWN_PX[1]:
        image.thumbnail(_SHOWN_PX)
    return image.convert("RGB")


@contextmanager
def _whole_pictures_only() -> Iterator[None]:
    """Pillow takes pictures that are cut off once WeasyPrint has told it to: not these."""
    with _STRICT:
        before = ImageFile.LOAD_TRUNCATED_IMAGES
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        try:
            yield
        finally:
            ImageFile.LOAD_TRUNCATED_IMAGES = before


def _page(content: bytes, page: int) -> PrintedPage:
    command = [sys.executable, "-m", "kyrtos.catalogue.pdf_page", str(page), *map(str, _SHOWN_PX)]
    try:
        done = subprocess.run(
            command, input=content, capture_output=True, timeout=_PATIENCE_S, check=False
        )
    except subprocess.TimeoutExpired:
        done = None
    if done is None or done.returncode:
        raise TraceError(
            "this PDF cannot be drawn within bounds of time and memory: print the page to a picture"
        )
    told, _, picture = done.stdout.partition(b"\n")
    found = json.loads(told)
    if found["problem"]:
        raise TraceError(found["problem"])
    lines = tuple(tuple((x, y) for x, y in line) for line in found["lines"])
    return PrintedPage(Image.open(io.BytesIO(picture)).convert("RGB"), lines)
