"""Reading a pipe as people write it: material, size and schedule in any order and spelling."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from itertools import zip_longest

from sizing.base.errors import SeveralFit, UnknownName
from sizing.hydraulics.pipes import SERIES, Pipe, pipes, sizes

Families = frozenset[str]


@dataclass(frozen=True)
class _Size:
    """A size as written: a number in inches or millimetres ('' for either), or a name as sold."""

    value: float
    unit: str = ""
    name: str = ""


def _families(*starts: str, but: str = "") -> Families:
    return frozenset(
        one for one in SERIES if one.startswith(starts) and not (but and one.startswith(but))
    )


_PRESSURE_PVC = _families("pvc_sch", "pvc_sdr", "pvcu_pn")
_PE = _families("pe100_", "hdpe_dr", "pe_sidr")
_STEEL = _families("steel_")
# Words that name a material or a standard, and the families of pipe that they allow.
_WORDS: dict[str, Families] = {
    "pvc": _PRESSURE_PVC | _families("pvc_dwv", "flex_pvc"),
    "upvc": _families("pvcu_pn"),
    "cpvc": _families("cpvc_"),
    "abs": _families("abs_dwv"),
    "pex": _families("pex_"),
    "pe": _PE,
    "poly": _PE,
    "polyethylene": _PE,
    "mdpe": _PE,
    "hdpe": _families("pe100_", "hdpe_dr"),
    "pe100": _families("pe100_"),
    "copper": _families("copper_"),
    "steel": _STEEL,
    "black": _STEEL,
    "galvanised": _STEEL,
    "galvanized": _STEEL,
    "galv": _STEEL,
    "pond": _families("pond_"),
    "aquarium": _families("aquarium_"),
    "vinyl": _families("vinyl_"),
    "spa": _families("flex_pvc"),
    "flex": _families("flex_pvc"),
    "flexible": _families("flex_pvc"),
    "dwv": _families("pvc_dwv", "abs_dwv"),
    "encopper": _families("copper_en1057"),
    "ensteel": _families("steel_en10255"),
    "cts": _families("cpvc_cts", "pex_"),
}
# Words that only agree or disagree: alone they name no pipe.
_AGREES: dict[str, Families] = {
    "drain": _families("pvc_dwv", "abs_dwv"),
    "thin": _families("copper_en1057_thin"),
    "ips": _families("hdpe_dr", "pvc_sch", "pvc_sdr", "cpvc_sch", "steel_sch"),
    "metric": frozenset(one for one in SERIES if not sizes(one)[0].endswith("in")),
}
_HOSE = {"hose", "tubing"}  # with PVC a hose, with others only a word
_LACKING = {
    *("stainless", "inox", "iron", "ductile", "brass", "glass", "concrete", "clay", "lead"),
    *("aluminium", "aluminum", "fibreglass", "fiberglass", "grp", "polypropylene", "pp", "ppr"),
    *("multilayer", "composite", "bronze", "titanium", "polybutylene"),
}
_SPELLINGS = (
    (r"[″”“]|''", '"'),
    (r"½", " 1/2"),
    (r"¼", " 1/4"),
    (r"¾", " 3/4"),
    (r"⅜", " 3/8"),
    (r"⅝", " 5/8"),
    (r"[–—−‑]", "-"),
    (r"ø|⌀", " d "),
    (r"\bu[ -]?pvc\b|\bpvc[ -]?u\b", " upvc "),
    (r"\bc[ -]pvc\b|\bpvc[ -]?c\b", " cpvc "),
    (r"\bpe[ -]?x\b|\bpex[ -]?[abc]\b", " pex "),
    (r"\bhd[ -]?pe\b|\bpe[ -]?hd\b", " hdpe "),
    (r"\ben[ -]?1057\b", " encopper "),
    (r"\ben[ -]?10255\b", " ensteel "),
)
_NUMBER = r"\d+(?:[.,]\d+)?"
_PE100 = re.compile(r"\bpe[ -]?100\b(?!\s*(?:mm|/))")
_SCHEDULE = re.compile(rf"\b(schedule|sched|sch|sidr|sdr|dr|pn)[ .-]*({_NUMBER})")
_TYPE = re.compile(r"\btype[ .-]*([klm])\b")
_LETTER = re.compile(r"(?<![a-z])([klm])(?![a-z0-9])")
_UNIT = r"(?:[ -]?(?P<unit>inches|inch|in\b|\"|mm\b))?"
_AS_SOLD = re.compile(r"\bdn[ .-]*(\d+)|\b(\d+/\d+)\b(?:[ -]?mm\b)?")
_BEFORE_MM = re.compile(rf"\b(?:da|od|dia|d)[ .-]*({_NUMBER})(?:[ -]?mm\b)?")
_MIXED = re.compile(rf"(?:(?P<whole>\d+)[ -]+)?(?P<top>\d+)/(?P<bottom>\d+){_UNIT}")
_PLAIN = re.compile(rf"(?P<value>{_NUMBER}|[.,]\d+){_UNIT}(?:\s*x\s*{_NUMBER}(?:\s*mm\b)?)?")


@lru_cache
def _labels() -> dict[str, Pipe]:
    return {" ".join(one.label.lower().split()): one for one in pipes().values()}


def read(text: str) -> Pipe:
    """The pipe that somebody typed: by its label, or by its material and size in any order.

    Raises
    ------
    SeveralFit
        Several families agree with the words: one must be chosen.
    UnknownName
        None does; with near labels, never taken.
    """
    named = _labels().get(" ".join(text.lower().split()))
    fits = (named,) if named else find(text)
    if len(fits) > 1:
        raise SeveralFit(text.strip(), (one.label for one in fits))
    if not fits:
        raise UnknownName("pipe", text.strip(), [one.label for one in pipes().values()])
    return fits[0]


def find(text: str) -> tuple[Pipe, ...]:
    """The pipes that somebody may mean, in the order of the families.

    A pipe fits when every word that means something agrees with it and it has the size. None fits
    where no word names a material or a standard, no size is told, two words contradict each other,
    or the material is one that the table lacks.
    """
    said = _said(text)
    return _of(said, said.size) if said.size is not None and said.named else ()


def suggest(text: str, most: int = 8) -> tuple[Pipe, ...]:
    """Pipes that what was typed so far may become: by material and size, not by letters.

    The last word may be unfinished; a size alone is enough, and so is a material.
    """
    said = _said(text)
    if said.last and not said.known:
        begun = [families for word, families in _WORDS.items() if word.startswith(said.last)]
        if not begun and not said.named:
            return ()
        if begun:
            said = replace(said, named=(*said.named, frozenset().union(*begun)))
    if said.size is None and not said.named:
        return ()
    if said.size is not None:
        return _of(said, said.size)[:most]
    left = [code for code in SERIES if code in said.families]
    return tuple(
        pipes()[code, name]
        for names in zip_longest(*(sizes(code) for code in left))
        for code, name in zip(left, names, strict=True)
        if name
    )[:most]


@dataclass(frozen=True)
class _Said:
    """What the words of a text say; ``last`` is its last word, ``known`` whether it means anything.

    ``contrary``: the material is one that the table lacks.
    """

    named: tuple[Families, ...]
    allowed: tuple[Families, ...]
    size: _Size | None
    last: str
    known: bool
    contrary: bool

    @property
    def families(self) -> Families:
        """The families that every word agrees with; all of them where none says anything."""
        if self.contrary:
            return frozenset()
        return frozenset(SERIES).intersection(*self.named, *self.allowed)


def _of(said: _Said, size: _Size) -> tuple[Pipe, ...]:
    families = said.families
    return tuple(
        pipes()[code, name] for code in SERIES if code in families for name in _sold(code, size)
    )


def _said(text: str) -> _Said:
    plain = text.lower()
    for fancy, written in _SPELLINGS:
        plain = re.sub(fancy, written, plain)
    allowed: list[Families] = []
    named: list[Families] = []
    plain = _take_standards(plain, allowed, named)
    size, plain = _take_size(plain)
    words = re.findall(r"[a-z]+\d*", plain)
    named += [_WORDS[word] for word in words if word in _WORDS]
    allowed += [_AGREES[word] for word in words if word in _AGREES]
    if "pvc" in words:
        allowed.append(_which_pvc(words))
    letter = _LETTER.search(plain)
    if letter and "copper" in words:
        allowed.append(_families(f"copper_{letter[1]}"))
    last = words[-1] if words and plain.rstrip() == plain else ""
    return _Said(
        named=tuple(named),
        allowed=tuple(allowed),
        size=size,
        last=last,
        known=last in _WORDS or last in _AGREES or last in _HOSE or len(last) < 2,
        contrary=any(word in _LACKING for word in words),
    )


def _which_pvc(words: list[str]) -> Families:
    """PVC by itself is pressure pipe; with a word more it is a drain or a hose."""
    if {"dwv", "drain"} & {*words}:
        return _families("pvc_dwv")
    if {"flex", "flexible", "spa"} & {*words} or _HOSE & {*words}:
        return _families("flex_pvc")
    return _PRESSURE_PVC


def _take_standards(plain: str, allowed: list[Families], named: list[Families]) -> str:
    """Notes schedules, ratings, types and PE100, and gives the text without them."""

    def noted(found: re.Match[str]) -> str:
        word, number = found[1], found[2].replace(",", ".").replace(".", "_")
        word = {"schedule": "sch", "sched": "sch", "dr": "sdr"}.get(word, word)
        ends = {"sdr": (f"sdr{number}", f"dr{number}_ips"), "pn": (f"pn{number}",)}
        wanted = ends.get(word, (f"{word}{number}",))
        inside = "sidr" if word == "sidr" else ""
        named.append(
            frozenset(
                one
                for one in SERIES
                if one.endswith(tuple(f"_{end}" for end in wanted)) and inside in one
            )
        )
        return " "

    def lettered(found: re.Match[str]) -> str:
        named.append(_families(f"copper_{found[1]}"))
        return " "

    plain = _TYPE.sub(lettered, plain)
    plain = _SCHEDULE.sub(noted, plain)
    if _PE100.search(plain):
        allowed.append(_WORDS["pe100"])
        plain = _PE100.sub(" pe ", plain)
    return plain


def _take_size(plain: str) -> tuple[_Size | None, str]:
    """The one size of a text, and the text without it; None for none or two that differ."""
    found: list[_Size] = []

    def as_sold(match: re.Match[str]) -> str:
        if match[1]:
            found.append(_Size(0.0, name=f"DN{match[1]}"))
            return " "
        if f"{match[2]} mm" in _pairs():
            found.append(_Size(0.0, name=f"{match[2]} mm"))
            return " "
        return match[0]

    def outside(match: re.Match[str]) -> str:
        found.append(_Size(_number(match[1]), "mm"))
        return " "

    def mixed(match: re.Match[str]) -> str:
        bottom = int(match["bottom"])
        if bottom:
            value = int(match["whole"] or 0) + Fraction(int(match["top"]), bottom)
            found.append(_Size(float(value), _unit(match["unit"]) or "in"))
        return " "

    def number(match: re.Match[str]) -> str:
        found.append(_Size(_number(match["value"]), _unit(match["unit"])))
        return " "

    for pattern, note in (
        (_AS_SOLD, as_sold),
        (_BEFORE_MM, outside),
        (_MIXED, mixed),
        (_PLAIN, number),
    ):
        plain = pattern.sub(note, plain)
    return (found[0] if len({*found}) == 1 else None), plain


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _unit(written: str | None) -> str:
    return "" if not written else "mm" if written == "mm" else "in"


@lru_cache
def _pairs() -> frozenset[str]:
    """Hoses that are sold by bore and outside, such as '16/22 mm'."""
    return frozenset(name for _, name in pipes() if "/" in name and name.endswith("mm"))


@lru_cache
def _nominal(name: str) -> _Size:
    """A size of the table as a number with its unit; a name where it is sold by no number."""
    number, _, unit = name.partition(" ")
    if unit == "in":
        whole, _, rest = number.partition("-")
        parts = [whole, rest] if rest else [whole]
        return _Size(float(sum(Fraction(part) for part in parts)), "in")
    if unit == "mm" and "/" not in number:
        return _Size(float(number), "mm")
    return _Size(0.0, name=name)


def _sold(series: str, size: _Size) -> list[str]:
    """The sizes of a family that are the one that was written."""
    return [
        name
        for name in sizes(series)
        if (known := _nominal(name)).name == size.name
        and (size.name or (size.unit in ("", known.unit) and abs(known.value - size.value) < 1e-3))
    ]
