"""A whole catalogue as one blob, and a catalogue that reads from such a blob without copying it.

The blob is a line of JSON that says what lies where, then the arrays one after the other. Mapped
from a file, its pages are shared by all processes of a machine. What has to be found by solving
(curves) is kept in full precision; power and NPSH, which are only read off, to seven digits.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sizing.base.errors import SizingError
from sizing.hydraulics.friction import Array
from sizing.pump.catalogue import FIGURES, TEXTS, Catalogue, LazyPumps, Pump
from sizing.pump.curve import PumpCurve
from sizing.pump.curve_table import CurveTable, Indices

_MAGIC = b"kyrtos catalogue 1\n"
_ALIGNED = 64
_FLAGS = ("drinking_water", "discontinued")
_ALWAYS_STATED = ("discontinued",)
_WHOLE = ("phases",)
Blob = bytes | memoryview | NDArray[np.uint8]


class PackError(SizingError):
    """Bytes that are no packed catalogue."""


def pack(pumps: Sequence[Pump]) -> bytes:
    """The pumps as one blob, in the order of their ids."""
    ordered = sorted(pumps, key=lambda pump: pump.pump_id)
    catalogue = Catalogue(ordered)
    table = catalogue.table
    arrays: dict[str, NDArray[Any]] = {
        "flows_m3s": table.flows_m3s,
        "heads_m": table.heads_m,
        "slopes": table.slopes,
        "counts": (table.last + 1).astype(np.uint16),
        "droops": table.droops,
        "best_flow_m3s": catalogue.best_flow_m3s,
        "family_codes": catalogue.family_codes,
    }
    arrays |= {
        name: values.astype(np.float32)
        for name in ("powers_w", "npsh_required_m")
        if not np.isnan(values := getattr(catalogue, name)).all()
    }
    arrays |= {
        f"figure {name}": _narrow(values)
        for name in FIGURES
        if not np.isnan(values := catalogue.column(name)).all()
    }
    for name in TEXTS:
        arrays |= _packed_texts(name, [getattr(pump, name) for pump in ordered])
    return b"".join(_written({"count": len(ordered), "families": catalogue.families}, arrays))


def _narrow(values: Array) -> NDArray[np.floating]:
    """The values in half the room where that loses nothing."""
    half = values.astype(np.float32)
    return half if np.array_equal(half.astype(float), values, equal_nan=True) else values


def _packed_texts(name: str, texts: list[str]) -> dict[str, NDArray[Any]]:
    if not any(texts):
        return {}
    encoded = [text.encode() for text in texts]
    ends = np.cumsum([len(one) for one in encoded]).astype(np.uint32)
    return {f"text {name}": np.frombuffer(b"".join(encoded), dtype=np.uint8), f"ends {name}": ends}


def _written(said: dict[str, Any], arrays: dict[str, NDArray[Any]]) -> Iterator[bytes]:
    places, at = {}, 0
    for name, values in arrays.items():
        places[name] = (values.dtype.str, len(values), at)
        at += -(-values.nbytes // _ALIGNED) * _ALIGNED
    head = _MAGIC + json.dumps({**said, "arrays": places}).encode() + b"\n"
    yield head + b" " * (-len(head) % _ALIGNED)
    for values in arrays.values():
        yield values.tobytes()
        yield b"\0" * (-values.nbytes % _ALIGNED)


class PackedCatalogue(Catalogue):
    """A catalogue that reads from a blob of :func:`pack`; pumps are made when they are asked for.

    Raises
    ------
    PackError
        Bytes that are no such blob, or only a part of one.
    """

    def __init__(self, blob: Blob) -> None:
        self._bytes = np.frombuffer(blob, dtype=np.uint8)
        if self._bytes[: len(_MAGIC)].tobytes() != _MAGIC:
            raise PackError("this is no packed catalogue")
        rest = self._bytes[len(_MAGIC) :]
        line = rest[: int(np.argmax(rest == ord("\n")))].tobytes()
        try:
            head = json.loads(line)
        except ValueError:
            raise PackError("this packed catalogue is cut off") from None
        self._start = -(-(len(_MAGIC) + len(line) + 1) // _ALIGNED) * _ALIGNED
        places: dict[str, tuple[str, int, int]] = head["arrays"]
        self._families = tuple(head["families"])
        kind, length, at = next(reversed(places.values()))
        if self._start + at + length * np.dtype(kind).itemsize > len(self._bytes):
            raise PackError("this packed catalogue is cut off")
        self._arrays = {name: self._array_at(*place) for name, place in places.items()}
        super().__init__(LazyPumps(head["count"], self._made))

    def _array_at(self, kind: str, length: int, at: int) -> NDArray[Any]:
        start = self._start + at
        return self._bytes[start : start + length * np.dtype(kind).itemsize].view(kind)

    @property
    def by_id(self) -> Indices:
        return np.arange(len(self))

    @property
    def families(self) -> tuple[str, ...]:
        return self._families

    @property
    def family_codes(self) -> NDArray[np.integer]:
        return self._arrays["family_codes"]

    @cached_property
    def table(self) -> CurveTable:
        counts = self._arrays["counts"].astype(np.intp)
        return CurveTable(
            flows_m3s=self._arrays["flows_m3s"],
            heads_m=self._arrays["heads_m"],
            slopes=self._arrays["slopes"],
            starts=np.cumsum(counts) - counts,
            last=counts - 1,
            droops=self._arrays["droops"],
        )

    def column(self, name: str) -> Array:
        if f"figure {name}" not in self._arrays:
            return np.full(len(self), 0.0 if name in _ALWAYS_STATED else np.nan)
        return self._arrays[f"figure {name}"].astype(float)

    def _points(self, name: str) -> Array:
        return (
            self._arrays[name]
            if name in self._arrays
            else np.full(len(self.table.flows_m3s), np.nan)
        )

    @cached_property
    def powers_w(self) -> Array:
        return self._points("powers_w")

    @cached_property
    def npsh_required_m(self) -> Array:
        return self._points("npsh_required_m")

    @property
    def best_flow_m3s(self) -> Array:
        return self._arrays["best_flow_m3s"]

    def _made(self, row: int) -> Pump:
        figures = {name: self._figure(name, row) for name in FIGURES}
        texts = {name: self._text(name, row) for name in TEXTS}
        return Pump(curve=self._curve(row), **texts, **figures)  # type: ignore[arg-type]

    def _figure(self, name: str, row: int) -> float | int | bool | None:
        value = (
            float(self._arrays[f"figure {name}"][row])
            if f"figure {name}" in self._arrays
            else np.nan
        )
        if name in _ALWAYS_STATED or (name in _FLAGS and not np.isnan(value)):
            return value > 0
        return None if np.isnan(value) else int(value) if name in _WHOLE else value

    def _text(self, name: str, row: int) -> str:
        if f"text {name}" not in self._arrays:
            return ""
        ends = self._arrays[f"ends {name}"]
        return (
            self._arrays[f"text {name}"][int(ends[row - 1]) if row else 0 : int(ends[row])]
            .tobytes()
            .decode()
        )

    def _curve(self, row: int) -> PumpCurve:
        start = int(self.table.starts[row])
        points = slice(start, start + int(self.table.last[row]) + 1)
        read_off = [
            (
                None
                if name not in self._arrays or np.isnan(self._arrays[name][start])
                else _as_written(self._arrays[name][points])
            )
            for name in ("powers_w", "npsh_required_m")
        ]
        return PumpCurve(
            tuple(self.table.flows_m3s[points].tolist()),
            tuple(self.table.heads_m[points].tolist()),
            *read_off,
        )


def _as_written(values: Array) -> tuple[float, ...]:
    """The shortest numbers that are these at half precision.

    What was packed as 84.3 comes out as 84.3.
    """
    return tuple(float(str(value)) for value in values)
