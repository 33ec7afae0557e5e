"""A weather file (EPW, TMY3, PVGIS) read by pvlib into a month's sun on a job's panels.

pvlib is heavy and is loaded only here, by the worker.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from sizing.base.errors import SizingError
from sizing.demand.weather import check_hours, check_labels, monthly_sun_h

_ALBEDO = 0.2


@dataclass(frozen=True)
class Weather:
    """What a file says: its place, and the hours of full sun a day of each month on the panels."""

    kind: str
    latitude_deg: float
    sun_h: tuple[float, ...]


def read(content: bytes, tilt_deg: float, latitude_deg: float) -> Weather:
    """A weather file on panels that face the equator.

    Raises
    ------
    SizingError
        Saying what is wrong with the file; or that it is of another place.
    """
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    if "\x00" in text:
        raise SizingError("this is no text: give the EPW, TMY3 or PVGIS file itself, unzipped")
    kind = _kind(text)
    try:
        hours, place = _parsed(kind, text)
    except SizingError:
        raise
    except Exception:  # its readers raise whatever a broken file makes of them
        raise SizingError(f"it begins like {kind}, but breaks off or was changed") from None
    if abs(place["latitude"] - latitude_deg) > 2.0:
        raise SizingError(
            f"the file is of latitude {place['latitude']:.1f}°, the job of {latitude_deg:.1f}°"
        )
    return Weather(kind, place["latitude"], _on_panels(kind, hours, place, tilt_deg))


def _kind(text: str) -> str:
    head = text[:2000]
    if head.startswith("LOCATION,"):
        return "EPW"
    if "Date (MM/DD/YYYY)" in head:
        return "TMY3"
    if "Latitude (decimal degrees)" in head and "Gb(n)" in text[:6000]:
        return "PVGIS"
    raise SizingError(
        "this is neither an EPW, a TMY3 nor a PVGIS file of a typical year (CSV, with direct and"
        " diffuse sun)"
    )


def _parsed(kind: str, text: str) -> tuple[Any, dict[str, float]]:
    """The hours with ghi, dni and dhi, and the place."""
    from pvlib import iotools  # type: ignore[import-untyped]

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "weather.csv"
        path.write_text(text, encoding="utf-8")
        if kind == "EPW":
            hours, about = iotools.read_epw(str(path))
        elif kind == "TMY3":
            hours, about = iotools.read_tmy3(str(path), map_variables=True)
        else:
            found = iotools.read_pvgis_tmy(str(path), map_variables=True, pvgis_format="csv")
            hours, about = found[0], found[1]
            about = about.get("inputs", about)
    latitude, longitude = _number(about, "latitude"), _number(about, "longitude")
    return hours, {"latitude": latitude, "longitude": longitude}


def _number(about: dict[str, Any], name: str) -> float:
    value = about[name] if name in about else about["location"][name]
    return float(value["value"] if isinstance(value, dict) else value)


def _on_panels(
    kind: str, hours: Any, place: dict[str, float], tilt_deg: float
) -> tuple[float, ...]:
    import pandas  # type: ignore[import-untyped]
    import pvlib

    sun = {
        name: np.asarray(pandas.to_numeric(hours[name], errors="coerce"), dtype=float)
        for name in ("ghi", "dni", "dhi")
    }
    months = np.asarray(hours.index.month)
    check_hours(sun["ghi"], sun["dni"], sun["dhi"], months)
    # the middle of each hour: TMY3 names its end, EPW (as read) its beginning, PVGIS a moment
    shift = {"TMY3": -30, "EPW": 30, "PVGIS": 0}[kind]
    middle = hours.index + pandas.Timedelta(minutes=shift)
    position = pvlib.solarposition.get_solarposition(middle, place["latitude"], place["longitude"])
    check_labels(sun["ghi"], np.asarray(position["zenith"]))
    extra = np.asarray(pvlib.irradiance.get_extra_radiation(middle))
    slope = pvlib.irradiance.get_total_irradiance(
        tilt_deg,
        180.0 if place["latitude"] >= 0 else 0.0,
        np.asarray(position["apparent_zenith"]),
        np.asarray(position["azimuth"]),
        sun["dni"],
        sun["ghi"],
        sun["dhi"],
        dni_extra=extra,
        model="haydavies",
        albedo=_ALBEDO,
    )["poa_global"]
    return monthly_sun_h(np.asarray(slope, dtype=float), months)
