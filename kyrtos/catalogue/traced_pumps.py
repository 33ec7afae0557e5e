"""The curves of a picture saved as pumps of the catalogue."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from kyrtos.catalogue import services
from kyrtos.catalogue.models import Trace
from kyrtos.catalogue.tracing import KINDS, kept, traced
from sizing.base import units
from sizing.pump import traced_pump
from sizing.pump.catalogue_file import FileRow, head_scale, read_row
from sizing.pump.digitise import Traced, TraceError

# Fields of a pump that a picture and its form say something about, by column.
_READS = {
    **{name: name for name in ("maker", "model", "family", "variant", "note", "powers_w")},
    "npsh": "npsh_required_m",
}


def save(found: Trace, cells: dict[str, str]) -> list[FileRow]:
    """Every head curve as a pump of the catalogue, with the power and NPSH traced beside it.

    Several head curves are variants of one model, by their names; NPSH is taken as theirs in
    common, as leaflets print it. A pump that is there already keeps what no picture says, such as
    its price. Nothing is saved when one of them cannot be.

    Raises
    ------
    TraceError
        A curve that was begun is not ready, two of a kind beside the heads, power of several
        heads, or no head curve.
    """
    state = found.state
    begun = [one for one in state["curves"] if one["points"]]
    heads = [one for one in begun if one["kind"] == "head"]
    if not heads:
        raise TraceError("no head curve is traced yet")
    beside: dict[str, Traced] = {}
    for curve in begun:
        if curve["kind"] == "head":
            continue
        if curve["kind"] in beside:
            raise TraceError(
                f"two curves of {KINDS[curve['kind']].names}: save one head curve at a time with"
                " its own, and clear the other"
            )
        beside[curve["kind"]] = _named(state, curve)
    if {"power", "efficiency"} <= set(beside):
        raise TraceError("both power and efficiency are traced, and say the same: clear one")
    if len(heads) > 1 and not {"power", "efficiency"}.isdisjoint(beside):
        raise TraceError(
            "each impeller draws a power of its own, and one curve of it is traced for"
            f" {len(heads)} heads: clear it, or save one head at a time with its own"
        )
    rows = services.completed_rows(
        found.shop,
        [_row(state, curve, beside, cells, several=len(heads) > 1) for curve in heads],
    )
    if any(row.pump is None for row in rows):
        return rows
    pumps = [row.pump for row in rows if row.pump is not None]
    stored = services.store(found.shop, pumps, source=found.name)
    return [
        replace(row, pump=replace(pump, pump_id=pump_id))
        for row, pump, pump_id in zip(rows, pumps, stored.pump_ids, strict=True)
    ]


def _named(state: dict[str, Any], curve: dict[str, Any]) -> Traced:
    try:
        return traced(state, curve)
    except TraceError as problem:
        raise TraceError(f"{curve['name']}: {problem}") from None


def _row(
    state: dict[str, Any],
    curve: dict[str, Any],
    beside: dict[str, Traced],
    cells: dict[str, str],
    *,
    several: bool,
) -> FileRow:
    flows, heads = zip(*kept(_named(state, curve)), strict=True)
    rulers = state["rulers"]
    given = {key: cells.get(key, "").strip() for key in ("maker", "model", "family", "note")}
    given |= {
        "variant": curve["name"] if several else cells.get("variant", "").strip(),
        "flow_unit": rulers["flow"]["unit"],
        "head_unit": rulers["head"]["unit"],
        "flows": _list(flows),
        "heads": _list(heads),
    }
    if "npsh" in beside:
        values = traced_pump.at_flows(beside["npsh"], flows, "the NPSH")
        scale = units.unit(rulers["npsh"]["unit"], "length").scale
        given["npsh"] = _list(one * scale / head_scale(rulers["head"]["unit"]) for one in values)
    if "power" in beside:
        values = traced_pump.at_flows(beside["power"], flows, "the power")
        scale = units.unit(rulers["power"]["unit"], "power").scale
        given["powers_w"] = _list(one * scale for one in values)
    if "efficiency" in beside:
        shares = traced_pump.at_flows(beside["efficiency"], flows, "the efficiency")
        flow_scale = units.unit(rulers["flow"]["unit"], "flow").scale
        given["powers_w"] = _list(
            traced_pump.powers_w(
                [one * flow_scale for one in flows],
                [one * head_scale(rulers["head"]["unit"]) for one in heads],
                [one / 100.0 for one in shares],
            )
        )
    held = {_READS[name] for name, text in given.items() if text and name in _READS}
    return replace(read_row(given), held=frozenset(held))


def _list(values: Iterable[float]) -> str:
    return "; ".join(f"{one:.6g}" for one in values)
