import json

import pytest

from sizing import intake
from sizing.job import JobFileError, dump


def sent(cellar, **changes):
    return json.dumps(dump(cellar) | changes)


def test_a_good_file_comes_in_whole(cellar):
    assert intake.loads(sent(cellar)) == cellar


LEG = {"id": "a", "series": "pvcu_pn10", "nominal": "50 mm"}
BAD = [
    ({"kind": "volcano"}, "kind: no kind of job is called 'volcano'"),
    ({"answers": {"colour": "red"}}, r"answers\.colour: no question"),
    ({"answers": {"rise": {"value": 3, "unit": "gpm"}}}, r"answers\.rise: no unit is called 'gpm'"),
    ({"answers": {"rise": {"value": 900, "unit": "m"}}}, r"answers\.rise: rise with the pump off cannot be 900 m"),
    ({"answers": {"rise": "much"}}, r"answers\.rise: a figure is wanted"),
    ({"answers": {"liquid": {"value": 1, "unit": "m"}}}, r"answers\.liquid: one of the choices"),
    ({"answers": {"liquid": "treacle"}}, "none of the choices"),
    ({"legs": [LEG | {"series": "lead"}]}, r"legs\.a: no pipe family is called 'lead'"),
    ({"legs": [LEG | {"length": {"value": -1, "unit": "m"}}]}, r"legs\.a\.length: length cannot be -1 m"),
    ({"pending": {"colour": "red"}}, r"pending\.colour: no job has a field 'colour'"),
    ({"legs": [LEG, LEG]}, "two legs have the same id"),
    ({"title": "cel\0lar"}, r"U\+0000"),
]


@pytest.mark.parametrize(("changes", "says"), BAD)
def test_a_file_that_makes_no_sense_is_told_where(cellar, changes, says):
    with pytest.raises(JobFileError, match=says):
        intake.loads(sent(cellar, **changes))
