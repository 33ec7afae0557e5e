"""Nothing here needs a database; see tests/kyrtos and tests/browser for those that do."""

import pytest

from kyrtos import background


@pytest.fixture(autouse=True)
def _nothing_held_from_before():
    """What one test left for later is not done by the next."""
    background.held.clear()
