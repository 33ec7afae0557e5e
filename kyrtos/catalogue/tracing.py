"""Printed curves put in as pictures: kept with their rulers, read by the core, saved as pumps."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from PIL import Image

from kyrtos.accounts.models import User
from kyrtos.catalogue import printed_page
from kyrtos.catalogue.models import Trace
from kyrtos.shops import quota
from kyrtos.shops.models import Shop
from sizing.base import quantity, units
from sizing.base.errors import SizingError
from sizing.base.numbers import as_kept
from sizing.base.units import System
from sizing.pump.digitise import Axes, Axis, Point, Traced, TraceError, trace
from sizing.pump.follow_line import follow, thinned
from sizing.pump.lay_rulers import lay

MOST_CLICKS, MOST_CURVES = 40, 12
_TEXT_MOST = 20


@dataclass(frozen=True)
class Kind:
    """What a curve shows over the flow, and the units that its axis is printed in."""

    key: str
    label: str
    units: tuple[str, ...]
    names: str = ""  # what it is called in a message


FLOW = Kind("flow", "flow", ("m³/h", "l/s", "l/min", "l/h", "gpm", "gph"))
KINDS = {
    one.key: one
    for one in (
        Kind("head", "head", ("m", "ft", "psi", "bar", "kPa"), "the head"),
        Kind("power", "power drawn", ("W", "kW", "hp"), "the power"),
        Kind("npsh", "NPSH required", ("m", "ft"), "the NPSH"),
        Kind("efficiency", "efficiency with motor", ("%",), "the efficiency"),
    )
}
RULERS = {FLOW.key: FLOW, **KINDS}


def _ruler(ends: tuple[Point, Point], unit: str) -> dict[str, Any]:
    return {
        "ends": [[round(x, 1), round(y, 1)] for x, y in ends],
        "values": ["", ""],
        "unit": unit,
        "log": False,
    }


def _curve(number: int, kind: str) -> dict[str, Any]:
    return {"name": f"curve {number}", "kind": kind, "clicks": [], "points": []}


def begin(
    shop: Shop,
    user: User | None,
    name: str,
    content: bytes,
    *,
    page: int = 1,
    system: System = "metric",
) -> Trace:
    """Keep a picture, or a page of a PDF, with the rulers laid along the axes that are seen.

    Raises
    ------
    TraceError
        Neither picture nor PDF, too large, or no such page.
    """
    quota.check("traced pictures", shop.traces.count())
    printed = printed_page.read(content, page)
    out = io.BytesIO()
    printed.image.save(out, "PNG")
    laid = lay(np.asarray(printed.image))
    flow, head = (
        wanted if wanted in of.units else of.units[0]
        for of, wanted in (
            (FLOW, units.shown("flow", system).unit),
            (KINDS["head"], units.shown("length", system).unit),
        )
    )
    return Trace.objects.create(
        shop=shop,
        user=user,
        name=name[:200],
        image=out.getvalue(),
        width=printed.image.width,
        height=printed.image.height,
        state={
            "rulers": {"flow": _ruler(laid.flow, flow), "head": _ruler(laid.head, head)},
            "laid": laid.found,
            "lines": [[list(point) for point in line] for line in printed.lines],
            "curves": [_curve(1, "head")],
            "curve": 0,
            "by_hand": False,
        },
    )


def axes(state: dict[str, Any], kind: str) -> Axes:
    """The axes that a curve of a kind is read on.

    Raises
    ------
    TraceError
        A value that is missing or no number, rulers of no length or in one direction.
    """
    return Axes(_axis(state, "flow"), _axis(state, kind))


def _axis(state: dict[str, Any], key: str) -> Axis:
    ruler = state["rulers"][key]
    values = []
    for text, which in zip(ruler["values"], ("start", "end"), strict=True):
        where = f"the {which} of the {key} ruler"
        if not text.strip():
            raise TraceError(f"type the value printed at {where}")
        try:
            values.append(quantity.read(f"{text} x", "ratio").si)
        except SizingError:
            raise TraceError(f"'{text}' at {where} is no number") from None
    (x1, y1), (x2, y2) = ruler["ends"]
    return Axis((x1, y1), (x2, y2), values[0], values[1], ruler["log"])


def act(found: Trace, action: str, given: dict[str, str]) -> None:
    """One step of the work, kept.

    ``ruler`` moves an end of a ruler, ``value`` is what is printed there, ``unit`` and ``log`` say
    how its axis is printed; ``click`` is a place on the curve in hand, ``line`` a line of the PDF,
    ``move`` and ``remove`` are about a point; ``curve`` takes one in hand or begins one, ``kind``,
    ``rename`` and ``clear`` are about it; ``by_hand`` says whether a click is a point itself.

    Raises
    ------
    TraceError
        A step that there is not, a place outside the picture, or no line under a click.
    """
    step = _STEPS.get(action)
    if step is None:
        raise _impossible()
    step(found, given)
    found.save(update_fields=["state"])


def _impossible() -> TraceError:
    return TraceError(
        f"that cannot be done here: a curve takes at most {MOST_CLICKS} points, a picture"
        f" {MOST_CURVES} curves"
    )


def in_hand(state: dict[str, Any]) -> dict[str, Any]:
    """The curve in hand."""
    curve: dict[str, Any] = state["curves"][state["curve"]]
    return curve


def _which_ruler(found: Trace, given: dict[str, str]) -> dict[str, Any]:
    ruler: dict[str, Any] | None = found.state["rulers"].get(given.get("key", ""))
    if ruler is None:
        raise _impossible()
    return ruler


def _which_end(given: dict[str, str]) -> int:
    if given.get("end") not in ("0", "1"):
        raise _impossible()
    return int(given["end"])


def _move_ruler(found: Trace, given: dict[str, str]) -> None:
    _which_ruler(found, given)["ends"][_which_end(given)] = _place(found, given)


def _value(found: Trace, given: dict[str, str]) -> None:
    text = as_kept(given.get("value", "")[:_TEXT_MOST].strip())
    _which_ruler(found, given)["values"][_which_end(given)] = text


def _unit(found: Trace, given: dict[str, str]) -> None:
    ruler = _which_ruler(found, given)
    if given.get("value") not in RULERS[given["key"]].units:
        raise _impossible()
    ruler["unit"] = given["value"]


def _log(found: Trace, given: dict[str, str]) -> None:
    _which_ruler(found, given)["log"] = given.get("value") == "true"


def _by_hand(found: Trace, given: dict[str, str]) -> None:
    found.state["by_hand"] = given.get("value") == "true"


def _click(found: Trace, given: dict[str, str]) -> None:
    """A point by hand; else a place that the line runs through, followed again through all."""
    curve, place = in_hand(found.state), _place(found, given)
    if found.state["by_hand"]:
        if len(curve["points"]) >= MOST_CLICKS:
            raise _impossible()
        curve["points"].append(place)
        return
    clicks = [*curve["clicks"], place]
    if len(clicks) > MOST_CLICKS:
        raise _impossible()
    if len(clicks) > 1:
        points = follow(picture(found), [(x, y) for x, y in clicks])
        curve["points"] = [list(one) for one in points]
    curve["clicks"] = clicks


def picture(found: Trace) -> npt.NDArray[np.uint8]:
    """The pixels of a picture: rows, columns, three colours."""
    return np.asarray(Image.open(io.BytesIO(bytes(found.image))).convert("RGB"))


def _line(found: Trace, given: dict[str, str]) -> None:
    at = _index(given, found.state["lines"], "there is no such line")
    curve = in_hand(found.state)
    points = thinned([(x, y) for x, y in found.state["lines"][at]])
    curve["points"], curve["clicks"] = [list(one) for one in points], []


def _move(found: Trace, given: dict[str, str]) -> None:
    points = in_hand(found.state)["points"]
    points[_index(given, points)] = _place(found, given)


def _remove(found: Trace, given: dict[str, str]) -> None:
    points = in_hand(found.state)["points"]
    points.pop(_index(given, points))


def _clear(found: Trace, given: dict[str, str]) -> None:
    in_hand(found.state).update(points=[], clicks=[])


def _take(found: Trace, given: dict[str, str]) -> None:
    state = found.state
    if given.get("value") != "new":
        state["curve"] = _index({"at": given.get("value", "")}, state["curves"])
    elif len(state["curves"]) < MOST_CURVES:
        state["curves"].append(_curve(len(state["curves"]) + 1, "head"))
        state["curve"] = len(state["curves"]) - 1
    else:
        raise _impossible()


def _kind(found: Trace, given: dict[str, str]) -> None:
    """What the curve in hand shows; a kind new to the picture brings a ruler of its own."""
    key = given.get("value", "")
    if key not in KINDS:
        raise _impossible()
    in_hand(found.state)["kind"] = key
    rulers = found.state["rulers"]
    if key not in rulers:
        foot, top = (np.array(one) for one in rulers["head"]["ends"])
        right = np.array(rulers["flow"]["ends"][1])  # its axis stands at the other side
        above = np.clip(right + top - foot, 0, [found.width, found.height])
        rulers[key] = _ruler(((*right,), (*above,)), KINDS[key].units[0])
    used = {one["kind"] for one in found.state["curves"]} | {"flow", "head"}
    for spare in set(rulers) - used:
        if not any(rulers[spare]["values"]):  # nothing was typed there
            del rulers[spare]


def _rename(found: Trace, given: dict[str, str]) -> None:
    name = given.get("value", "").strip()[:60]
    in_hand(found.state)["name"] = name or f"curve {found.state['curve'] + 1}"


_STEPS = {
    "ruler": _move_ruler,
    "value": _value,
    "unit": _unit,
    "log": _log,
    "by_hand": _by_hand,
    "click": _click,
    "line": _line,
    "move": _move,
    "remove": _remove,
    "clear": _clear,
    "curve": _take,
    "kind": _kind,
    "rename": _rename,
}


def _place(found: Trace, given: dict[str, str]) -> list[float]:
    try:
        x, y = float(given.get("x", "")), float(given.get("y", ""))
    except ValueError:
        raise TraceError("that is no place in the picture") from None
    if not (0 <= x <= found.width and 0 <= y <= found.height):
        raise TraceError("that lies outside the picture")
    return [round(x, 2), round(y, 2)]


def _index(given: dict[str, str], rows: list[Any], told: str = "") -> int:
    text = given.get("at", "")
    if not (text.isdecimal() and text.isascii() and len(text) < 6 and int(text) < len(rows)):
        raise TraceError(told or "there is no such point any more")
    return int(text)


def traced(state: dict[str, Any], curve: dict[str, Any]) -> Traced:
    """A curve as it stands, in the units of its axes.

    Raises
    ------
    TraceError
        Too few points, or axes that are not ready.
    """
    return trace(axes(state, curve["kind"]), [(x, y) for x, y in curve["points"]])


def kept(found: Traced) -> list[tuple[float, float]]:
    """The points as they are saved: what the hand put below zero is zero."""
    return [(max(flow, 0.0), max(value, 0.0)) for flow, value in found.points]
