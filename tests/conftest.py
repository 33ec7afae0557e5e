"""What holds for every test: no part fails in silence."""

from __future__ import annotations

import sys

import pytest

from sizing.base import failure


@pytest.fixture(autouse=True)
def failed_alone(request, monkeypatch):
    """Parts that broke during a test, and were done without: they fail the test.

    One that is marked ``fails_alone`` breaks parts on purpose, and looks at this list itself.
    """
    found = []
    made = failure.failure_of

    def noted(about, problem):
        found.append((about, problem))
        return made(about, problem)

    for module in ("sizing.base.failure", "sizing.checks.base", "sizing.over_time.scenarios"):
        monkeypatch.setattr(f"{module}.failure_of", noted)
    for module in ("kyrtos.shops.trouble", "kyrtos.jobs.told_alone"):
        if module in sys.modules:
            monkeypatch.setattr(f"{module}.failure_of", noted)
    yield found
    if "fails_alone" not in request.keywords:
        assert not found, found
