"""How old what leaves a main is: it moves as a slug, and only while somebody pumps.

What leaves at a moment entered when as much less had been pumped as the main holds. Between two
events the pumped volume is taken as a straight line.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sizing.base.errors import check_range
from sizing.hydraulics.friction import Array

_EARLIER_M3 = 1e-12  # of what entered last before a pause, the elder side counts


def ages_s(
    times_s: Sequence[float], pumped_m3: Sequence[float], main_m3: float
) -> tuple[Array, Array]:
    """Times at which something leaves, and how old it is then [s].

    Parameters
    ----------
    times_s, pumped_m3 : moments, and all that was pumped until then; both never fall.

    Nothing is told of what was in the main at the beginning.

    Raises
    ------
    OutOfRange
        A main of nothing.
    """
    check_range("what the main holds", main_m3, 1e-9, 1e6, "m³")
    times, pumped = np.asarray(times_s, dtype=float), np.asarray(pumped_m3, dtype=float)
    flows = np.append(np.diff(pumped) > 1e-15, False)
    leaves = (pumped >= main_m3) & (flows | np.append(False, flows[:-1]))
    # where nothing is pumped the volume stands still: the last moment at which it was so low counts
    rising = np.append(True, np.diff(pumped) > 1e-15)
    last = np.append(np.diff(pumped) > 1e-15, True)
    known = rising | last
    before = pumped[leaves] - main_m3 - _EARLIER_M3
    entered = np.interp(before, pumped[known], times[known])
    return times[leaves], times[leaves] - entered
