"""Printed curves put in as pictures: kept with their marks, read by the core, saved as a pump."""

from __future__ import annotations

import io
from dataclasses import dataclass, replace
from typing import Any

from PIL import Image, UnidentifiedImageError

from kyrtos.accounts.models import User
from kyrtos.catalogue import services
from kyrtos.catalogue.models import Trace
from kyrtos.drawing.scale import points, px
from kyrtos.shops.models import Shop
from sizing.base import quantity
from sizing.base.errors import SizingError
from sizing.base.numbers import as_kept
from sizing.pump.catalogue_file import FileRow, read_row
from sizing.pump.digitise import Axes, Axis, Traced, TraceError, trace

MOST_BYTES = 12 * 1024 * 1024
_WIDEST_PX, _MOST_PX = 2000, 60_000_000
MARKS = ("x1", "x2", "y1", "y2")
MARK_LABELS = {
    "x1": "flow axis, first mark",
    "x2": "flow axis, second mark",
    "y1": "head axis, first mark",
    "y2": "head axis, second mark",
}
FLOW_UNITS, HEAD_UNITS = (
    ("m³/h", "l/s", "l/min", "l/h", "gpm", "gph"),
    (
        "m",
        "ft",
        "psi",
        "bar",
        "kPa",
    ),
)
_MOST_POINTS, _MOST_CURVES = 40, 12


def _blank() -> dict[str, Any]:
    return {
        "marks": {},
        "values": {},
        "x_log": False,
        "y_log": False,
        "x_unit": "m³/h",
        "y_unit": "m",
        "curves": [{"name": "curve 1", "points": []}],
        "curve": 0,
    }


def begin(shop: Shop, user: User | None, name: str, content: bytes, page: int = 1) -> Trace:
    """Keep a picture, or a page of a PDF, for tracing.

    Raises
    ------
    TraceError
        Neither picture nor PDF, too large, or no such page.
    """
    if len(content) > MOST_BYTES:
        raise TraceError("the file is larger than 12 MB: scan it smaller")
    image = _page(content, page) if content[:5] == b"%PDF-" else _image(content)
    if image.width > _WIDEST_PX:
        image = image.resize((_WIDEST_PX, max(round(image.height * _WIDEST_PX / image.width), 1)))
    out = io.BytesIO()
    image.convert("RGB").save(out, "PNG", optimize=True)
    return Trace.objects.create(
        shop=shop,
        user=user,
        name=name[:200],
        image=out.getvalue(),
        width=image.width,
        height=image.height,
        state=_blank(),
    )


def _image(content: bytes) -> Image.Image:
    try:
        image = Image.open(io.BytesIO(content))
        if image.width * image.height > _MOST_PX:
            raise TraceError("the picture has too many pixels: scan it at 200 dots an inch")
        image.load()
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        raise TraceError("this is neither a picture (PNG, JPEG) nor a PDF") from None
    return image


def _page(content: bytes, page: int) -> Image.Image:
    import pypdfium2  # type: ignore[import-untyped]

    try:
        document = pypdfium2.PdfDocument(content)
    except pypdfium2.PdfiumError:
        raise TraceError("this PDF cannot be read") from None
    try:
        if not 1 <= page <= len(document):
            raise TraceError(f"the PDF has {len(document)} pages: there is no page {page}")
        sheet = document[page - 1]
        scale = min(
            2.5, _WIDEST_PX / max(sheet.get_width(), 1.0), 4000 / max(sheet.get_height(), 1.0)
        )
        image: Image.Image = sheet.render(scale=scale).to_pil()
        return image
    finally:
        document.close()


@dataclass(frozen=True)
class Overlay:
    """Everything that is drawn over the picture and said beside it."""

    marks: tuple[tuple[str, str, str, str], ...]  # key, label, x, y
    points: tuple[tuple[int, str, str, str], ...]  # index, x, y, what it reads
    others: tuple[tuple[str, str], ...]  # name, polyline of the other curves
    fitted: str
    said: str
    problem: str
    rows: tuple[tuple[str, str], ...]
    ready: bool


def overlay(found: Trace) -> Overlay:
    """The marks and curves of a picture as they stand."""
    state = found.state
    marks = tuple(
        (key, MARK_LABELS[key], px(state["marks"][key][0]), px(state["marks"][key][1]))
        for key in MARKS
        if key in state["marks"]
    )
    clicked = [tuple(one) for one in state["curves"][state["curve"]]["points"]]
    try:
        axes = _axes(state)
    except SizingError as problem:
        plain = tuple((at, px(x), px(y), "") for at, (x, y) in enumerate(clicked))
        return Overlay(
            marks=marks,
            points=plain,
            others=(),
            fitted="",
            said="",
            problem=str(problem) if len(state["marks"]) == len(MARKS) else "",
            rows=(),
            ready=False,
        )
    reads = [axes.read(point) for point in clicked]
    shown = tuple(
        (at, px(x), px(y), f"{_number(q)} {state['x_unit']}, {_number(h)} {state['y_unit']}")
        for at, ((x, y), (q, h)) in enumerate(zip(clicked, reads, strict=True))
    )
    others = []
    for index, one in enumerate(state["curves"]):
        if index != state["curve"] and (line := _line(axes, one["points"])):
            others.append((one["name"], line))
    try:
        traced = trace(axes, clicked)
    except SizingError as problem:
        return Overlay(
            marks=marks,
            points=shown,
            others=tuple(others),
            fitted="",
            said="",
            problem=str(problem) if clicked else "",
            rows=(),
            ready=False,
        )
    said = (
        f"{len(clicked)} points; the worst is {traced.worst_off:.1%} off the curve through the"
        " others"
    )
    rows = tuple((_number(q), _number(h)) for q, h in _kept(traced))
    return Overlay(
        marks=marks,
        points=shown,
        others=tuple(others),
        fitted=_drawn(axes, traced),
        said=said,
        problem="",
        rows=rows,
        ready=True,
    )


def _line(axes: Axes, clicked: list[list[float]]) -> str:
    try:
        return _drawn(axes, trace(axes, [(x, y) for x, y in clicked]))
    except SizingError:
        return ""


def _drawn(axes: Axes, traced: Traced) -> str:
    return points([axes.pixel(q, h) for q, h in traced.through()])


def _kept(traced: Traced) -> list[tuple[float, float]]:
    """The points as they are saved: what the hand put below zero is zero."""
    return [(max(flow, 0.0), max(head, 0.0)) for flow, head in traced.points]


def _number(value: float) -> str:
    return f"{value:.4g}"


def _axes(state: dict[str, Any]) -> Axes:
    missing = [MARK_LABELS[key] for key in MARKS if key not in state["marks"]]
    if missing:
        raise TraceError(f"still to be marked: {', '.join(missing)}")
    values = {}
    for key in MARKS:
        text = state["values"].get(key, "")
        try:
            values[key] = quantity.read(f"{as_kept(text)} x", "ratio").si
        except SizingError:
            raise TraceError(f"{MARK_LABELS[key]}: type the number printed there") from None
    point = {key: (float(state["marks"][key][0]), float(state["marks"][key][1])) for key in MARKS}
    return Axes(
        Axis(point["x1"], point["x2"], values["x1"], values["x2"], state["x_log"]),
        Axis(point["y1"], point["y2"], values["y1"], values["y2"], state["y_log"]),
    )


def act(found: Trace, action: str, given: dict[str, str]) -> None:
    """One step of the work: mark, value, unit, log, point, move, remove, curve, rename.

    Raises
    ------
    TraceError
        A step that there is not, or a place outside the picture.
    """
    state = found.state
    curve = state["curves"][state["curve"]]["points"]
    if action == "mark" and given.get("key") in MARKS:
        state["marks"][given["key"]] = _place(found, given)
    elif action == "value" and given.get("key") in MARKS:
        state["values"][given["key"]] = given.get("value", "")[:20]
    elif (
        action == "unit"
        and given.get("value") in (FLOW_UNITS if given.get("key") == "x_unit" else HEAD_UNITS)
        and given.get("key") in ("x_unit", "y_unit")
    ):
        state[given["key"]] = given["value"]
    elif action == "log" and given.get("key") in ("x_log", "y_log"):
        state[given["key"]] = given.get("value") == "true"
    elif action == "point" and len(curve) < _MOST_POINTS:
        curve.append(_place(found, given))
    elif action == "move":
        curve[_index(given, curve)] = _place(found, given)
    elif action == "remove":
        curve.pop(_index(given, curve))
    elif action == "curve" and given.get("value") == "new" and len(state["curves"]) < _MOST_CURVES:
        state["curves"].append({"name": f"curve {len(state['curves']) + 1}", "points": []})
        state["curve"] = len(state["curves"]) - 1
    elif action == "curve" and given.get("value", "").isdigit():
        state["curve"] = min(int(given["value"]), len(state["curves"]) - 1)
    elif action == "rename":
        state["curves"][state["curve"]]["name"] = (
            given.get("value", "")[:60] or f"curve {state['curve'] + 1}"
        )
    else:
        raise TraceError(
            "that cannot be done here: a curve takes at most 40 points, a picture 12 curves"
        )
    found.save(update_fields=["state"])


def _place(found: Trace, given: dict[str, str]) -> list[float]:
    try:
        x, y = float(given.get("x", "")), float(given.get("y", ""))
    except ValueError:
        raise TraceError("that is no place in the picture") from None
    if not (0 <= x <= found.width and 0 <= y <= found.height):
        raise TraceError("that lies outside the picture")
    return [round(x, 2), round(y, 2)]


def _index(given: dict[str, str], curve: list[list[float]]) -> int:
    text = given.get("at", "")
    if not text.isdigit() or int(text) >= len(curve):
        raise TraceError("there is no such point any more")
    return int(text)


def save(found: Trace, cells: dict[str, str]) -> FileRow:
    """The curve in hand as a pump of the catalogue; a row with problems when it cannot be one.

    Raises
    ------
    TraceError
        The curve is not ready.
    """
    state = found.state
    traced = trace(_axes(state), [tuple(one) for one in state["curves"][state["curve"]]["points"]])
    flows, heads = zip(*_kept(traced), strict=True)
    given = {key: cells.get(key, "").strip() for key in ("maker", "model", "family", "note")}
    given |= {
        "flow_unit": state["x_unit"],
        "head_unit": state["y_unit"],
        "flows": "; ".join(f"{one:.6g}" for one in flows),
        "heads": "; ".join(f"{one:.6g}" for one in heads),
    }
    row = read_row(given)
    if row.pump is None:
        return row
    stored = services.store(found.shop, [row.pump])
    return replace(row, pump=replace(row.pump, pump_id=stored.pump_ids[0]))


@dataclass(frozen=True)
class AxisView:
    """An axis as its select shows it: the unit it is printed in, of those it may be."""

    key: str
    label: str
    unit: str
    choices: tuple[str, ...]


def axes_of(found: Trace) -> tuple[AxisView, ...]:
    """Both axes of a picture with their units."""
    return (
        AxisView("x_unit", "flow", found.state["x_unit"], FLOW_UNITS),
        AxisView("y_unit", "head", found.state["y_unit"], HEAD_UNITS),
    )
