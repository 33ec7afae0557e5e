"""No test hangs on how fast the machine is."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta

import pytest

from kyrtos.jobs import services


@pytest.fixture(scope="session", autouse=True)
def _one_go_lasts() -> Iterator[None]:
    """Edits to one field in one go are one step of undo, however long a loaded machine takes."""
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(services, "_ONE_GO", timedelta(hours=1))
        yield
