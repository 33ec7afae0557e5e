"""Weather files of an invented place, made from the core's own year, in three open formats."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from sizing.over_time.simulation.sun_year import MONTH_DAYS, sun_year

LATITUDE, LONGITUDE, TILT, CLEARNESS = 46.5, 0.0, 50.0, 0.48


@lru_cache
def hours() -> list[tuple[int, int, int, float, float, float, float]]:
    """Month, day, hour from 0, global, direct and diffuse sun, and the air, of each hour."""
    year = sun_year(LATITUDE, TILT, (CLEARNESS,) * 12)
    found = []
    at = 0
    for month, days in enumerate(MONTH_DAYS, 1):
        for day in range(1, days + 1):
            for hour in range(24):
                flat = float(year.flat_w_m2[at])
                height = _height(at // 24, hour)
                diffuse = flat if height < 0.06 else flat * _diffuse(at // 24, flat, height)
                direct = 0.0 if height < 0.06 else (flat - diffuse) / height
                found.append(
                    (month, day, hour, flat, min(direct, 1100.0), diffuse, float(year.air_c[at]))
                )
                at += 1
    return found


def _height(day: int, hour: int) -> float:
    """Sine of the sun's height in the middle of an hour of solar time."""
    declination = np.radians(23.45) * np.sin(2 * np.pi * (284 + day + 1) / 365)
    latitude, angle = np.radians(LATITUDE), np.radians(15 * (hour + 0.5 - 12))
    return float(
        np.sin(latitude) * np.sin(declination)
        + np.cos(latitude) * np.cos(declination) * np.cos(angle)
    )


def _diffuse(day: int, flat: float, height: float) -> float:
    clear = min(flat / (1361.0 * height), 0.8)
    return float(
        np.clip(
            0.9511 - 0.1604 * clear + 4.388 * clear**2 - 16.638 * clear**3 + 12.336 * clear**4,
            0.165,
            1.0,
        )
    )


def epw() -> str:
    """As an EPW."""
    heads = [
        f"LOCATION,Highcleave,-,FAR,made up,000000,{LATITUDE},{LONGITUDE},0.0,900.0",
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0",
        "COMMENTS 1,made up",
        "COMMENTS 2,made up",
        "DATA PERIODS,1,1,Data,Sunday,1/1,12/31",
    ]
    rows = []
    for month, day, hour, flat, direct, diffuse, air in hours():
        cells = ["2023", str(month), str(day), str(hour + 1), "60", "made up", f"{air:.1f}"]
        cells += ["5.0", "60", "101325", "0", "0", "300"]
        cells += [f"{flat:.1f}", f"{direct:.1f}", f"{diffuse:.1f}"]
        cells += ["0"] * 19
        rows.append(",".join(cells[:35]))
    return "\n".join([*heads, *rows, ""])


def tmy3() -> str:
    """As a TMY3."""
    heads = [
        f'000000,"HIGHCLEAVE",FS,0.0,{LATITUDE},{LONGITUDE},900',
        "Date (MM/DD/YYYY),Time (HH:MM),ETR (W/m^2),ETRN (W/m^2),GHI (W/m^2),DNI (W/m^2),"
        "DHI (W/m^2),Dry-bulb (C)",
    ]
    rows = [
        f"{month:02}/{day:02}/2001,{hour + 1:02}:00,0,0,"
        f"{flat:.0f},{direct:.0f},{diffuse:.0f},{air:.1f}"
        for month, day, hour, flat, direct, diffuse, air in hours()
    ]
    return "\n".join([*heads, *rows, ""])


def pvgis() -> str:
    """As a PVGIS typical year."""
    heads = [
        f"Latitude (decimal degrees): {LATITUDE}",
        f"Longitude (decimal degrees): {LONGITUDE}",
        "Elevation (m): 900.0",
        "Irradiance Time Offset (h): 0.5",
        "month,year",
        *(f"{month},2015" for month in range(1, 13)),
        "time(UTC),T2m,RH,G(h),Gb(n),Gd(h),IR(h),WS10m,WD10m,SP",
    ]
    rows = [
        f"2015{month:02}{day:02}:{hour:02}30,{air:.1f},60,"
        f"{flat:.1f},{direct:.1f},{diffuse:.1f},300,2,180,91000"
        for month, day, hour, flat, direct, diffuse, air in hours()
    ]
    tail = ["", "T2m: 2-m air temperature (degree Celsius)", "PVGIS (c) made up"]
    return "\n".join([*heads, *rows, *tail, ""])
