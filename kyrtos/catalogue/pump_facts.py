"""A pump's facts as text, for its page and for the paper."""

from __future__ import annotations

from sizing.base import units
from sizing.base.numbers import as_read
from sizing.base.units import System
from sizing.pump.catalogue import Pump

_MEASURED = (
    ("Largest solid", "solids_m", "size"),
    ("Width", "width_m", "size"),
    ("Height", "height_m", "size"),
    ("Lowest stop level", "lowest_stop_m", "size"),
    ("Voltage", "voltage_v", "voltage"),
    ("Curve stated at", "frequency_hz", "mains"),
    ("Motor also runs on", "also_hz", "mains"),
    ("Current", "current_a", "current"),
    ("Motor power", "motor_power_w", "power"),
    ("Water up to", "hottest_c", "temperature"),
    ("Least flow", "least_flow_m3s", "flow"),
    ("Starts allowed", "most_starts_per_s", "frequency"),
    ("Runs at least", "least_run_s", "time"),
    ("Length", "length_m", "size"),
    ("Impeller", "impeller_m", "size"),
    ("Slows down to", "slowest_speed", "ratio"),
)

_YES_NO = {True: "yes", False: "no", None: ""}


def _plain(value: float | None, unit: str = "") -> str:
    return "" if value is None else as_read(f"{value:g} {unit}".strip())


def pump_facts(pump: Pump, system: System, currency: str) -> list[tuple[str, str]]:
    """(label, text) of every fact; the text is '' where the maker does not say."""
    found = []
    for label, name, dimension in _MEASURED:
        value = getattr(pump, name)
        found.append((label, "" if value is None else units.show(value, dimension, system)))
    return [
        *found,
        ("Inlet", pump.suction),
        ("Outlet", pump.discharge),
        ("Phases", "" if pump.phases is None else str(pump.phases)),
        ("Float", pump.float_type),
        ("Listed for drinking water", _YES_NO[pump.drinking_water]),
        ("Noise at 1 m", _plain(pump.noise_db, "dB(A)")),
        ("Speed", _plain(pump.speed_rpm, "turns a minute")),
        ("Control", pump.control),
        ("Materials", pump.materials),
        ("Seal", pump.seal),
        ("Bearings", pump.bearings),
        ("Elastomers", pump.elastomers),
        ("On the shelf", _plain(pump.stock)),
        ("More within", _plain(pump.lead_days, "days")),
        (
            "Still made",
            (
                "no" + (f": {pump.successor} took its place" if pump.successor else "")
                if pump.discontinued
                else "yes"
            ),
        ),
        ("Warranty", _plain(pump.warranty_years, "years")),
        ("Price", "" if pump.price is None else f"{currency} {units.number_text(pump.price, 2)}"),
    ]
