"""A catalogue packed into one blob says what the pumps themselves say."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sizing.pump.catalogue import FIGURES, TEXTS, Catalogue, Pump
from sizing.pump.curve import PumpCurve
from sizing.pump.packed import PackedCatalogue, PackError, pack
from sizing.size import size

PLAIN = Pump("p", "Ondrath", "K", "sump", PumpCurve((0.0, 1e-3, 2e-3), (9.0, 7.3, 2.1)))


@pytest.fixture(scope="module")
def packed(catalogue):
    return PackedCatalogue(pack(catalogue.pumps))


def test_every_pump_comes_out_as_it_went_in(catalogue, packed):
    assert list(packed.pumps) == sorted(catalogue.pumps, key=lambda pump: pump.pump_id)
    assert packed.pumps[-1] == packed.pumps[len(packed) - 1]
    assert packed.pumps[3:5] == [packed.pumps[3], packed.pumps[4]]
    with pytest.raises(IndexError):
        packed.pumps[len(packed)]


def test_the_arrays_are_those_of_the_pumps(packed):
    plain = Catalogue(list(packed.pumps))
    for name in FIGURES:
        assert np.array_equal(packed.column(name), plain.column(name), equal_nan=True), name
    for name in ("flows_m3s", "heads_m", "slopes", "starts", "last", "droops"):
        assert np.array_equal(getattr(packed.table, name), getattr(plain.table, name)), name
    assert packed.best_flow_m3s == pytest.approx(plain.best_flow_m3s)
    assert packed.powers_w == pytest.approx(plain.powers_w, rel=1e-6, nan_ok=True)
    assert list(packed.in_families(("sewage", "grinder"))) == list(
        plain.in_families(("sewage", "grinder"))
    )
    assert (packed.by_id == plain.by_id).all()


def test_a_job_is_sized_alike_on_both(cellar, catalogue, packed):
    plain, quick = size(cellar, catalogue).match, size(cellar, packed).match
    assert [one.pump for one in quick.fits] == [one.pump for one in plain.fits]
    assert [one.reasons for one in quick.near_misses] == [one.reasons for one in plain.near_misses]
    assert quick.out == plain.out
    assert [one.cost_per_year for one in quick.fits] == pytest.approx(
        [one.cost_per_year for one in plain.fits], rel=1e-6
    )


def test_pumps_are_found_by_their_ids(catalogue, packed):
    for of in (catalogue, packed, packed.arranged("parallel", 2)):
        assert all(
            of.pumps[of.find(pump.pump_id)].pump_id == pump.pump_id for pump in catalogue.pumps
        )
        assert [of.find(one) for one in ("", "nobody", "zzz")] == [None] * 3


def test_an_arranged_catalogue_is_the_pumps_arranged(packed):
    two = packed.arranged("parallel", 2, 1)
    plain = Catalogue(list(two.pumps))
    assert two.pumps[0].price == pytest.approx(3 * packed.pumps[0].price)
    for name in ("flows_m3s", "heads_m", "slopes"):
        assert getattr(two.table, name) == pytest.approx(getattr(plain.table, name), rel=1e-12)
    assert two.powers_w == pytest.approx(plain.powers_w, rel=1e-6, nan_ok=True)
    assert two.column("price") == pytest.approx(plain.column("price"), nan_ok=True)
    assert two.best_flow_m3s == pytest.approx(plain.best_flow_m3s)


def test_only_two_arrangements_are_kept(packed):
    first = packed.arranged("parallel", 2)
    assert packed.arranged("parallel", 2) is first
    packed.arranged("series", 2), packed.arranged("parallel", 3)
    assert packed.arranged("parallel", 2) is not first


_TEXT = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)
_FIGURE = st.none() | st.floats(0, 1e6, allow_nan=False)


@given(
    st.lists(
        st.tuples(_TEXT, _TEXT, _FIGURE, _FIGURE, st.booleans()),
        max_size=8,
        unique_by=lambda one: one[0],
    )
)
def test_any_texts_and_figures_come_back(given_pumps):
    pumps = [
        dataclasses.replace(PLAIN, pump_id=a, note=b, price=c, solids_m=d, drinking_water=e)
        for a, b, c, d, e in given_pumps
    ]
    assert list(PackedCatalogue(pack(pumps)).pumps) == sorted(pumps, key=lambda pump: pump.pump_id)


@pytest.mark.parametrize(
    "spoilt", [b"", b"something else", lambda blob: blob[:-200], lambda blob: blob[:40]]
)
def test_what_is_no_whole_catalogue_is_refused(catalogue, spoilt):
    with pytest.raises(PackError):
        PackedCatalogue(spoilt(pack(catalogue.pumps)) if callable(spoilt) else spoilt)


def test_every_field_of_a_pump_is_packed():
    assert set(TEXTS) | set(FIGURES) | {"curve", "together", "scaled_hz"} == {
        field.name for field in dataclasses.fields(Pump)
    }
