import json

import pytest

from sizing.document.job import JobFileError, dump
from sizing.editing import intake


def sent(cellar, **changes):
    return json.dumps(dump(cellar) | changes)


def test_a_good_file_comes_in_whole(cellar):
    assert intake.loads(sent(cellar)) == cellar


LEG = {"id": "a", "series": "pvcu_pn10", "nominal": "50 mm"}
BAD = [
    ({"kind": "volcano"}, "kind: no kind of job is called 'volcano'"),
    ({"answers": {"colour": "red"}}, r"answers\.colour: no question"),
    ({"answers": {"rise": {"value": 3, "unit": "gpm"}}}, r"answers\.rise: no unit is called 'gpm'"),
    (
        {"answers": {"rise": {"value": 900, "unit": "m"}}},
        r"answers\.rise: rise with the pump off cannot be 900 m",
    ),
    ({"answers": {"rise": "much"}}, r"answers\.rise: a figure is wanted"),
    ({"answers": {"liquid": {"value": 1, "unit": "m"}}}, r"answers\.liquid: one of the choices"),
    ({"answers": {"liquid": "treacle"}}, "none of the choices"),
    ({"legs": [LEG | {"series": "lead"}]}, r"legs\.a: no pipe family is called 'lead'"),
    (
        {"legs": [LEG | {"length": {"value": -1, "unit": "m"}}]},
        r"legs\.a\.length: length cannot be -1 m",
    ),
    ({"pending": {"colour": "red"}}, r"pending\.colour: no job has a field 'colour'"),
    ({"legs": [LEG, LEG]}, "two legs have the same id"),
    ({"title": "cel\0lar"}, r"U\+0000"),
]


@pytest.mark.parametrize(("changes", "says"), BAD)
def test_a_file_that_makes_no_sense_is_told_where(cellar, changes, says):
    with pytest.raises(JobFileError, match=says):
        intake.loads(sent(cellar, **changes))


AGREE = [
    ("rise", {"value": 1.0, "unit": "m", "text": "120 mm"}, "1 m"),
    ("rise", {"value": 120, "unit": "mm", "text": "120"}, "120"),
    ("rise", {"value": 120, "unit": "mm", "text": "120 mm ± 5 mm"}, "120 mm"),
    ("rise", {"value": 120, "unit": "mm", "text": "very much"}, "120 mm"),
    ("rise", {"value": 120, "unit": "mm", "text": "120 mm"}, "120 mm"),
]


@pytest.mark.parametrize(("key", "figure", "shown"), AGREE)
def test_a_text_that_says_another_amount_gives_way_to_the_value(cellar, key, figure, shown):
    taken = intake.take_in(sent(cellar, answers={key: figure}))
    assert taken.job.answers[key].shown() == shown
    assert taken.job.answers[key].si("length") == pytest.approx(
        figure["value"] / (1 if figure["unit"] == "m" else 1000)
    )
    assert len(taken.told) == (shown != figure["text"])


def test_legs_lists_and_things_in_a_leg_are_read_again_too(cellar):
    long = {"value": 1.0, "unit": "m", "text": "120 m"}
    lossy = {
        "flow": {"value": 4, "unit": "m³/h", "text": "4 m³/h"},
        "loss": {"value": 0.3, "unit": "bar", "text": "3 bar"},
    }
    legs = [LEG | {"length": long, "items": [{"name": "filter", "points": [lossy]}]}]
    taken = intake.take_in(sent(cellar, legs=legs))
    assert (
        taken.job.legs[0].length.shown(),
        taken.job.legs[0].items[0].points[0].loss.shown(),
    ) == ("1 m", "0.3 bar")
    assert [told.split(":")[0] for told in taken.told] == ["leg 1, length", "leg 1, filter, loss"]
    rows = [{"id": "r1", "cells": {"count": {"value": 7, "unit": "x", "text": "70"}}}]
    jets = intake.take_in(
        json.dumps({"format": "kyrtos-job/1", "kind": "spa", "lists": {"jets": rows}})
    )
    assert jets.told[0].startswith("row 1, ")
