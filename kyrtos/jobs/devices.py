"""The devices on a site, read over HTTP: the stand-ins of ./run devices, see docs/devices.md."""

from __future__ import annotations

import http.client
import json

from django.conf import settings

from sizing.base.errors import SizingError

_ANSWERS_S = 10.0
_MOST_BYTES = 2_000_000


def known() -> bool:
    """Whether this place knows of devices at all."""
    return bool(settings.DEVICES)


def now() -> dict[str, float | None]:
    """What every device says at this moment; None where one dropped out.

    Raises
    ------
    SizingError
        No device answers.
    """
    held = json.loads(_read("/now.json", _ANSWERS_S))
    if not isinstance(held, dict):
        raise SizingError("the devices answer something that is no reading")
    return {
        str(name): value if isinstance(value, int | float) else None for name, value in held.items()
    }


def log(hours: float) -> str:
    """What the devices wrote down in the last hours, as CSV.

    Raises
    ------
    SizingError
        No device answers.
    """
    return _read(f"/log.csv?hours={hours:g}&every=20", _ANSWERS_S)


def stream(seconds: float) -> str:
    """What the devices say for so many seconds, as CSV; raises like :func:`log`."""
    return _read(f"/stream.csv?seconds={seconds:g}&every=0.25", seconds + _ANSWERS_S)


def _read(path: str, within_s: float) -> str:
    address = settings.DEVICES
    connection = http.client.HTTPConnection(address, timeout=within_s)
    try:
        connection.request("GET", path)
        answer = connection.getresponse()
        content = answer.read(_MOST_BYTES)
        if answer.status != http.HTTPStatus.OK:
            raise SizingError(f"the devices at {address} answered {answer.status}")
        return content.decode("utf-8", "replace")
    except (OSError, http.client.HTTPException):
        raise SizingError(
            f"no device answers at {address}: start the stand-ins with ./run devices"
        ) from None
    finally:
        connection.close()
