"""What the counter found, in words."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from sizing.aftercare.reliability.cost_of_a_year import GroupLife
from sizing.aftercare.reliability.survival import Span
from sizing.aftercare.replacement.duty import Duty
from sizing.aftercare.replacement.old_pump import PowerFound
from sizing.aftercare.replacement.replacement import Found
from sizing.base import units
from sizing.base.units import System
from sizing.pump.catalogue import Pump


@dataclass(frozen=True)
class PumpRow:
    """A pump that does the same."""

    pump_id: str
    put_in: str  # maker and model as a query
    name: str
    same: bool
    like_for_like: bool
    duty: str
    price: str
    stock: str
    changes: tuple[tuple[str, bool], ...]


@dataclass(frozen=True)
class FoundView:
    """What the screen shows."""

    known: str
    known_id: str
    families: tuple[tuple[str, str], ...]
    family_code: str
    not_families: tuple[tuple[str, str], ...]
    power: tuple[str, ...]
    frame: str
    duty: str
    how: str
    pumps: tuple[PumpRow, ...]
    out: str
    flags: tuple[tuple[str, str], ...]
    parts: tuple[tuple[str, str], ...]
    life: str
    closed_loop: bool


def found_view(found: Found, system: System, currency: str, lives: GroupLife | None) -> FoundView:
    """Everything in the reader's units."""
    fits = [one for one in found.families if one.fits]
    known_id = found.known.pump_id if found.known else ""
    return FoundView(
        known=found.known.name if found.known else "",
        known_id=known_id,
        families=tuple((one.label, one.reasons[0]) for one in fits[:5]),
        family_code=fits[0].family if fits else "",
        not_families=tuple((one.label, one.reasons[0]) for one in found.families if not one.fits)[
            :4
        ],
        power=_power(found.power, system),
        frame=found.frame,
        duty=_duty(found.duty, system),
        how=found.duty.how if found.duty else "",
        pumps=tuple(
            PumpRow(
                pump_id=one.pump.pump_id,
                put_in=urlencode({"maker": one.pump.maker, "model": _model(one.pump)}),
                name=one.pump.name,
                same=one.pump.pump_id == known_id,
                like_for_like=one.like_for_like,
                duty=f"{units.show(one.flow_m3s, 'flow', system)} at"
                f" {units.show(one.head_m, 'length', system)}",
                price="" if one.pump.price is None else f"{one.pump.price:,.0f} {currency}",
                stock="" if one.pump.stock is None else f"{one.pump.stock:g} on the shelf",
                changes=tuple((each.message.text(system), each.heavy) for each in one.changes),
            )
            for one in found.pumps
        ),
        out=", ".join(f"{count} {text}" for text, count in found.fell_out),
        flags=tuple((one.text, one.do) for one in found.flags),
        parts=found.parts,
        life=_life(lives, currency),
        closed_loop=found.closed_loop,
    )


def _model(pump: Pump) -> str:
    return " ".join(filter(None, (pump.model, pump.variant)))


def _power(power: PowerFound | None, system: System) -> tuple[str, ...]:
    if power is None:
        return ()
    plate = power.plate
    carries = (
        ""
        if power.carries_hp is None
        else f"; the smallest rating that carries it is {_hp(power.carries_hp)}"
    )
    return (
        *((power.says,) if power.says else ()),
        f"It draws {units.show(plate.input_power_w, 'power', system)} and gives about"
        f" {units.show(plate.shaft_power_w, 'power', system)} at the shaft; the nearest rating is"
        f" {_hp(power.nearest_hp)}{carries}.",
        f"{power.assumed[:1].upper()}{power.assumed[1:]}.",
    )


_FRACTIONS = {1 / 6: "1/6", 0.25: "1/4", 1 / 3: "1/3", 0.5: "1/2", 0.75: "3/4", 1.5: "1-1/2"}


def _hp(value: float) -> str:
    written = next((text for one, text in _FRACTIONS.items() if abs(one - value) < 1e-6), "")
    watts = units.show_in(units.unit("hp", "power").to_si(value), "power", "W")
    return f"{written or f'{value:g}'} hp ({watts})"


def _duty(duty: Duty | None, system: System) -> str:
    if duty is None:
        return ""

    def between(low: float, high: float, dimension: str) -> str:
        return f"{units.show(low, dimension, system)} to {units.show(high, dimension, system)}"

    flow = between(duty.flow_low_m3s, duty.flow_high_m3s, "flow")
    return f"{flow} at {between(duty.head_low_m, duty.head_high_m, 'length')}"


def _years(span: Span) -> str:
    return "" if span.years is None else f"{span.years:.0f} years"


def _life(lives: GroupLife | None, currency: str) -> str:
    """How long a model lasts here, such as '11 years here: 2 of 9 failed; 27 a year'."""
    if lives is None:
        return ""
    life = lives.life
    years = _years(life.expected)
    few = " (small numbers)" if life.few else ""
    if not years:
        return f"{life.count} stand or stood here, none failed yet."
    cost = lives.cost_per_year
    a_year = "" if cost is None else f"; {cost:,.0f} {currency} a year"
    return f"This model lasts {years} here: {life.failed} of {life.count} failed{few}{a_year}."
