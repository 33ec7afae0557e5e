"""A field of a form that takes a figure as people write it, and gives it in SI."""

from __future__ import annotations

from typing import Any

from django import forms

from sizing.base import numbers, quantity, units
from sizing.base.errors import SizingError
from sizing.base.reader import current
from sizing.base.units import System


class FigureField(forms.CharField):
    """A figure with its unit, such as '1.2 m' or '4 ft', read in the units of whoever types.

    Gives its value in SI; None where it is left empty and need not be given.
    """

    def __init__(
        self,
        *,
        dimension: str,
        metric: str | None,
        us: str | None = None,
        low: float = -1e12,
        high: float = 1e12,
        required: bool = False,
        **given: Any,
    ) -> None:
        super().__init__(max_length=60, required=required, **given)
        self.dimension, self.low, self.high = dimension, low, high
        self.bare: dict[str, str | None] = {"metric": metric, "uk": metric, "us": us or metric}
        self.system: System = "metric"
        self.widget.attrs |= {"class": "form-control", "autocomplete": "off"}

    def clean(self, value: Any) -> Any:
        """The figure in SI, checked against its bounds.

        Raises
        ------
        ValidationError
            It cannot be read, or nothing is like that.
        """
        text = super().clean(value).strip()
        if not text:
            return None
        try:
            read = quantity.read(numbers.as_kept(text), self.dimension, self.bare[self.system]).si
        except SizingError as problem:
            raise forms.ValidationError(numbers.as_read(str(problem))) from None
        if not self.low <= read <= self.high:
            low, high = (self.shown(one) for one in (self.low, self.high))
            raise forms.ValidationError(f"{text} is out of range: {low} to {high}")
        return read

    def shown(self, value_si: float) -> str:
        """A value as whoever reads would write it."""
        return units.show(value_si, self.dimension, self.system).replace("\u00a0", " ")

    def prepare_value(self, value: Any) -> Any:
        """A figure of before is shown with its unit; what was typed stays as typed."""
        return self.shown(value) if isinstance(value, int | float) else value


class NumberField(forms.CharField):
    """A number without a unit (a price, hours), by the decimal mark of whoever reads.

    One that may be meant in two ways, such as '1,250', is asked back, never guessed.
    """

    def __init__(self, *, low: float, high: float, **given: Any) -> None:
        super().__init__(max_length=30, **given)
        self.low, self.high = low, high
        self.widget.attrs |= {"inputmode": "decimal"}

    def clean(self, value: Any) -> Any:
        """The number, within its bounds; None where it is left empty and need not be given.

        Raises
        ------
        ValidationError
        """
        text = str(super().clean(value) or "").strip()
        if not text:
            return None
        try:
            return numbers.sure_number(text, self.low, self.high, current().style)
        except SizingError as problem:
            raise forms.ValidationError(str(problem)) from None

    def prepare_value(self, value: Any) -> Any:
        """A number of before with the reader's mark; what was typed stays as typed."""
        return numbers.as_read(f"{value:.15g}") if isinstance(value, int | float) else value


def tell_system(form: forms.Form | forms.ModelForm[Any], system: System) -> None:
    """Every figure of a form is read and shown in this system."""
    for field in form.fields.values():
        if isinstance(field, FigureField):
            field.system = system


def look(form: forms.Form | forms.ModelForm[Any]) -> None:
    """The look of our fields for all of a form's."""
    for name, field in form.fields.items():
        if isinstance(field, forms.BooleanField):
            field.widget.attrs["class"] = "form-check-input"
        elif isinstance(field, forms.ChoiceField):
            field.widget.attrs["class"] = "form-select"
        else:
            field.widget.attrs |= {"class": "form-control", "autocomplete": "off"}
        field.widget.attrs["id"] = name
