"""Labels with a QR code that opens a pump's page: one, or a sheet of them, as PDF."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import qrcode
import qrcode.image.svg
from django.template.loader import render_to_string

from kyrtos.installations.models import InstalledPump
from kyrtos.paper.pdf import pdf_of_page
from kyrtos.shops.models import Shop

MOST = 500


@dataclass(frozen=True)
class Label:
    """What stands on one label."""

    qr: str
    code: str
    pump: str
    where: str
    installed: str


def qr_svg(address: str) -> str:
    """A QR code as an SVG element, one path, of medium error correction."""
    made = qrcode.make(
        address,
        image_factory=qrcode.image.svg.SvgPathImage,
        error_correction=qrcode.constants.ERROR_CORRECT_M,
        border=2,
    )
    stream = io.BytesIO()
    made.save(stream)
    drawn = stream.getvalue().decode()
    return drawn[drawn.index("<svg") :]


def _label(pump: InstalledPump, address: str) -> Label:
    where = ", ".join(filter(None, (pump.site.name, pump.place)))
    return Label(
        qr=qr_svg(address),
        code=f"{pump.code[:4]} {pump.code[4:]}",
        pump=pump.name,
        where=where[:70],
        installed=f"{pump.installed:%Y-%m}" if pump.installed else "",
    )


def sheet(
    shop: Shop, pumps: Iterable[InstalledPump], address_of: Callable[[InstalledPump], str]
) -> bytes:
    """Labels as a PDF: a page of the label's size for one, a sheet of 2 by 7 for more."""
    made = [_label(one, address_of(one)) for one in pumps]
    context = {"labels": made, "shop": shop, "single": len(made) == 1}
    return pdf_of_page(render_to_string("installations/labels.html", context))
