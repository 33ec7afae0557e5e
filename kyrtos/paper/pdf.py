"""HTML to PDF with WeasyPrint, which is loaded only here (it is heavy) and reads nothing but our own static files."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.template.loader import render_to_string

_STATIC = Path(settings.BASE_DIR) / "kyrtos" / "static"


def render_pdf(view: Any) -> bytes:
    """The PDF of a paper view.

    Raises
    ------
    OSError
        When the system's PDF libraries (pango, harfbuzz) are missing.
    """
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    html = render_to_string("paper/paper.html", {"paper": view})
    fetcher = URLFetcher(allowed_protocols=["file", "data"])
    pdf: bytes = HTML(string=html, base_url=_STATIC.as_uri() + "/", url_fetcher=fetcher).write_pdf()
    return pdf
