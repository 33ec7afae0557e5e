"""Photos and files of a site: looked at, shrunk, and put where Django keeps files."""

from __future__ import annotations

import io
import uuid
from contextlib import suppress
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import Sum
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from kyrtos.accounts.models import User
from kyrtos.customers.models import Site, SiteFile
from kyrtos.shops import quota
from kyrtos.shops.quota import StoreFailed
from sizing.base.errors import SizingError

LARGEST_BYTES = 25_000_000
MOST_OF_A_JOB_BYTES = 200_000_000
_FORMATS = ["JPEG", "PNG", "WEBP"]
_MOST_PIXELS = {"JPEG": 120_000_000}  # which is decoded at a part of its size
_MOST_PIXELS_ELSE = 25_000_000
_WIDEST_PX = 2000
_QUALITY = 85
_ENDINGS = {
    ".pdf": "application/pdf",
    ".csv": "text/csv",
    ".txt": "text/plain",
    ".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ".json": "application/json",
}


PHOTO_TYPE = "image/jpeg"  # of what is drawn here
KNOWN_TYPES = frozenset((PHOTO_TYPE, *_ENDINGS.values()))


class CannotKeep(SizingError):
    """A file that is not kept; the text says why."""


def shrunk(content: bytes, *, keep_position: bool = False) -> bytes:
    """A picture as a JPEG of at most 2000 pixels, upright, without what the camera wrote in it.

    The place where it was taken only stays when asked for.

    Raises
    ------
    CannotKeep
        It is no picture that can be read.
    """
    try:
        with Image.open(io.BytesIO(content), formats=_FORMATS) as found:
            most = _MOST_PIXELS.get(str(found.format), _MOST_PIXELS_ELSE)
            if found.width * found.height > most:
                raise CannotKeep(
                    f"this picture has more than {most // 1_000_000} million pixels: send a"
                    " smaller one"
                )
            position = found.getexif().get_ifd(ExifTags.IFD.GPSInfo)
            found.draft("RGB", (_WIDEST_PX, _WIDEST_PX))
            upright = ImageOps.exif_transpose(found).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise CannotKeep("this is no picture that can be read (JPEG, PNG or WebP)") from None
    upright.thumbnail((_WIDEST_PX, _WIDEST_PX))
    told: dict[str, Any] = {}
    if keep_position and position:
        written = Image.Exif()
        written[ExifTags.IFD.GPSInfo] = dict(position)
        told["exif"] = written
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=_QUALITY, optimize=True, **told)
    return out.getvalue()


def position_in(content: bytes) -> bool:
    """Whether a picture says where it was taken."""
    with Image.open(io.BytesIO(content), formats=_FORMATS) as found:
        return bool(found.getexif().get_ifd(ExifTags.IFD.GPSInfo))


@dataclass(frozen=True)
class Judged:
    """What is kept of something that came: its content, media type, ending, and what it is."""

    content: bytes
    media_type: str
    ending: str

    @property
    def is_photo(self) -> bool:
        """Whether it was drawn here."""
        return self.media_type == PHOTO_TYPE


def type_by_name(name: str) -> str:
    """The media type that a file of a name has here: a picture's, unless its ending is listed."""
    return _ENDINGS.get(PurePath(name).suffix.lower(), PHOTO_TYPE)


def judged(content: bytes, name: str, *, keep_position: bool = False) -> Judged:
    """A photo or a file as it may be kept, by whatever door it comes.

    Its name's ending and what it holds decide, never what somebody says that it is: pictures are
    drawn anew, and the rest is of a closed list that goes out as files only.

    Raises
    ------
    CannotKeep
        It is empty, too large, or neither.
    """
    if len(content) > LARGEST_BYTES:
        raise CannotKeep("this file is larger than 25 MB")
    if not content:
        raise CannotKeep("this file is empty")
    media_type = type_by_name(name)
    if media_type == PHOTO_TYPE:
        return Judged(shrunk(content, keep_position=keep_position), PHOTO_TYPE, ".jpg")
    ending = PurePath(name).suffix.lower()
    if ending == ".pdf" and not content.startswith(b"%PDF-"):
        raise CannotKeep("this file is called .pdf and is none")
    return Judged(content, media_type, ending)


def keep(
    *,
    site: Site,
    user: User,
    sent: UploadedFile[bytes],
    place: str,
    keep_position: bool = False,
    job: uuid.UUID | None = None,
) -> SiteFile:
    """Keep a photo or a file with a site.

    Raises
    ------
    CannotKeep
        It is neither, too large, or the job has its 200 MB.
    NoMoreRoom
        The shop has its share.
    """
    if (sent.size or 0) > LARGEST_BYTES:
        raise CannotKeep("this file is larger than 25 MB")
    found = judged(sent.read(), sent.name or "", keep_position=keep_position)
    used = SiteFile.objects.filter(site=site, job=job).aggregate(sum=Sum("size_bytes"))["sum"] or 0
    if used + len(found.content) > MOST_OF_A_JOB_BYTES:
        raise CannotKeep("this job keeps 200 MB of photos and files already: take some away first")
    of_shop = SiteFile.objects.filter(site__shop=site.shop_id).aggregate(sum=Sum("size_bytes"))
    quota.check_bytes(of_shop["sum"] or 0, len(found.content))
    made = uuid.uuid4()
    stored = store(site, made, found)
    return SiteFile.objects.create(
        id=made,
        site=site,
        user=user,
        job=job,
        name=PurePath(sent.name or "photo").name[:200],
        place=place,
        stored=stored,
        media_type=found.media_type,
        is_photo=found.is_photo,
        size_bytes=len(found.content),
    )


def store(site: Site, file_id: uuid.UUID, found: Judged) -> str:
    """Put what was judged into the store; its name there.

    Raises
    ------
    StoreFailed
        The store is full or takes nothing; no half of it stays.
    """
    name = f"shop-{site.shop_id}/{file_id}{found.ending}"
    try:
        return default_storage.save(name, ContentFile(found.content))
    except OSError as problem:
        with suppress(OSError):
            default_storage.delete(name)
        raise StoreFailed(str(problem.strerror or problem)) from problem


def remove(file: SiteFile) -> None:
    """Take a photo or file away, and out of the store once that holds."""
    stored = file.stored
    file.delete()
    transaction.on_commit(lambda: default_storage.delete(stored))
