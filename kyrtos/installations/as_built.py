"""What was measured of a run, taken into its job and its site; what to read to be surer."""

from __future__ import annotations

from kyrtos.accounts.models import User
from kyrtos.customers.models import Site
from kyrtos.installations import pump_records
from kyrtos.installations.models import InstalledPump, ReadingSet
from kyrtos.jobs import services as jobs
from sizing.aftercare.commissioning.surer import as_built_share, next_reading
from sizing.analysis.commissioning import HandedOver
from sizing.base.errors import SizingError
from sizing.editing.edit import edit

SURER = {
    "flow": "fill a larger bucket, or time it longer: the flow is what is least sure",
    "outlet": "read the gauge again with a finer one: its error is the largest part",
    "inlet": "put a gauge on the suction side too, or read it again",
    "water": "measure the level of the water with a tape",
    "electric": "read volts and amps together, with the power factor",
}


def surer(found: HandedOver) -> str:
    """Which reading to take again, where the doubt comes from; '' where it would change little."""
    part = next_reading(found.compared)
    return "" if part is None else SURER[part]


def take(pump: InstalledPump, kept: ReadingSet, user: User) -> str:
    """Put the measured K into the pump's job as losses as built, and note it with the site.

    Raises
    ------
    SizingError
        There is no job, nothing was compared, or no run has such losses.
    """
    promise = pump_records.promise_for(pump)
    if pump.job is None or promise is None:
        raise SizingError("no job stands behind this pump")
    if "k_s2_m5" not in kept.come:
        raise SizingError("these readings were not compared, so there is no K")
    now = jobs.current(pump.job)
    before = 1.0 if now.as_built is None else now.as_built.si("ratio")
    share = as_built_share(kept.come["k_s2_m5"], kept.come["k_sigma"], promise)
    text = f"{share.value * 100:.0f} % ± {2 * share.sigma * 100:.0f} %"
    tried = edit(now, "as_built", text)
    if tried.problem:
        raise SizingError(tried.problem)
    jobs.change(
        job=pump.job,
        user=user,
        path="as_built",
        page="",
        apply=lambda content: edit(content, "as_built", text).job,
    )
    Site.objects.filter(pk=pump.site_id).update(as_built={**pump.site.as_built, pump.kind: text})
    was = f"{100 * before:.0f} %"
    return f"The job's run is now reckoned at {text} of its losses, as built (before: {was})."
