"""What takes the place of an old pump: its family, its duty, like for like first, what to watch."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from sizing.aftercare.replacement.duty import Duty, is_closed_loop, old_duty, run_of, through
from sizing.aftercare.replacement.old_pump import OldPump, PowerFound, frame_of, power_of
from sizing.aftercare.replacement.ports import nominal
from sizing.base import tables
from sizing.base.errors import SizingError
from sizing.base.message import Measure, Message, message
from sizing.hydraulics.friction import Array
from sizing.hydraulics.system_curve import SystemCurve
from sizing.operating_point.many import OPERATES, operating_points
from sizing.pump.catalogue import Catalogue, Pump
from sizing.pump.catalogue_columns import families
from sizing.pump.curve_table import Indices
from sizing.selection import pump_family

MOST = 12
_LOOKED_AT = 300
_LEAST_SHARE, _MOST_SHARE = 0.85, 2.0  # of the old flow: outside that it does another job
_SAME_FLOW = 0.10  # within that nobody notices
_MUCH_MORE = 1.5
_VOLTS_APART = 0.1
_OTHER_TURNS = 0.15
_STRONGER = 1.3  # times the old motor
_TALLER, _BULKY = 1.05, 1.25  # times the old size: worth a word, needs a hand
_SHORT_LIFE = 0.5  # of what such pumps last


@dataclass(frozen=True)
class Change:
    """Something that the new pump changes, and what to do about it; a heavy one needs a hand."""

    message: Message
    heavy: bool = False


@dataclass(frozen=True)
class Replacement:
    """A pump of the shop's that does the same, with what it changes."""

    pump: Pump
    flow_m3s: float
    head_m: float
    changes: tuple[Change, ...]

    @property
    def like_for_like(self) -> bool:
        """Whether it goes in where the old one came out, with a look at what it changes at most."""
        return not any(one.heavy for one in self.changes)


@dataclass(frozen=True)
class Flag:
    """Why the old pump was wrong for the job, and what to do."""

    text: str
    do: str
    too_big: bool = False


@dataclass(frozen=True)
class Found:
    """All that the counter can say of an old pump."""

    known: Pump | None
    families: tuple[pump_family.Advice, ...]
    power: PowerFound | None
    frame: str
    duty: Duty | None
    pumps: tuple[Replacement, ...]
    fell_out: tuple[tuple[str, int], ...]
    flags: tuple[Flag, ...]
    parts: tuple[tuple[str, str], ...]
    closed_loop: bool = False  # no lift is to be told


def _years(count: float) -> str:
    """So many years.

    >>> _years(1.0), _years(7.5)
    ('1 year', '7.5 years')
    """
    return f"{count:.3g} year{'' if f'{count:.3g}' == '1' else 's'}"


def replacement(
    old: OldPump,
    catalogue: Catalogue,
    *,
    known: Pump | None = None,
    run: SystemCurve | None = None,
    lasts_years: float | None = None,
) -> Found:
    """Everything that is to be said of an old pump.

    ``known`` is the pump of the catalogue or of an old job that its plate means, ``run`` the run of
    that job, ``lasts_years`` what such pumps last here.

    Raises
    ------
    SizingError
        Figures that no pump has.
    """
    advice = _suited(_families(old, known), old)
    allowed = [one.family for one in advice if one.fits]
    power = power_of(old)
    rows: Indices = np.flatnonzero(catalogue.in_families(allowed))
    curve = None if known is None else known.curve
    loop = is_closed_loop(allowed)
    duty = old_duty(old, power, curve, catalogue, rows, run, closed_loop=loop)
    flags = tuple(_flags(old, known, power, duty, lasts_years))
    pumps, out = _pumps(old, known, duty, catalogue, rows, allowed, run)
    if any(one.too_big for one in flags):
        pumps = _no_stronger(pumps, duty)
    sure = allowed if len(allowed) == 1 else [known.family] if known else []
    return Found(
        known=known,
        families=advice,
        power=power,
        frame=frame_of(old),
        duty=duty,
        pumps=pumps,
        fell_out=out,
        flags=flags,
        closed_loop=loop,
        parts=tuple(
            (row["part"], row["why"])
            for row in tables.rows("replaced_with")
            if row["family"] in sure
        ),
    )


def _families(old: OldPump, known: Pump | None) -> tuple[pump_family.Advice, ...]:
    if known is not None or old.family:
        family = known.family if known is not None else old.family
        if family not in families():
            raise SizingError(f"there is no family '{family}'")
        why = "the catalogue has it" if known is not None else "so it was told"
        return (pump_family.Advice(family, families()[family], True, (why,)),)
    return pump_family.recognise(old.seen)


_BY_TOLD = {"liquid": "liquids", "place": "places", "feeds": "feeds"}


def _suited(advice: tuple[pump_family.Advice, ...], old: OldPump) -> tuple[pump_family.Advice, ...]:
    """The families without those that the water, the place or the use rule out.

    Before any hydraulics: like for like is no reason to sell the wrong pump again. Where none is
    left, those that suit what was told.
    """
    told = {key: old.serves[key] for key in _BY_TOLD if old.serves.get(key)}
    if not told:
        return advice

    def against(use: pump_family.Use) -> str:
        for key, value in told.items():
            if value not in getattr(use, _BY_TOLD[key]):
                return use.why_not[key]
        return ""

    suits: list[str] = []
    why: dict[str, str] = {}
    for use in pump_family.uses():
        told_against = against(use)
        if told_against:
            why.setdefault(use.family, told_against)
        elif use.family not in suits:
            suits.append(use.family)
    kept = tuple(
        replace(one, fits=False, reasons=(why.get(one.family, "not for that"),))
        if one.fits and one.family not in suits
        else one
        for one in advice
    )
    if any(one.fits for one in kept):
        return kept
    named = {one.family for one in kept}
    return (
        *(one for one in kept if one.family not in suits),
        *(
            pump_family.Advice(one, families()[one], True, ("it suits what it has to do",))
            for one in suits
            if one in named or one in families()
        ),
    )


def _pumps(
    old: OldPump,
    known: Pump | None,
    duty: Duty | None,
    catalogue: Catalogue,
    rows: Indices,
    allowed: list[str],
    known_run: SystemCurve | None,
) -> tuple[tuple[Replacement, ...], tuple[tuple[str, int], ...]]:
    if duty is None or not len(rows):
        return (), ()
    family = allowed[0] if len(allowed) == 1 else ""
    run = known_run or run_of(old) or through(duty, old.lift_m, family)
    found = operating_points(catalogue.table.rows(rows), run)
    runs = found.status == OPERATES
    share = np.where(runs, found.flow_m3s / duty.flow_m3s, np.nan)
    enough = runs & (share >= _LEAST_SHARE)
    fits = enough & (share <= _MOST_SHARE)
    out = (
        ("cannot lift it, or run off their curve", int((~runs).sum())),
        ("give less than the old one", int((runs & ~enough).sum())),
        ("give more than twice as much", int((enough & ~fits).sum())),
    )
    made = [
        Replacement(
            pump=(pump := catalogue.pumps[int(rows[at])]),
            flow_m3s=float(found.flow_m3s[at]),
            head_m=float(found.head_m[at]),
            changes=tuple(_changes(old, known, pump, float(share[at]))),
        )
        for at in _nearest(np.flatnonzero(fits), share)
    ]
    wrong = [one for one in made if not _supplied(old, known, one.pump)]
    made = [one for one in made if _supplied(old, known, one.pump)]
    made.sort(key=lambda one: _rank(one, known, duty))
    told = (*out, ("want another supply", len(wrong)))
    return tuple(made[:MOST]), tuple((text, count) for text, count in told if count)


def _no_stronger(pumps: tuple[Replacement, ...], duty: Duty | None) -> tuple[Replacement, ...]:
    """Where the old one was too strong already, one stronger still is no like for like."""
    told = Change(message("stronger still, where the old one was too strong"), heavy=True)
    found = [
        replace(one, changes=(told, *one.changes))
        if duty is not None and one.flow_m3s > (1.0 + _SAME_FLOW) * duty.flow_m3s
        else one
        for one in pumps
    ]
    return tuple(sorted(found, key=lambda one: sum(change.heavy for change in one.changes)))


def _nearest(rows: Indices, share: Array) -> Indices:
    """Those nearest to the old flow, so many that no page waits for them."""
    apart = np.abs(np.log(share[rows]))
    return rows[np.argsort(apart, kind="stable")[:_LOOKED_AT]]


def _rank(one: Replacement, known: Pump | None, duty: Duty) -> tuple[bool, int, int, float, bool]:
    """The same pump first, then the fewest heavy changes, the fewest at all, the nearest flow."""
    same = known is not None and one.pump.pump_id == known.pump_id
    heavy = sum(change.heavy for change in one.changes)
    apart = abs(math.log(one.flow_m3s / duty.flow_m3s))
    return (not same, heavy, len(one.changes), round(apart, 2), not one.pump.stock)


def _supplied(old: OldPump, known: Pump | None, pump: Pump) -> bool:
    """Whether the supply that is there runs it; what nobody knows is no reason against."""
    volts = old.voltage_v or (known.voltage_v if known else None)
    phases = old.phases or (known.phases if known else None)
    if volts and pump.voltage_v and abs(pump.voltage_v / volts - 1.0) > _VOLTS_APART:
        return False
    if phases and pump.phases and pump.phases != phases:
        return False
    hertz = old.frequency_hz
    runs_on = {one for one in (pump.frequency_hz, pump.also_hz) if one}
    return not (hertz and runs_on and hertz not in runs_on)


def _changes(old: OldPump, known: Pump | None, pump: Pump, share: float) -> list[Change]:
    found = [*_other_flow(share), *_ports(old, known, pump), *_room(old, known, pump)]
    had = old.seen.get("float", "")
    has = bool(pump.float_type and pump.float_type != "none")
    if had == "yes" and not has:
        found.append(Change(message("no float of its own: a switch is needed"), heavy=True))
    if had == "no" and has:
        found.append(Change(message("it has a float of its own: tie it up, or use it")))
    if old.solids_m and pump.solids_m and pump.solids_m < old.solids_m:
        told = message(
            "passes {now} where {was} passed",
            now=Measure(pump.solids_m, "size"),
            was=Measure(old.solids_m, "size"),
        )
        found.append(Change(told, heavy=True))
    watts = old.label_power_w or (known.motor_power_w if known else None)
    if watts and pump.motor_power_w and pump.motor_power_w > _STRONGER * watts:
        found.append(Change(message("a stronger motor: look at breaker and cable")))
    found += _wet_end(old, pump)
    if old.speeds == 2:
        found.append(Change(message("two speeds before: motor, cord and control need two")))
    return found


def _wet_end(old: OldPump, pump: Pump) -> list[Change]:
    """Seal, turns and where the outlet points, as far as they were told."""
    told = []
    if old.seal and pump.seal and old.seal.casefold() not in pump.seal.casefold():
        words = "seal {new} where {seal} was: does the water suit it?"
        told.append(message(words, new=pump.seal, seal=old.seal))
    if old.speed_rpm and pump.speed_rpm:
        apart = pump.speed_rpm / old.speed_rpm - 1.0
        if abs(apart) > _OTHER_TURNS:
            way = "faster: louder, and it wears sooner" if apart > 0 else "slower: quieter"
            told.append(message("turns {apart} " + way, apart=Measure(abs(apart), "ratio")))
    if old.direction:
        words = "outlet pointed {way}: turn the new wet end so"
        told.append(message(words, way=old.direction))
    return [Change(one) for one in told]


def _other_flow(share: float) -> list[Change]:
    if abs(share - 1.0) <= _SAME_FLOW:
        return []
    apart = Measure(abs(share - 1.0), "ratio")
    if share < 1.0:
        return [Change(message("{apart} less flow: is that enough?", apart=apart))]
    told = "{apart} more flow: look what the pit or tank holds, it will start more often"
    return [Change(message(told, apart=apart), heavy=share > _MUCH_MORE)]


def _ports(old: OldPump, known: Pump | None, pump: Pump) -> list[Change]:
    found = []
    for name, here, there in (
        ("inlet", old.inlet or (known.suction if known else ""), pump.suction),
        ("outlet", old.outlet or (known.discharge if known else ""), pump.discharge),
    ):
        was, now = nominal(here), nominal(there)
        if was and now and was != now:
            told = message(name + " {there} where {here} was: a reducer", there=there, here=here)
            found.append(Change(told, heavy=True))
    return found


def _room(old: OldPump, known: Pump | None, pump: Pump) -> list[Change]:
    found = []
    for name, was, now in (
        ("wider", old.width_m or (known.width_m if known else None), pump.width_m),
        ("higher", old.height_m or (known.height_m if known else None), pump.height_m),
    ):
        if was and now and now > was * _TALLER:
            told = "{more} " + name + ": does it go in, does the float swing?"
            found.append(
                Change(message(told, more=Measure(now - was, "size")), heavy=now > was * _BULKY)
            )
    return found


def _flags(
    old: OldPump,
    known: Pump | None,
    power: PowerFound | None,
    duty: Duty | None,
    lasts_years: float | None,
) -> list[Flag]:
    """Why the old one may have been wrong for its job."""
    found = []
    if old.age_years is not None and lasts_years and old.age_years < _SHORT_LIFE * lasts_years:
        found.append(
            Flag(
                f"It lasted {_years(old.age_years)}; pumps of its family last about"
                f" {_years(round(lasts_years))} here"
                f" ({100 * (old.age_years / lasts_years):.0f} % of that)",
                "find out why before the next one goes the same way: starts an hour, dry running,"
                " what is in the water",
            )
        )
    if power is not None and (power.label_share or 1.0) > max(1.15, power.plate.service_factor):
        found.append(
            Flag("It drew more than its label carries", "size it anew: it ran off its curve")
        )
    curve = known.curve if known else None
    if curve is not None and duty is not None and duty.how.startswith("its curve on its run"):
        share = duty.flow_m3s / curve.best_flow_m3s
        if share > 1.25:
            found.append(
                Flag(
                    f"On this run it works at {100 * share:.0f} % of its best flow: too big for"
                    " the lift",
                    "a smaller pump does it longer and starts less often",
                    too_big=True,
                )
            )
        if share < 0.5:
            found.append(
                Flag(
                    f"On this run it works at {100 * share:.0f} % of its best flow: too weak for"
                    " the lift",
                    "the same again will be as slow: look at the next size, or a wider pipe",
                )
            )
    if curve is not None and old.lift_m is not None and old.lift_m >= curve.heads_m[0]:
        found.append(
            Flag("It can never have lifted that high", "measure the lift again, water to outlet")
        )
    return found + _wrong_family(old, known)


def _wrong_family(old: OldPump, known: Pump | None) -> list[Flag]:
    family = known.family if known is not None else old.family
    asked = {key: old.serves.get(key, "") for key in ("liquid", "place", "feeds")}
    if not family or not all(asked.values()) or old.lift_m is None:
        return []
    advice = pump_family.advise(**asked, solid_m=old.solids_m or 0.0, lift_m=old.lift_m)
    found = next((one for one in advice if one.family == family), None)
    if found is None or found.fits:
        return []
    right = ", ".join(one.label for one in advice if one.fits) or "none of ours"
    return [Flag(f"The wrong family for this job: {found.reasons[0]}", f"take: {right}")]
