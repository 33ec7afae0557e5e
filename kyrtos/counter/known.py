"""What the shop knows already of an old pump: its record, its run, how long such pumps last."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.catalogue.publishing import CURVE, PLAIN, to_pump
from kyrtos.counter.forms import CHOICES, FIGURES, TEXTS, Asked
from kyrtos.house_rules.services import rules_of
from kyrtos.installations import pump_records, reliability
from kyrtos.installations.models import InstalledPump
from kyrtos.shops.models import Shop
from sizing.aftercare.reliability.cost_of_a_year import GroupLife
from sizing.aftercare.replacement.duty import promised_run
from sizing.aftercare.replacement.old_pump import OldPump
from sizing.base import units
from sizing.base.units import DAYS_PER_YEAR, System
from sizing.document.job import JobDocument
from sizing.hydraulics.system_curve import SystemCurve
from sizing.kinds import kind
from sizing.pump.catalogue import Pump
from sizing.pump.identity import identity
from sizing.selection.pump_family import answer_for

_LIFE_RULE = "CHO-07"


@dataclass(frozen=True)
class Installed:
    """An installed pump that is to be replaced."""

    row: InstalledPump
    pump: Pump | None
    run: SystemCurve | None

    @property
    def customer(self) -> str:
        """Whose it is."""
        return str(self.row.site.customer or "")

    @property
    def site(self) -> str:
        """Where it stands."""
        return self.row.site.name


def installed(shop: Shop, code: str) -> Installed | None:
    """The installed pump of a code, if it is one of the shop's."""
    row = (
        shop.installed.select_related("site__customer").filter(code=code.upper()[:12]).first()
        if code
        else None
    )
    if row is None:
        return None
    promise = pump_records.promise_for(row)
    run = None if promise is None else promised_run(promise)
    return Installed(row, pump_records.pump_of_record(row), run)


def filled_in(one: Installed | None, system: System) -> dict[str, str]:
    """The fields that an installed pump fills in."""
    if one is None:
        return {}
    row = one.row
    found = {"maker": row.maker, "model": row.model, "family": row.family}
    if row.installed is not None:
        years = ((row.ended or timezone.localdate()) - row.installed).days / DAYS_PER_YEAR
        found["age"] = f"{years:.1f} years"
    promise = pump_records.promise_for(row)
    if promise is not None:
        lift = units.show(promise.static_m, "length", system)
        found["lift"] = lift.replace("\u00a0", " ")
        found["phases"] = str(promise.phases)
    if one.pump is not None and one.pump.voltage_v:
        found["volts"] = f"{one.pump.voltage_v:g} V"
    return found


def run_meant(asked: Asked, one: Installed | None, system: System) -> SystemCurve | None:
    """The old job's run, unless something else was typed of the run: that is believed."""
    if one is None:
        return None
    other = asked.given["lift"] != filled_in(one, system).get("lift", "")
    return None if other or asked.given["length"] or asked.given["bore"] else one.run


def pump_meant(shop: Shop, old: OldPump, one: Installed | None) -> Pump | None:
    """The pump that the plate means: of the record, of the catalogue by maker and model, or by a
    model that only one maker has. Half a name means none.
    """
    if one is not None and one.pump is not None and _same(one.pump, old):
        return one.pump
    if not old.model:
        return None
    rows = CatalogueEntry.objects.filter(shop=shop)
    found = rows.filter(identity=identity(old.maker, old.model))
    if not found.exists():
        found = rows.filter(model__iexact=old.model)
        if old.maker:
            found = found.filter(maker__iexact=old.maker)
    makers = set(found.values_list("maker", flat=True)[:3])
    row = found.order_by("variant").values(*PLAIN, *CURVE).first()
    return to_pump(row) if row is not None and len(makers) == 1 else None


def _same(pump: Pump, old: OldPump) -> bool:
    names = f"{pump.model} {pump.variant}".split()
    return [one.casefold() for one in names] == [one.casefold() for one in old.model.split()]


def lasts(shop: Shop, family: str) -> float | None:
    """How long pumps of a family last here: by the shop's own log, else by the rule."""
    if not family:
        return None
    pumps = list(reliability.known(shop, family=family))
    if pumps:
        found = reliability.together(pumps, timezone.localdate())
        if not found.few and found.expected.years is not None:
            return found.expected.years
    return rules_of(shop).value(_LIFE_RULE)


def life_of(shop: Shop, pump: Pump | None) -> GroupLife | None:
    """How long this model lasted here and what a year of it cost; None where none stood here."""
    if pump is None:
        return None
    groups = reliability.by_group(
        shop,
        "model",
        reliability.PRICE_PER_KWH,
        timezone.localdate(),
        maker=pump.maker,
        model=pump.model,
    )
    return groups[0] if groups else None


def note_of(asked: Asked) -> str:
    """All that was typed, for the job's note."""
    labels = {name: one.label for name, one in FIGURES.items()}
    labels |= {name: label for name, (label, _) in (TEXTS | CHOICES).items()}
    lines = [
        f"{labels[name]}: {text}" for name, text in asked.given.items() if text and name in labels
    ]
    return "From the counter. " + "; ".join(lines)


def facts_of(asked: Asked, kind_code: str) -> dict[str, str]:
    """Answers that the kind of job asks for and the counter knows."""
    given = asked.given
    found = {
        "voltage": given["volts"],
        "phases": given["phases"],
        "supply_frequency": given["hertz"],
        "largest_solid": given["solids"],
    }
    questions = {one.key: one for one in kind(kind_code).questions}
    if given["liquid"] and "liquid" in questions:
        codes = [choice.code for choice in questions["liquid"].choices]
        found["liquid"] = answer_for(codes, given["liquid"])
    bad = asked.problems
    names = {"voltage": "volts", "supply_frequency": "hertz", "largest_solid": "solids"}
    return {key: text for key, text in found.items() if text and names.get(key) not in bad}


def edits_of(asked: Asked, content: JobDocument) -> list[tuple[str, str]]:
    """The run as far as the counter knows it: its last leg's level and length."""
    if not content.legs:
        return []
    leg, given = content.legs[-1].id, asked.given
    pairs = (("ends_at", "lift"), ("length", "length"), ("bore", "bore"))
    return [
        (f"legs.{leg}.{field}", given[name])
        for field, name in pairs
        if given[name] and name not in asked.problems
    ]
