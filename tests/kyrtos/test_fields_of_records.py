"""A field of a customer or a site is in form, list, merge and export, or says here why not."""

import pytest

from kyrtos.customers import cards, merging
from kyrtos.customers.forms import CustomerForm, SiteForm
from kyrtos.customers.models import Customer, Site

_FORMS = {Customer: CustomerForm, Site: SiteForm}
# whose it is, what the program keeps by itself, and a customer's sites (each has its own form)
_OWN = {"id", "shop", "customer", "known_as", "also", "created", "changed", "taken_out", "as_built"}


@pytest.mark.parametrize("model", [Customer, Site])
def test_a_field_is_in_form_merge_and_list_or_is_named_here(model):
    fields = {one.name for one in model._meta.concrete_fields} - _OWN
    merged = {
        *merging.lines_in(model),
        *merging.texts_in(model),
        *(name for _, names in merging.singles_in(model) for name in names),
    }
    assert merged == fields, "merging.py finds it by its type: is it editable?"
    shown = set(_FORMS[model]._meta.fields)
    assert shown == fields, f"put it into {_FORMS[model].__name__}.Meta.fields"
    listed = set(cards._CUSTOMER if model is Customer else cards._SITE.values())
    assert fields <= listed, "put it into the lists of cards.py: CSV, XLSX out and in"


def test_of_two_texts_both_are_kept_and_of_two_values_the_other_is_a_note(shop):
    stays = Customer(shop=shop, name="Amrit", people="A", notes="one", units="us")
    goes = Customer(shop=shop, name="Amrit B", people="B", notes="two", units="metric")
    merging._fill(stays, goes, frozenset())
    assert (stays.people, stays.notes.splitlines()[:2]) == ("A\nB", ["one", "two"])
    site, other = (Site(shop=shop, name=name, phases=p) for name, p in (("Mill", 1), ("Barn", 3)))
    merging._fill(site, other, frozenset())
    assert site.phases == 1
    assert "Phases of Barn: 3" in site.notes
