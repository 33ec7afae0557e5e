"""Pumps at hand that stand in one job alone: taken in as typed, and made into pumps."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

from sizing.base import numbers, units
from sizing.base.errors import GoneError, SizingError
from sizing.base.units import System
from sizing.document.job import MOST_OWN_PUMPS, Figure, JobDocument, OwnPoint, OwnPump
from sizing.pump.catalogue import OWN, Catalogue, Pump
from sizing.pump.extended_catalogue import CatalogueAndMore
from sizing.pump.identity import slug_of
from sizing.pump.label_data import Point, RoughCurve, head_m, read_points, rough_curve

_MAKER = "At hand"  # of one that is kept in the catalogue


class OwnPumpError(SizingError):
    """What is wrong with a pump from its box, and in which field."""

    def __init__(self, field: str, problem: str) -> None:
        self.field = field
        super().__init__(problem)


def add(job: JobDocument, typed: dict[str, str]) -> JobDocument:
    """The job with a pump from its box.

    Parameters
    ----------
    typed : 'name', 'family', 'open_flow', 'highest_head', 'points', 'largest_solid' as written.

    Raises
    ------
    OwnPumpError
    """
    if len(job.own_pumps) >= MOST_OWN_PUMPS:
        raise OwnPumpError("name", f"a job holds at most {MOST_OWN_PUMPS} pumps of its own")
    name = " ".join(typed.get("name", "").split())[:60]
    if not name:
        raise OwnPumpError("name", "give it a name by which you will know it again")
    points = _points(job.units, typed)
    try:
        rough_curve([_si(point) for point in points], typed.get("family", ""))
    except SizingError as problem:
        raise OwnPumpError("points", str(problem)) from None
    solid = typed.get("largest_solid", "").strip()
    taken = {pump.id for pump in job.own_pumps}
    made = OwnPump(
        id=next(one for one in (f"p{number}" for number in count(1)) if one not in taken),
        name=name,
        family=typed["family"],
        points=points,
        largest_solid=_figure(solid, "size", job.units, "largest_solid") if solid else None,
    )
    return job.model_copy(update={"own_pumps": (*job.own_pumps, made)})


def remove(job: JobDocument, pump_id: str) -> JobDocument:
    """The job without one of its own pumps; raises :class:`GoneError` when it has none such."""
    left = tuple(one for one in job.own_pumps if f"{OWN}{one.id}" != pump_id)
    if len(left) == len(job.own_pumps):
        raise GoneError("this pump was taken out of the job meanwhile")
    picked = None if job.pump == pump_id else job.pump
    return job.model_copy(update={"own_pumps": left, "pump": picked})


def _points(system: System, typed: dict[str, str]) -> tuple[OwnPoint, ...]:
    """The points in the order of their flows, the two ends among them."""
    found: list[OwnPoint] = []
    flow_unit, head_unit = units.shown("flow", system).unit, units.shown("length", system).unit
    if typed.get("highest_head", "").strip():
        highest = _figure(typed["highest_head"], "head", system, "highest_head")
        found.append(OwnPoint(flow=Figure(value=0.0, unit=flow_unit), head=highest))
    try:
        printed = read_points(numbers.as_kept(typed.get("points", "")), flow_unit, head_unit)
    except SizingError as problem:
        raise OwnPumpError("points", str(problem)) from None
    for flow, head in printed:
        found.append(
            OwnPoint(
                flow=Figure(value=flow.value, unit=flow.unit.symbol),
                head=Figure(value=head.value, unit=head.unit.symbol),
            )
        )
    if typed.get("open_flow", "").strip():
        most = _figure(typed["open_flow"], "flow", system, "open_flow")
        found.append(OwnPoint(flow=most, head=Figure(value=0.0, unit=head_unit)))
    if len(found) < 2:
        raise OwnPumpError(
            "open_flow", "give two figures at least: the open flow and the highest head"
        )
    return tuple(sorted(found, key=_si))


def _figure(text: str, what: str, system: System, field: str) -> Figure:
    """A figure as typed; a highest head may be a pressure."""
    dimension = "length" if what == "head" else what
    try:
        return Figure.typed(text, dimension, units.shown(dimension, system).unit)
    except SizingError as problem:
        if what == "head":
            try:
                return Figure.typed(text, "pressure", "bar")
            except SizingError:
                pass
        raise OwnPumpError(field, str(problem)) from None


def _si(point: OwnPoint) -> Point:
    return point.flow.si("flow"), head_m(point.head.value, point.head.unit)


def rough(own: OwnPump) -> RoughCurve:
    """The likeliest curve of a pump from its box, with its bounds."""
    return rough_curve([_si(point) for point in own.points], own.family)


def for_catalogue(own: OwnPump) -> Pump:
    """The pump as it may be kept in a catalogue, said to be rough."""
    made = _pump(own, None, None)
    slug = slug_of(_MAKER, own.name) or f"{OWN}{own.id}"
    return replace(made, pump_id=slug, maker=_MAKER)


def with_own_pumps(
    catalogue: Catalogue,
    job: JobDocument,
    voltage_v: float | None = None,
    phases: int | None = None,
) -> Catalogue:
    """The catalogue and behind it the pumps of the job; they run on the supply that is there."""
    if not job.own_pumps or catalogue.find(f"{OWN}{job.own_pumps[0].id}") is not None:
        return catalogue
    return CatalogueAndMore(catalogue, [_pump(own, voltage_v, phases) for own in job.own_pumps])


def _pump(own: OwnPump, voltage_v: float | None, phases: int | None) -> Pump:
    return Pump(
        pump_id=f"{OWN}{own.id}",
        maker="",
        model=own.name,
        family=own.family,
        curve=rough(own).curve,
        solids_m=own.largest_solid.si("size") if own.largest_solid else None,
        voltage_v=voltage_v,
        phases=phases,
        note="rough: a curve of the usual shape of its family through the figures on its box",
    )
