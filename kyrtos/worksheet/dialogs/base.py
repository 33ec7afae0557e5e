"""What a dialog declares: a question put to a sizing that is done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from django.http import QueryDict

from kyrtos.jobs.models import Recording
from sizing.analysis.changed import Known
from sizing.pump.catalogue import Catalogue
from sizing.size import Sizing, on_site
from sizing.storage.basin_list import OnSale


@dataclass(frozen=True)
class Asked:
    """The job as it stands, the shop's catalogue, and what was typed into the dialog."""

    base: Known
    catalogue: Catalogue
    given: QueryDict
    currency: str
    basins: tuple[OnSale, ...] = ()  # that the shop sells; none: the usual ones
    recording: Recording | None = None  # the latest of the job
    job_id: str = ""

    @property
    def on_site(self) -> Catalogue:
        """The catalogue as its pumps run on this job, for single pumps beside the sheet's."""
        sizing = self.base.sizing
        return on_site(self.catalogue, sizing.job, sizing.kind, sizing.facts)


def always(sizing: Sizing) -> bool:
    """A question that makes sense for every job."""
    return True


@dataclass(frozen=True)
class Dialog:
    """One dialog: ``name`` is in its address and names its template; ``words`` stand on its button.

    ``place`` is where its button stands, in the order of ``rank``; ``tells`` explains it in the
    list of keys. Two dialogs of one key never apply to one job.
    """

    name: str
    words: str
    key: str
    tells: str
    place: Literal["head", "choosing"]
    rank: int
    view: Callable[[Asked], Any]
    applies: Callable[[Sizing], bool] = always
    about_leg: bool = False
