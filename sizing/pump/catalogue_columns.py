"""The columns of a catalogue file: what each fills in and how its cells are read."""

from __future__ import annotations

from dataclasses import dataclass

from sizing.base import tables


@dataclass(frozen=True)
class Column:
    """A column of the file: what it fills in, how a cell is read, whether it must be there."""

    name: str
    field: str
    reads: str  # a dimension, or 'text', 'number', 'yes/no', 'list'
    default_unit: str = ""
    required: bool = False
    help: str = ""


COLUMNS = (
    Column("maker", "maker", "text", required=True, help="who makes it"),
    Column(
        "model",
        "model",
        "text",
        required=True,
        help="the maker's name for it; maker and model together name the pump",
    ),
    Column("family", "family", "text", required=True, help="one of the family codes below"),
    Column(
        "flow_unit", "", "text", required=True, help="unit of the flows, such as m3/h, l/min, gpm"
    ),
    Column(
        "head_unit",
        "",
        "text",
        required=True,
        help="unit of the heads, such as m, ft; or a pressure such as psi, of cold water",
    ),
    Column(
        "flows",
        "",
        "list",
        required=True,
        help="flows of the curve's points, rising, parted by semicolons",
    ),
    Column("heads", "", "list", required=True, help="heads at those flows"),
    Column("powers_w", "", "list", help="electrical input in W at those flows"),
    Column("npsh", "", "list", help="NPSH required at those flows, in the head unit"),
    Column("solids", "solids_m", "size", "mm", help="largest ball that passes"),
    Column("width", "width_m", "size", "mm", help="widest measure with its float at rest"),
    Column("height", "height_m", "size", "mm", help="height without the pipe"),
    Column(
        "lowest_stop", "lowest_stop_m", "size", "mm", help="lowest water level at which it may stop"
    ),
    Column("discharge", "discharge", "text", help="outlet, such as 1-1/2 in or DN40"),
    Column("voltage", "voltage_v", "voltage", "V", help="rated voltage"),
    Column("phases", "phases", "number", help="1 or 3"),
    Column(
        "frequency_hz",
        "frequency_hz",
        "mains",
        "Hz",
        help="mains frequency that the curve is stated at; empty: not stated",
    ),
    Column(
        "also_hz",
        "also_hz",
        "mains",
        "Hz",
        help="another mains frequency that its motor is made for; empty: none",
    ),
    Column("current", "current_a", "current", "A", help="rated current"),
    Column("motor_power", "motor_power_w", "power", "W", help="rated shaft power of the motor"),
    Column("hottest", "hottest_c", "temperature", "°C", help="hottest water it may pump"),
    Column(
        "least_flow",
        "least_flow_m3s",
        "flow",
        "m³/h",
        help="the least flow at which its maker lets it run for long; empty: not stated",
    ),
    Column(
        "most_starts",
        "most_starts_per_s",
        "frequency",
        "/h",
        help="the most starts an hour that its maker allows; empty: not stated",
    ),
    Column(
        "least_run",
        "least_run_s",
        "time",
        "s",
        help="the shortest run that its maker asks for at every start; empty: not stated",
    ),
    Column("float", "float_type", "text", help="tethered, vertical, none"),
    Column(
        "drinking_water",
        "drinking_water",
        "yes/no",
        help="listed for drinking water: yes or no; empty: not stated",
    ),
    Column("noise_db", "noise_db", "number", help="dB(A) at 1 m"),
    Column("price", "price", "number", help="in the shop's currency"),
    Column("warranty_years", "warranty_years", "number", help=""),
    Column("note", "note", "text", help=""),
    Column("suction", "suction", "text", help="inlet, such as 1-1/4 in or DN32"),
    Column("length", "length_m", "size", "mm", help="length, to fit a chamber or a hatch"),
    Column(
        "slowest_speed",
        "slowest_speed",
        "ratio",
        "%",
        help="share of full speed down to which it may be slowed; empty: fixed speed",
    ),
    Column("control", "control", "text", help="such as float, pressure switch, drive"),
    Column("materials", "materials", "text", help="casing, impeller, shaft"),
    Column("seal", "seal", "text", help="shaft seal"),
    Column("bearings", "bearings", "text", help="such as ball, ceramic sleeve"),
    Column("elastomers", "elastomers", "text", help="such as NBR, EPDM, FKM"),
    Column("stock", "stock", "number", help="how many lie on the shelf"),
    Column("lead_days", "lead_days", "number", help="days until more come"),
    Column("discontinued", "discontinued", "yes/no", help="no longer made: yes or no"),
    Column("successor", "successor", "text", help="maker and model that took its place"),
    Column(
        "variant",
        "variant",
        "text",
        help="which impeller or speed this curve is of, such as 'speed 2'; a row for each",
    ),
    Column("impeller", "impeller_m", "size", "mm", help="impeller diameter of this curve"),
    Column("speed_rpm", "speed_rpm", "number", help="speed of this curve, turns a minute"),
)


def families() -> dict[str, str]:
    """Pump families by code, with their labels."""
    return {row["family"]: row["label"] for row in tables.rows("families")}
