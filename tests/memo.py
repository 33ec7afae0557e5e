"""Sizings of the tests, kept: ``size()`` is pure, and hundreds of tests ask it the same."""

from __future__ import annotations

from collections import OrderedDict
from typing import Any

import pytest

from kyrtos.jobs import services

_MOST = 400
_kept: OrderedDict[tuple[Any, ...], tuple[object, object]] = OrderedDict()
_whole = services.size


def _remembered(content, catalogue, rules):
    key = (content.model_dump_json(), id(catalogue), repr(rules.frozen()))
    held = _kept.get(key)
    if held is not None and held[0] is catalogue:  # an id may be given out again
        return held[1]
    found = _whole(content, catalogue, rules)
    _kept[key] = (catalogue, found)
    if len(_kept) > _MOST:
        _kept.popitem(last=False)
    return found


@pytest.fixture(autouse=True)
def _sizings_are_kept(request, monkeypatch):
    """What a test breaks on purpose is sized anew, and kept for no other."""
    if "fails_alone" not in request.keywords:
        monkeypatch.setattr(services, "size", _remembered)
