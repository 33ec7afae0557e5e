"""What a sizing promised of a run and its pump, as plain figures that can be kept for years."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any

from sizing.aftercare.commissioning.readings import Promised
from sizing.base.errors import SizingError
from sizing.pump.curve import PumpCurve

FORMAT = "kyrtos-promise/1"
# One sigma of a maker's curve: about ISO 9906 grade 2B at two.
HEAD_SHARE, POWER_SHARE = 0.025, 0.04
# Wire to water, no such pump exceeds it (assumed).
MOST_EFFICIENT = 0.75


@dataclass(frozen=True)
class Promise:
    """Of the run its height and K, where gauges sit, and what the pump was to do there.

    ``starts_per_s`` is the most often that it was to start, None where that was not reckoned;
    ``watched`` are the checks that were watched or failed when it was sold.
    """

    static_m: float
    k_s2_m5: float
    start_level_m: float
    outlet_bore_m: float
    suction_bore_m: float
    density_kg_m3: float
    phases: int
    flow_m3s: float
    head_m: float
    needed_flow_m3s: float
    starts_per_s: float | None = None
    watched: tuple[str, ...] = ()
    loss_share: float = 1.0  # losses as built that were in the promise already
    pit_area_m2: float | None = None  # of the pit that it draws from, where it is one
    voltage_v: float | None = None  # of the supply
    suction_k_s2_m5: float | None = None  # of the pipe before the pump, where there is one
    deep: bool = False  # it hangs in a well
    running_level_m: float | None = None  # of the water at its lowest while the pump runs

    def of(self, curve: PumpCurve) -> Promised:
        """The promise of a pump on this run; raises SizingError where its power is not known."""
        return Promised(
            curve=curve,
            static_m=self.static_m,
            k_s2_m5=self.k_s2_m5,
            possible_efficiency=MOST_EFFICIENT,
            head_share=HEAD_SHARE,
            power_share=POWER_SHARE,
            voltage_v=self.voltage_v,
            water_level_m=self.running_level_m,
            suction_k_s2_m5=self.suction_k_s2_m5,
            deep=self.deep,
        )

    def record(self) -> dict[str, Any]:
        """As plain JSON content; :func:`promise_of` gives the same back."""
        return {"format": FORMAT, **asdict(self), "watched": list(self.watched)}


def promise_of(content: Mapping[str, Any]) -> Promise:
    """The promise of a record.

    Raises
    ------
    SizingError
        Content that is no such record.
    """
    if content.get("format") != FORMAT:
        raise SizingError("this is no record of what was promised")
    plain = {one.name: content[one.name] for one in fields(Promise) if one.name in content}
    return Promise(**{**plain, "watched": tuple(plain.get("watched", ()))})
