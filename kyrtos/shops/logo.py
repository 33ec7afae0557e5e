"""A shop's logo, judged before it is kept: a PNG or JPEG of a size that prints."""

from __future__ import annotations

import io

from PIL import Image, UnidentifiedImageError

from sizing.base.errors import SizingError

LARGEST_LOGO = 500 * 1024
_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg"}
_WIDEST_PX = 4000


class NoLogo(SizingError):
    """What was sent is no logo; the text says why."""


def redrawn(content: bytes) -> tuple[bytes, str]:
    """A logo drawn anew, with its media type: nothing but its pixels is kept of what came.

    Raises
    ------
    NoLogo
        It is no picture of these kinds, or too large a one.
    """
    if len(content) > LARGEST_LOGO:
        raise NoLogo("This picture is larger than 500 kB: take a smaller one.")
    try:
        with Image.open(io.BytesIO(content), formats=list(_TYPES)) as found:
            if max(found.size) > _WIDEST_PX:
                raise NoLogo("This picture is over 4000 pixels wide or high.")
            kind = str(found.format)
            plain = found.convert("RGB" if kind == "JPEG" else "RGBA")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        raise NoLogo("This is no PNG or JPEG picture.") from None
    out = io.BytesIO()
    plain.save(out, kind, quality=92)
    return out.getvalue(), _TYPES[kind]
