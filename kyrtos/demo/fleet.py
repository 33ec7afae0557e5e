"""Three hundred invented pumps over twelve years, from a seed, with a truth that is known.

What is estimated from them can be held against :data:`TRUTH`. The day they are looked at is
:data:`LOOKED`: what ran then runs.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np
from django.utils import timezone

from kyrtos.accounts.models import User
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import CURVE, PLAIN, to_pump
from kyrtos.customers.models import Customer, Site, folded
from kyrtos.installations import pump_records, readings
from kyrtos.installations.models import CODE_LENGTH, LETTERS, Event, InstalledPump, Reminder
from kyrtos.shops.models import Shop
from sizing.aftercare.commissioning.promise import Promise
from sizing.base import tables
from sizing.base.units import DAYS_PER_YEAR, unit
from sizing.base.water import GRAVITY_M_S2, water
from sizing.hydraulics.friction import velocity_head_m, velocity_m_s
from sizing.pump.catalogue import Pump
from sizing.pump.record import record

SEED, COUNT, YEARS = 20141127, 300, 12.0
LOOKED = date(2026, 11, 20)
_FIRST = date(2014, 11, 24)


@dataclass(frozen=True)
class Truth:
    """How a model fails: Weibull shape and scale [years], hours a year, where it stands."""

    shape: float
    scale_years: float
    hours_per_year: float
    kind: str


# Two wear out (shape over one), one fails young (under one), the rest by chance.
TRUTH = {
    ("Ondrath", "K 7"): Truth(1.0, 7.0, 260.0, "sump"),
    ("Ondrath", "K 11"): Truth(2.6, 9.5, 300.0, "sump"),
    ("Vessmar", "Tarn 50"): Truth(1.0, 5.0, 280.0, "sump"),
    ("Quorl", "S-33"): Truth(0.75, 6.0, 250.0, "sump"),
    ("Harrowick", "E 55"): Truth(1.0, 10.0, 420.0, "effluent"),
    ("Harrowick", "W 50"): Truth(2.2, 11.0, 380.0, "sewage"),
    ("Vessmar", "Roach 2"): Truth(1.0, 8.0, 340.0, "sewage"),
    ("Harrowick", "G 15"): Truth(1.0, 6.5, 300.0, "pressure_sewer"),
    ("Ondrath", "B 3-60"): Truth(1.8, 13.0, 900.0, "well"),
    ("Tiddan", "Swift 4"): Truth(1.0, 9.0, 1100.0, "booster"),
}
_FIRST_NAMES = ("Alder", "Bryn", "Corra", "Dunstan", "Elowen", "Fenna", "Garrick", "Hesper")
_LAST_NAMES = ("Quill", "Marsh", "Tolver", "Wray", "Penhale", "Sark", "Orrin", "Lamb", "Vane")
_STREETS = ("Weir Steps", "Hill Street", "Tanyard", "Mere Road", "Lime Walk", "Kiln End")
_ROOMS = ("cellar", "yard pit", "boiler room", "garden", "lower flat", "barn")
_CAUSES = ("wore out", "jammed or clogged", "seal or bearing", "motor burnt", "float or switch")


def load(shop: Shop, user: User) -> list[InstalledPump]:
    """Put the fleet into a shop, and the pump whose readings are followed over the years."""
    dice = np.random.default_rng(SEED)
    sites = _sites(shop, dice)
    stock = _stock(shop)
    pumps = [_pump(shop, sites, stock, dice) for _ in range(COUNT)]
    InstalledPump.objects.bulk_create(pumps)
    Event.objects.bulk_create([one for pump in pumps for one in _events(pump, user, dice)])
    running = [one for one in pumps if one.state == InstalledPump.State.RUNNING]
    Reminder.objects.bulk_create([_reminder(pump, at) for at, pump in enumerate(running[:24])])
    _followed(shop, user)
    _half_a_plate(shop, user)
    return pumps


def _stock(shop: Shop) -> dict[tuple[str, str], Pump]:
    rows = CatalogueEntry.objects.filter(shop=shop, maker__in={maker for maker, _ in TRUTH})
    found = {(row["maker"], row["model"]): to_pump(row) for row in rows.values(*PLAIN, *CURVE)}
    return {key: found[key] for key in TRUTH}


def _sites(shop: Shop, dice: np.random.Generator) -> list[Site]:
    names = [f"{first} {last}" for last in _LAST_NAMES for first in _FIRST_NAMES]
    dice.shuffle(names)
    customers = Customer.objects.bulk_create(
        Customer(
            shop=shop,
            name=name,
            known_as=folded(name),
            phone=f"0555 {dice.integers(1000, 9999)}",
        )
        for name in names
    )
    made = []
    for customer in customers:
        for room in dice.choice(_ROOMS, int(dice.integers(1, 3)), replace=False):
            street = f"{dice.integers(1, 60)} {dice.choice(_STREETS)}"
            name = f"{street}, {room}"
            made.append(
                Site(
                    shop=shop,
                    customer=customer,
                    name=name,
                    known_as=folded(name),
                    address=f"{street}, Ilvermoor",
                )
            )
    return Site.objects.bulk_create(made)


def _pump(
    shop: Shop,
    sites: list[Site],
    stock: dict[tuple[str, str], Pump],
    dice: np.random.Generator,
) -> InstalledPump:
    key = list(TRUTH)[int(dice.integers(len(TRUTH)))]
    truth, known = TRUTH[key], stock[key]
    put_in = _FIRST + timedelta(days=int(dice.uniform(0, (YEARS - 0.2) * DAYS_PER_YEAR)))
    lives = truth.scale_years * float(dice.weibull(truth.shape))
    ends = put_in + timedelta(days=int(lives * DAYS_PER_YEAR))
    failed = ends <= LOOKED
    starts = float(dice.uniform(3.0, 9.0))
    cycles = failed and lives < 2.0 and truth.kind == "sump" and dice.uniform() < 0.35
    return InstalledPump(
        code="".join(dice.choice(list(LETTERS), CODE_LENGTH)),
        shop=shop,
        site=sites[int(dice.integers(len(sites)))],
        pump_id=known.pump_id,
        maker=known.maker,
        model=known.model,
        family=known.family,
        record=record(known),
        serial=f"{known.maker[:2].upper()}{dice.integers(100000, 999999)}",
        installed=put_in,
        installer="Tobin Askew",
        kind=truth.kind,
        warranty_until=pump_records.later(put_in, 36),
        price=known.price,
        hours_per_year=truth.hours_per_year,
        state=InstalledPump.State.FAILED if failed else InstalledPump.State.RUNNING,
        ended=ends if failed else None,
        cause=("short cycling" if cycles else str(dice.choice(_CAUSES))) if failed else "",
        promised=_as_promised(known, 18.0 if cycles else starts),
    )


def _as_promised(pump: Pump, starts_per_h: float) -> dict[str, object]:
    """A run on which the pump works at its best flow."""
    flow = pump.curve.best_flow_m3s
    head = float(pump.curve.head_at(flow))
    static = 0.7 * head
    return Promise(
        static_m=static,
        k_s2_m5=(head - static) / flow**2,
        start_level_m=-1.0,
        outlet_bore_m=0.04,
        suction_bore_m=0.04,
        density_kg_m3=water(10.0).density_kg_m3,
        phases=pump.phases or 1,
        flow_m3s=flow,
        head_m=head,
        needed_flow_m3s=0.8 * flow,
        starts_per_s=unit("/h", "frequency").to_si(starts_per_h),
    ).record()


def _events(pump: InstalledPump, user: User, dice: np.random.Generator) -> list[Event]:
    assert pump.installed is not None
    found = [Event(pump=pump, user=user, kind=Event.Kind.HANDED_OVER, on=pump.installed)]
    last = pump.ended or LOOKED
    years = (last - pump.installed).days / DAYS_PER_YEAR
    for _ in range(int(dice.poisson(0.12 * years))):
        on = pump.installed + timedelta(days=int(dice.uniform(30, max(years * 365, 31))))
        found.append(
            Event(
                pump=pump,
                user=user,
                kind=Event.Kind.SERVICED,
                on=min(on, last),
                cost=float(dice.integers(40, 140)),
            )
        )
    if pump.ended:
        kind = Event.Kind.FAILED
        found.append(Event(pump=pump, user=user, kind=kind, on=pump.ended, cause=pump.cause))
    return found


def _reminder(pump: InstalledPump, at: int) -> Reminder:
    """Some late, some of this month, some later."""
    return Reminder(
        pump=pump,
        text=_custom(pump.family),
        due=timezone.localdate() + timedelta(days=7 * (at - 3)),
        every_months=12,
    )


def _custom(family: str) -> str:
    """What is done at such a pump once a year."""
    rows = [row for row in tables.rows("service_intervals") if row["family"] == family]
    return rows[-1]["what"] if rows else "look after it"


def _followed(shop: Shop, user: User) -> None:
    """The cellar's pump, read each year since: it loses some 3 % of its head a year."""
    job = shop.jobs.filter(title="Bookbinder's cellar").first()
    if job is None or job.site_record is None:
        return
    draft = pump_records.draft_from(job)
    draft.installed, draft.installer = date(2022, 11, 8), "Tobin Askew"
    draft.serial, draft.place = "VE220841", "in the pit, left of the steps"
    draft.warranty_until = date(2025, 11, 8)
    pump = pump_records.put_in(draft)
    Event.objects.create(pump=pump, user=user, kind=Event.Kind.HANDED_OVER, on=draft.installed)
    for years, wear in ((0.0, 0.0), (1.0, 0.028), (2.1, 0.064), (3.0, 0.088), (4.0, 0.121)):
        on = timezone.make_aware(datetime(2022, 11, 8, 10) + timedelta(days=years * DAYS_PER_YEAR))
        judged = readings.judge(pump, worn(pump, wear), "metric")
        readings.keep(pump=pump, user=user, judged_as=judged, system="metric", on=on)


def _half_a_plate(shop: Shop, user: User) -> None:
    """The school's boiler room: a dead pump of which the plate is half worn away."""
    school = Customer.objects.create(
        shop=shop, name="Ilvermoor Lower School", phone="0555 2210", people="Odo Fenn, caretaker"
    )
    room = Site.objects.create(
        shop=shop, customer=school, name="Boiler room", address="3 School Row, Ilvermoor"
    )
    dead = InstalledPump.objects.create(
        shop=shop,
        site=room,
        place="pit under the steps",
        model="… 11 (half a plate)",
        serial="…4471",
        family="sump",
        kind="sump",
        installed=date(2014, 9, 2),
        settings="230 V, 3.4 A, 1-1/2 in outlet, tethered float; hp not to be read",
    )
    pump_records.happened(
        pump=dead,
        user=user,
        kind=Event.Kind.FAILED,
        on=date(2026, 11, 18),
        cause="motor burnt",
        text="hums, does not turn; trips the breaker",
    )


def worn(pump: InstalledPump, wear: float) -> dict[str, str]:
    """What would be typed at a pump that has lost a share of its head."""
    curve, promise = readings.curve_and_promise(pump)
    flows = np.linspace(curve.flows_m3s[0] + 1e-6, curve.last_flow_m3s, 4000)
    heads = (1.0 - wear) * curve.head_m(flows)
    over = heads - promise.static_m - promise.k_s2_m5 * flows**2
    at = int(np.argmin(np.abs(over)))
    flow, head = float(flows[at]), float(heads[at])
    speed_m = float(velocity_head_m(velocity_m_s(flow, promise.outlet_bore_m)))
    watts = float(curve.powers_at([flow])[0])
    weight_n_m3 = promise.density_kg_m3 * GRAVITY_M_S2
    return {
        "flow": f"20 l in {0.02 / flow:.2f} s ± 2 %",
        "outlet": f"{weight_n_m3 * (head - speed_m) / 1000:.2f} kPa ± 1 %",
        "volts": "230 V",
        "amps": f"{watts / (230 * 0.86):.3f} A ± 2 %",
        "factor": "0.86",
    }
