"""Nothing here needs a database; see tests/kyrtos and tests/browser for those that do."""

import pytest
from hypothesis import settings

from kyrtos.config import queue

settings.register_profile(
    "any machine", deadline=None
)  # this one may be three times slower at times
settings.load_profile("any machine")


@pytest.fixture(autouse=True)
def _nothing_held_from_before():
    """What one test left for later is not done by the next."""
    queue.held.clear()
