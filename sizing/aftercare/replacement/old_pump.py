"""What can be known of an old pump, and what its plate says of its power."""

from __future__ import annotations

from dataclasses import dataclass, field

from sizing.base import tables, units
from sizing.base.errors import SizingError
from sizing.pump.nameplate import Plate, frame

RATINGS_HP = (1 / 6, 0.25, 1 / 3, 0.4, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0)
_SERVICE_FACTOR = 1.0
# Through-bolts of a tub pump's motor, corner to corner along a side: NEMA 48 under, 56 over.
FRAME_LIMIT_M = 0.1016
_WEAK, _STRONG = 0.75, 1.15  # share of the label that is worth a word


@dataclass(frozen=True)
class OldPump:
    """All that may be known, in SI; None or '' where nobody knows.

    ``seen`` holds answers to the clues of ``family_clues.csv``, ``serves`` liquid, place and feeds
    by the codes of :mod:`sizing.selection.pump_family`. ``lift_m`` is from the water to the
    outlet, ``length_m`` and ``bore_m`` of its pipe; ``flow_m3s`` is by a bucket or as told.
    """

    maker: str = ""
    model: str = ""
    family: str = ""
    voltage_v: float | None = None
    current_a: float | None = None
    phases: int | None = None
    frequency_hz: float | None = None
    label_power_w: float | None = None
    service_factor: float | None = None
    speed_rpm: float | None = None
    speeds: int = 1
    seal: str = ""
    direction: str = ""
    inlet: str = ""
    outlet: str = ""
    bolt_spacing_m: float | None = None
    height_m: float | None = None
    width_m: float | None = None
    solids_m: float | None = None
    age_years: float | None = None
    lift_m: float | None = None
    length_m: float | None = None
    bore_m: float | None = None
    flow_m3s: float | None = None
    flow_share: float = 0.1  # how unsure that flow is
    seen: dict[str, str] = field(default_factory=dict)
    serves: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class PowerFound:
    """What amps and volts say: input, shaft, the standard rating nearest, and the label's truth.

    ``assumed`` says which of the two came from the table of usual motors.
    """

    plate: Plate
    assumed: str
    nearest_hp: float
    carries_hp: float | None
    label_share: float | None
    says: str


def guess(phases: int, hp: float) -> tuple[float, float]:
    """The usual power factor and efficiency of a motor of that size."""
    for row in tables.rows("motor_guess"):
        if int(row["phases"]) == phases and hp <= float(row["to_hp"]):
            return float(row["power_factor"]), float(row["motor_efficiency"])
    raise SizingError(f"a motor has one phase or three, not {phases}")


def power_of(old: OldPump) -> PowerFound | None:
    """What amps and volts say; None where they are not both known.

    Raises
    ------
    SizingError
        Figures that no motor has.
    """
    if old.voltage_v is None or old.current_a is None:
        return None
    phases = old.phases or 1
    hp_of = units.unit("hp", "power").from_si
    label_hp = None if old.label_power_w is None else hp_of(old.label_power_w)
    factor, efficiency = guess(phases, label_hp or 1.0)
    for _ in range(3):  # the size that the guess rests on comes from the guess: it settles at once
        plate = Plate(
            phases=phases,
            voltage_v=old.voltage_v,
            current_a=old.current_a,
            power_factor=factor,
            motor_efficiency=efficiency,
            service_factor=old.service_factor or _SERVICE_FACTOR,
            label_power_hp=label_hp or max(hp_of(1.0), 1e-3),
        )
        factor, efficiency = guess(phases, plate.shaft_power_hp)
    share = None if label_hp is None else plate.load_of_label
    return PowerFound(
        plate=plate,
        assumed=f"power factor {plate.power_factor:g} and efficiency {plate.motor_efficiency:g}"
        " are those of usual motors of that size (assumed)",
        nearest_hp=plate.nearest_rating_hp(RATINGS_HP),
        carries_hp=plate.rating_that_carries_hp(RATINGS_HP),
        label_share=share,
        says=_label_said(share, label_hp, plate),
    )


def _label_said(share: float | None, label_hp: float | None, plate: Plate) -> str:
    if share is None or label_hp is None:
        return ""
    if share < _WEAK:
        return (
            f"Not a true {label_hp:.3g} hp: what it draws gives about {plate.shaft_power_hp:.2g} hp"
            " at the shaft. Go by the amps."
        )
    if share > max(_STRONG, plate.service_factor):
        return (
            f"It draws for {plate.shaft_power_hp:.2g} hp, over its label of {label_hp:.3g} hp: it"
            " was overloaded, or the amps are with the service factor in them."
        )
    return f"Amps and label agree: about {plate.shaft_power_hp:.2g} hp at the shaft."


def frame_of(old: OldPump) -> str:
    """The motor's frame by its bolts, in words; '' where they were not measured."""
    if old.bolt_spacing_m is None:
        return ""
    found = frame(old.bolt_spacing_m, FRAME_LIMIT_M)
    return {
        "small": "the small frame (48)",
        "large": "the large frame (56)",
        "unclear": "between the frames: measure the bolts again, centre to centre",
    }[found]
