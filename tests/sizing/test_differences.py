"""What differs between two states of a job, in words."""

import pytest

from sizing.editing.differences import differences
from sizing.editing.edit_structure import add_leg
from tests.sizing.conftest import changed


@pytest.mark.parametrize(
    ("edits", "said"),
    [
        ((("answers.pit_diameter", "900 mm"),), ("pit diameter",)),
        (
            (("legs.b.length", "27 m"), ("legs.b.fittings", "2 elbow")),
            ("length of yard", "fittings of yard"),
        ),
        ((("legs.a.pipe", "PVC-U PN10 63 mm"),), ("pipe of riser",)),
        ((("customer", "Somebody"),), ("the customer",)),
        ((("units", "us"),), ()),
        ((("note", "call first"),), ()),
    ],
)
def test_what_was_changed_is_named(cellar, edits, said):
    assert differences(cellar, changed(cellar, *edits)) == said


def test_a_leg_more_and_another_pump_are_named(cellar):
    assert differences(cellar, add_leg(cellar)) == ("which legs the run has",)
    one, two = (cellar.model_copy(update={"pump": pump}) for pump in ("a", "b"))
    assert differences(one, two) == ("the pump",)
    assert differences(cellar.model_copy(update={"pump": None}), two) == ()
