"""Labels with a QR code that opens a pump's page: one, or a sheet of them, as PDF."""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import qrcode
import qrcode.constants
from django.template.loader import render_to_string

from kyrtos.installations.models import InstalledPump
from kyrtos.paper.pdf import pdf_of_page
from kyrtos.shops.models import Shop

MOST = 28  # two sheets: more would keep a server busy for too long
_BOX_PX = 6


@dataclass(frozen=True)
class Label:
    """What stands on one label."""

    qr: str
    code: str
    pump: str
    serial: str
    where: str
    installed: str


def qr_code(address: str) -> str:
    """A QR code of medium error correction, as an address that holds the picture itself.

    A picture of black and white points prints in a tenth of the time that paths take.
    """
    code = qrcode.QRCode(
        error_correction=qrcode.constants.ERROR_CORRECT_M, border=2, box_size=_BOX_PX
    )
    code.add_data(address)
    stream = io.BytesIO()
    code.make_image().save(stream, "PNG")
    return f"data:image/png;base64,{base64.b64encode(stream.getvalue()).decode()}"


def _label(pump: InstalledPump, address: str) -> Label:
    where = ", ".join(filter(None, (pump.site.name, pump.place)))
    return Label(
        qr=qr_code(address),
        code=f"{pump.code[:4]} {pump.code[4:]}",
        pump=pump.name,
        serial=pump.serial,
        where=where,
        installed=f"{pump.installed:%Y-%m}" if pump.installed else "",
    )


def sheet(
    shop: Shop, pumps: Iterable[InstalledPump], address_of: Callable[[InstalledPump], str]
) -> bytes:
    """Labels as a PDF: a page of the label's size for one, a sheet of 2 by 7 for more."""
    made = [_label(one, address_of(one)) for one in pumps]
    context = {"labels": made, "shop": shop, "single": len(made) == 1}
    return pdf_of_page(render_to_string("installations/labels.html", context))
