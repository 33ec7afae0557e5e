"""Pipes as sold: the real bore behind a nominal size, and how rough the wall is."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from sizing.base import tables
from sizing.base.errors import UnknownName
from sizing.base.tables import number

_MM = 1e-3


@dataclass(frozen=True)
class Pipe:
    """A row of ``data/pipes.csv``; ``inside_diameter_m`` is the mean bore, if it is known."""

    series: str
    material: str
    standard: str
    nominal: str
    outside_diameter_m: float | None  # hoses are sold by their bore; nobody publishes the outside
    inside_diameter_m: float
    rating_pa: float | None
    source: str
    confidence: str

    @property
    def label(self) -> str:
        """What people call it, such as 'PVC-U PN10 50 mm'."""
        return f"{SERIES.get(self.series, self.series)} {self.nominal}"


@dataclass(frozen=True)
class Roughness:
    """A row of ``data/roughness.csv``.

    Wall roughness and Hazen-Williams C of a material in a condition.
    """

    material: str
    condition: str
    low_m: float
    new_m: float
    design_m: float
    hazen_williams_new: float | None
    hazen_williams_design: float | None
    hazen_williams_aged: float | None
    source: str
    confidence: str


# What people call the families, in the order in which a person looks for them.
SERIES = {
    "pvc_sch40": "PVC Sch 40",
    "pvc_sch80": "PVC Sch 80",
    "pvc_sdr13_5": "PVC SDR 13.5",
    "pvc_sdr21": "PVC SDR 21",
    "pvc_sdr26": "PVC SDR 26",
    "pvc_dwv": "PVC DWV",
    "abs_dwv": "ABS DWV",
    "pvcu_pn10": "PVC-U PN10",
    "pvcu_pn16": "PVC-U PN16",
    "pe100_sdr11": "PE100 SDR 11",
    "pe100_sdr13_6": "PE100 SDR 13.6",
    "pe100_sdr17": "PE100 SDR 17",
    "hdpe_dr9_ips": "HDPE DR 9",
    "hdpe_dr11_ips": "HDPE DR 11",
    "hdpe_dr17_ips": "HDPE DR 17",
    "pe_sidr7": "PE SIDR 7",
    "pe_sidr9": "PE SIDR 9",
    "pe_sidr11_5": "PE SIDR 11.5",
    "pe_sidr15": "PE SIDR 15",
    "pe_sidr19": "PE SIDR 19",
    "pex_sdr9": "PEX SDR 9",
    "cpvc_cts_sdr11": "CPVC CTS",
    "cpvc_sch40": "CPVC Sch 40",
    "cpvc_sch80": "CPVC Sch 80",
    "copper_k": "copper K",
    "copper_l": "copper L",
    "copper_m": "copper M",
    "copper_en1057_std": "copper EN 1057",
    "copper_en1057_thin": "copper EN 1057 thin",
    "steel_sch40": "steel Sch 40",
    "steel_sch80": "steel Sch 80",
    "steel_en10255_m": "steel EN 10255",
    "flex_pvc_hose": "flexible PVC hose",
    "vinyl_tubing": "vinyl tubing",
    "aquarium_hose_metric": "aquarium hose",
    "pond_tubing": "pond tubing",
    "pond_tubing_metric": "pond tubing, metric",
}

# The roughness row that a family of pipe takes when nobody says otherwise (material, condition).
_CLEAN = "clean water"
USUAL_ROUGHNESS = {
    "pvc": ("PVC", _CLEAN),
    "pvcu": ("PVC", _CLEAN),
    "abs": ("ABS", _CLEAN),
    "cpvc": ("CPVC", _CLEAN),
    "pe100": ("HDPE / PE", _CLEAN),
    "hdpe": ("HDPE / PE", _CLEAN),
    "pe": ("HDPE / PE", _CLEAN),
    "pex": ("PEX", _CLEAN),
    "copper": ("copper / brass tube", "clean, non-scaling water"),
    "steel": ("carbon steel, new", _CLEAN),
    "flex": ("flexible PVC hose (spa hose)", "smooth bore"),
    "vinyl": ("vinyl tubing (aquarium)", "clean"),
    "aquarium": ("vinyl tubing (aquarium)", "clean"),
    "pond": ("kink-free / corrugated pond tubing, smooth inside", "smooth inner wall"),
}


def _pipe(row: dict[str, str]) -> Pipe:
    bore_mm = number(row["id_avg_mm"]) or float(row["id_mm"])
    rating_kpa = number(row["rating_kpa_23C"])
    return Pipe(
        series=row["series"],
        material=row["material"],
        standard=row["standard"],
        nominal=row["nominal"] or f"{row['nominal_mm']} mm",
        outside_diameter_m=float(row["od_mm"]) * _MM if row["od_mm"] else None,
        inside_diameter_m=bore_mm * _MM,
        rating_pa=None if rating_kpa is None else rating_kpa * 1e3,
        source=row["source"],
        confidence=row["confidence"],
    )


@lru_cache
def pipes() -> dict[tuple[str, str], Pipe]:
    """Every pipe by (series, nominal size), in the order of the table."""
    made = [_pipe(row) for row in tables.rows("pipes")]
    return {(pipe.series, pipe.nominal): pipe for pipe in made}


@lru_cache
def sizes(series: str) -> tuple[str, ...]:
    """The nominal sizes of a family, small to large.

    Raises
    ------
    UnknownName
        When no family is called so.
    """
    found = tuple(nominal for family, nominal in pipes() if family == series)
    if not found:
        raise UnknownName("pipe family", series, SERIES)
    return found


def pipe(series: str, nominal: str) -> Pipe:
    """The pipe of a family and a nominal size.

    Raises
    ------
    UnknownName
        When the family, or the size within it, is not in the table.
    """
    known = sizes(series)
    try:
        return pipes()[series, nominal]
    except KeyError:
        raise UnknownName(f"size of {SERIES.get(series, series)}", nominal, known) from None


def rating_pa(series: str, nominal: str, temperature_c: float) -> float | None:
    """What a pipe is rated for in water of that temperature [Pa]; None where nobody states it.

    The rating at the standard's temperature times a factor that falls with the water's; zero for
    water hotter than the standard goes. Source: ``data/pipe_derating.csv``.

    Raises
    ------
    UnknownName
        No such pipe.
    """
    rated = pipe(series, nominal).rating_pa
    if rated is None:
        return None
    known = _derating().get(series.split("_")[0])
    if known is None:
        return rated
    temperatures, shares = zip(*known, strict=True)
    if temperature_c > temperatures[-1]:
        return 0.0
    return rated * float(np.interp(temperature_c, temperatures, shares))


@lru_cache
def _derating() -> dict[str, list[tuple[float, float]]]:
    found: dict[str, list[tuple[float, float]]] = {}
    for row in tables.rows("pipe_derating"):
        found.setdefault(row["family"], []).append(
            (float(row["temperature_c"]), float(row["share"]))
        )
    return found


@lru_cache
def roughnesses() -> dict[tuple[str, str], Roughness]:
    """Every roughness row by (material, condition)."""
    return {
        (row["material"], row["condition"]): _roughness(row) for row in tables.rows("roughness")
    }


def _roughness(row: dict[str, str]) -> Roughness:
    return Roughness(
        material=row["material"],
        condition=row["condition"],
        low_m=float(row["eps_low_mm"] or row["eps_new_mm"] or row["eps_design_mm"]) * _MM,
        new_m=float(row["eps_new_mm"] or row["eps_design_mm"]) * _MM,
        design_m=float(row["eps_design_mm"]) * _MM,
        hazen_williams_new=number(row["hw_c_new"]),
        hazen_williams_design=number(row["hw_c_design"]),
        hazen_williams_aged=number(row["hw_c_aged"]),
        source=row["source"],
        confidence=row["confidence"],
    )


def roughness(material: str, condition: str) -> Roughness:
    """The roughness of a material in a condition, names exactly as in the table.

    Raises
    ------
    UnknownName
        When the table has no such row; a near name is suggested, never taken.
    """
    known = roughnesses()
    try:
        return known[material, condition]
    except KeyError:
        raise UnknownName(
            "material and condition", f"{material}, {condition}", [f"{m}, {c}" for m, c in known]
        ) from None


def usual_roughness(series: str) -> Roughness:
    """The roughness that a pipe family has in clean water."""
    sizes(series)
    return roughness(*USUAL_ROUGHNESS[series.split("_")[0]])


@dataclass(frozen=True)
class Wall:
    """How rough the wall of a leg is, by both methods, and where from.

    Roughness [m], and a Hazen-Williams C (None: no table knows one).
    """

    label: str
    roughness_m: float
    hazen_williams_c: float | None
    source: str


@dataclass(frozen=True)
class WallChoice:
    """A row of ``data/walls.csv``: a condition that somebody may say a pipe is in."""

    code: str
    label: str
    material: str
    condition: str
    use: str


# What a pipe becomes over the years (material, condition), where nobody measured: steel rusts, the
# rest grows slime.
_AGED = {"steel": ("carbon steel, lightly rusted", "some years in service")}
USUAL_WALL = "usual"
_IRON = frozenset(one for one in SERIES if one.startswith("steel_"))
_SLIMED = ("aquarium / pond pipe with biofilm", "in service, seldom cleaned")


@lru_cache
def walls() -> dict[str, WallChoice]:
    """Every condition of a wall that may be named, by its code."""
    return {
        row["code"]: WallChoice(
            **{key: row[key] for key in ("code", "label", "material", "condition", "use")}
        )
        for row in tables.rows("walls")
    }


def wall(code: str) -> WallChoice:
    """The condition with that code.

    Raises
    ------
    UnknownName
    """
    try:
        return walls()[code]
    except KeyError:
        raise UnknownName("condition of a pipe's wall", code, walls()) from None


def read_wall(text: str) -> str:
    """The code of the condition that somebody typed, by its label or its code.

    '' for the usual wall.

    Raises
    ------
    UnknownName
        With near labels.
    """
    plain = " ".join(text.lower().split())
    if plain in ("", USUAL_WALL):
        return ""
    for choice in walls().values():
        if plain in (choice.code, choice.label.lower()):
            return choice.code
    raise UnknownName(
        "condition of a pipe's wall",
        text.strip(),
        [USUAL_WALL, *(choice.label for choice in walls().values())],
    )


def wall_by_liquid(series: str, liquid_wall: str) -> str:
    """The wall that a liquid makes of a pipe family: iron and steel roughen more in sewage."""
    return f"{liquid_wall}_iron" if liquid_wall == "sewage" and series in _IRON else liquid_wall


def wall_of(series: str, code: str = "") -> Wall:
    """The wall of a pipe family in a condition; without one the family's usual wall in clean water.

    Raises
    ------
    UnknownName
    """
    if not code:
        usual = usual_roughness(series)
        return Wall(USUAL_WALL, usual.design_m, usual.hazen_williams_design, usual.source)
    chosen = wall(code)
    if chosen.use == "new":
        usual = usual_roughness(series)
        return Wall(chosen.label, usual.new_m, usual.hazen_williams_new, usual.source)
    row = (
        roughness(*_AGED.get(series.split("_")[0], _SLIMED))
        if chosen.use == "aged"
        else roughness(chosen.material, chosen.condition)
    )
    return Wall(chosen.label, row.design_m, row.hazen_williams_design, row.source)
