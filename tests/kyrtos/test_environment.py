import pytest
from django.core.exceptions import ImproperlyConfigured

from kyrtos.config import environment


def test_a_missing_variable_is_named(monkeypatch):
    monkeypatch.delenv("KYRTOS_X", raising=False)
    with pytest.raises(ImproperlyConfigured, match="KYRTOS_X must be set"):
        environment.text("KYRTOS_X")


def test_a_truth_is_one_or_nought(monkeypatch):
    monkeypatch.setenv("KYRTOS_X", "yes")
    with pytest.raises(ImproperlyConfigured, match="must be 1 or 0"):
        environment.truth("KYRTOS_X", default=False)


def test_names_are_parted_by_commas(monkeypatch):
    monkeypatch.setenv("KYRTOS_X", "a.example, b.example,")
    assert environment.names("KYRTOS_X") == ["a.example", "b.example"]
