"""The pressure against a shut valve, against what the pipes are rated for."""

from __future__ import annotations

from collections.abc import Iterator

from sizing.base.message import Measure, Working, message
from sizing.base.rounding import at_most
from sizing.checks.base import Check, Running, Site, alone, state
from sizing.document.build_route import leg_name, pipe_label
from sizing.document.job import LegEntry
from sizing.hydraulics import pipes
from sizing.selection.limit import NO_RATING_PA, PressureRating, Rated


def rated_legs(site: Site) -> Iterator[Rated]:
    """Every leg behind the pump whose rating is known, with the head over its lowest point.

    In a well or a pit the first leg begins at the water: below it the water outside presses as
    hard as the water inside. In a closed loop levels count nothing.
    """
    route, water = site.system.route, site.system.water
    start = route.start_level_m + water.head_m(highest_supply_pa(site))
    begins = route.start_level_m
    for number, (entry, leg) in enumerate(zip(site.legs, route.legs, strict=True), 1):
        low = min(begins, leg.end_elevation_m)
        begins = leg.end_elevation_m
        if entry.side == "suction":
            continue
        found = weakest_of(entry, water.temperature_c)
        if found is not None:
            rise = 0.0 if route.closed_loop else start - low
            yield Rated(leg_name(entry, number), found[0], max(found[1], NO_RATING_PA), rise)


def weakest_of(entry: LegEntry, temperature_c: float) -> tuple[str, float] | None:
    """What of a leg bears least, and its rating [Pa]; None where nothing is known."""
    known = []
    if entry.bore is None:
        rating = pipes.rating_pa(entry.series, entry.nominal, temperature_c)
        if rating is not None:
            known.append((pipe_label(entry), rating))
    if entry.rated is not None:
        known.append(("its weakest fitting", entry.rated.si("pressure")))
    return min(known, key=lambda one: one[1], default=None)


def highest_supply_pa(site: Site) -> float:
    """The most that the main brings to the pump [Pa]: at night, where that is told."""
    usual, facts = site.system.route.supply_pressure_pa, site.facts
    told = facts.optional("highest_supply") if facts.asks("highest_supply") else None
    return usual if told is None or not usual else max(told, usual)


def pressure_limit(site: Site) -> PressureRating:
    """The limit that every pump is tried against."""
    return PressureRating(tuple(rated_legs(site)), site.system)


@alone("the pressure against the rating of pipe and fittings")
def pressure_check(running: Running) -> Iterator[Check]:
    """The worst leg; nothing where no rating is known."""
    legs, water = list(rated_legs(running)), running.system.water
    if not legs:
        return
    highest = running.curve.highest_head_m
    worst = max(legs, key=lambda one: (highest + one.rise_m) / one.rating_pa)
    pressure = water.pressure_pa(highest + worst.rise_m)
    alone = water.pressure_pa(worst.rise_m)
    if worst.rating_pa <= NO_RATING_PA:
        yield Check(
            code="pressure",
            label="Pressure against a shut valve",
            state="fail",
            message=message(
                "The {leg} ({pipe}) is not made for water of {temperature}.",
                leg=worst.leg_name,
                pipe=worst.pipe,
                temperature=Measure(water.temperature_c, "temperature"),
            ),
            remedy="Take pipe for hot water: metal, CPVC or cross-linked PE.",
            weight="must",
            about="site",
        )
        return
    yield Check(
        code="pressure",
        label="Pressure against a shut valve",
        state=state(bool(at_most(pressure, worst.rating_pa))),
        message=message(
            "Against a shut valve the {leg} ({pipe}) stands under {pressure}; in water of"
            " {temperature} it is rated {rating}.",
            leg=worst.leg_name,
            pipe=worst.pipe,
            pressure=Measure(pressure, "pressure"),
            temperature=Measure(water.temperature_c, "temperature"),
            rating=Measure(worst.rating_pa, "pressure"),
        ),
        remedy="Take pipe of a higher rating, or a pump with less head at no flow.",
        working=Working(
            "Pressure at no flow",
            "ρ g (highest head + water over the leg's lowest point)",
            (
                ("highest head of the pump", Measure(highest, "length")),
                ("water and pressure over it", Measure(worst.rise_m, "length")),
            ),
            Measure(pressure, "pressure"),
            "hydrostatics; ratings fall with the water's temperature",
        ),
        weight="must",
        about="site" if not at_most(alone, worst.rating_pa) else "pump",
    )
