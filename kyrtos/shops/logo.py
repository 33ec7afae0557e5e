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


def type_of(content: bytes) -> str:
    """The media type of a logo.

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
            found.verify()
            return _TYPES[str(found.format)]
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        raise NoLogo("This is no PNG or JPEG picture.") from None
