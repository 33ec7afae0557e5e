"""What a year of a pump cost, by model or any other group: price over life, repairs, energy."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from sizing.aftercare.reliability.survival import Lifetimes, Spell, lifetimes
from sizing.pump.nameplate import energy_cost_per_year


@dataclass(frozen=True)
class Served:
    """One pump: its time in service, price, what its repairs cost, input power, hours a year.

    None where it is not known.
    """

    group: str
    spell: Spell
    price: float | None
    repairs: float
    input_power_w: float | None
    hours_per_year: float | None
    cause: str = ""


@dataclass(frozen=True)
class GroupLife:
    """A group's lifetimes and what a year of one of its pumps costs; parts not known are None."""

    group: str
    life: Lifetimes
    price: float | None
    repairs_per_year: float
    energy_per_year: float | None
    causes: tuple[tuple[str, int], ...]

    @property
    def cost_per_year(self) -> float | None:
        """Price over the mean life, repairs, energy where known; None where none has failed."""
        mean = self.life.expected.years
        if mean is None or self.price is None:
            return None
        return self.price / mean + self.repairs_per_year + (self.energy_per_year or 0.0)


def _mean(values: Iterable[float | None]) -> float | None:
    known = [one for one in values if one is not None]
    return sum(known) / len(known) if known else None


def grouped(pumps: Iterable[Served], price_per_kwh: float) -> tuple[GroupLife, ...]:
    """Every group; the cheapest a year first, those without a figure after, by most pumps."""
    by_group: dict[str, list[Served]] = {}
    for one in pumps:
        by_group.setdefault(one.group, []).append(one)
    found = [_of(group, held, price_per_kwh) for group, held in by_group.items()]

    def rank(one: GroupLife) -> tuple[bool, float, int]:
        cost = one.cost_per_year
        return (cost is None, cost or 0.0, -one.life.count)

    return tuple(sorted(found, key=rank))


def _of(group: str, held: list[Served], price_per_kwh: float) -> GroupLife:
    years = sum(one.spell.years for one in held)
    causes: dict[str, int] = {}
    for one in held:
        if one.spell.failed:
            causes[one.cause or "not told"] = causes.get(one.cause or "not told", 0) + 1
    energy = _mean(
        energy_cost_per_year(one.input_power_w, one.hours_per_year, price_per_kwh)
        for one in held
        if one.input_power_w is not None and one.hours_per_year is not None
    )
    return GroupLife(
        group=group,
        life=lifetimes([one.spell for one in held]),
        price=_mean(one.price for one in held),
        repairs_per_year=sum(one.repairs for one in held) / years if years else 0.0,
        energy_per_year=energy,
        causes=tuple(sorted(causes.items(), key=lambda row: (-row[1], row[0]))),
    )
