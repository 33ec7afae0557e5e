"""HTML to PDF (and the picture to PNG) with WeasyPrint, which is loaded only here (it is heavy) and
reads nothing but our own static files.
"""

from __future__ import annotations

import io
import re
import unicodedata
from pathlib import Path
from typing import Any

from django.conf import settings
from django.template.loader import render_to_string

from kyrtos.drawing.basin_picture import BasinPicture
from kyrtos.drawing.picture import Picture
from kyrtos.drawing.time_chart import TimeChart

_PIXELS = 3
_STATIC = Path(settings.BASE_DIR) / "kyrtos" / "static"


def render_pdf(view: Any) -> bytes:
    """The PDF of a paper view.

    Raises
    ------
    OSError
        When the system's PDF libraries (pango, harfbuzz) are missing.
    """
    return pdf_of_page(render_to_string("paper/paper.html", {"paper": view}))


def render_site_sheet(view: Any) -> bytes:
    """The PDF of a site sheet; raises like :func:`render_pdf`."""
    return pdf_of_page(render_to_string("paper/site_sheet.html", {"sheet": view}))


def render_basin_order(view: Any) -> bytes:
    """The PDF of an order for a basin; raises like :func:`render_pdf`."""
    return pdf_of_page(render_to_string("paper/basin_order.html", {"order": view}))


def basin_svg(basin: BasinPicture) -> str:
    """A basin as an SVG file that stands by itself."""
    return _svg_file("drawing/basin.svg", {"basin": basin, "alone": True})


def pdf_of_page(html: str) -> bytes:
    """A page of ours as a PDF; raises like :func:`render_pdf`."""
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    if _LONG_WORD.search(html):
        html = html.replace("</head>", f"<style>{_BROKEN}</style></head>", 1)
    fetcher = URLFetcher(allowed_protocols=["file", "data"])
    pdf: bytes = HTML(
        string=emoji_named(html), base_url=_STATIC.as_uri() + "/", url_fetcher=fetcher
    ).write_pdf()
    return pdf


# in the text between tags; wider than a column of a table may be
_LONG_WORD = re.compile(r">[^<>]*?[^\s<>{};\-]{28}[^<>]*<")
# not for every paper: it makes the layout half as slow again
_BROKEN = "body { overflow-wrap: anywhere }"
# pictographs, with what colours and joins them: no font that ships has them
_EMOJI = re.compile(
    "[\U0001f000-\U0001faff\U0001f1e6-\U0001f1ff][\ufe0f\u200d\U0001f3fb-\U0001f3ff]*"
)


def emoji_named(text: str) -> str:
    """Pictographs by their names: on paper they would be empty boxes.

    >>> emoji_named("ring first \N{BELL}")
    'ring first [bell]'
    """
    return _EMOJI.sub(lambda found: f"[{unicodedata.name(found[0][0], 'sign').lower()}]", text)


def svg(picture: Picture) -> str:
    """The picture as an SVG file that stands by itself, with the colours of paper in it."""
    return _svg_file("drawing/picture.svg", {"picture": picture, "size": "print"})


def time_chart_svg(chart: TimeChart) -> str:
    """A run over time as an SVG file that stands by itself."""
    return _svg_file("drawing/time_chart.svg", {"chart": chart, "alone": True})


def _svg_file(template: str, context: dict[str, object]) -> str:
    drawn = render_to_string(template, context)
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{drawn.strip()}\n'


def png(picture: Picture) -> bytes:
    """The picture as a PNG, three pixels to each of its own; drawn by the same hand as the paper.

    Raises
    ------
    OSError
        When the system's PDF libraries are missing.
    """
    return _png(render_to_string("paper/picture_page.html", {"picture": picture}))


def time_chart_png(chart: TimeChart) -> bytes:
    """A run over time as a PNG; raises like :func:`png`."""
    return _png(render_to_string("paper/time_chart_page.html", {"chart": chart}))


def _png(page: str) -> bytes:
    import pypdfium2  # type: ignore[import-untyped]

    document = pypdfium2.PdfDocument(pdf_of_page(page))
    try:
        out = io.BytesIO()
        document[0].render(scale=_PIXELS * 4 / 3).to_pil().save(
            out, "PNG", optimize=True
        )  # 4/3: a CSS pixel is three quarters of a point
        return out.getvalue()
    finally:
        document.close()
