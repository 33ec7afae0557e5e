"""Every pump listed, searched, and with the reason why it stands where it stands."""

import pytest

from sizing.analysis.changed import NotYet, known
from sizing.analysis.every_pump import MOST_LISTED, every_pump
from sizing.pump.catalogue import Catalogue
from sizing.size import size


def on_site(catalogue, sizing) -> Catalogue:
    return catalogue.at_mains(sizing.kind.supply_hz(sizing.facts))


def test_all_stand_where_the_match_has_them_and_each_says_why(cellar, catalogue):
    sizing = size(cellar, catalogue)
    found = every_pump(known(sizing), on_site(catalogue, sizing))
    assert found.count == found.searched == len(catalogue)
    assert len(found.rows) == min(len(catalogue), MOST_LISTED)
    fits = [one.candidate.pump.pump_id for one in found.rows if one.standing == "fits"]
    assert fits == [one.pump.pump_id for one in sizing.match.fits]
    assert sum(one.standing == "might do" for one in found.rows) == sizing.match.ask_count
    out = [one for one in found.rows if one.standing == "out"]
    assert len(out) == sizing.match.considered - sizing.match.fit_count - sizing.match.ask_count
    assert all(one.candidate.reasons for one in found.rows)


def test_words_in_any_order_and_case_find_it(cellar, catalogue):
    sizing = size(cellar, catalogue)
    found = every_pump(known(sizing), on_site(catalogue, sizing), "TARN vess")
    assert found.count > 0
    assert all("Vessmar Tarn" in one.candidate.pump.name for one in found.rows)
    assert every_pump(known(sizing), on_site(catalogue, sizing), "no such").rows == ()


def test_it_waits_for_what_is_asked_of_a_pump(cellar, catalogue):
    blank = size(cellar.model_copy(update={"legs": cellar.legs[:0]}), catalogue)
    with pytest.raises(NotYet):
        every_pump(known(blank), catalogue)
