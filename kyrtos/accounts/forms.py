"""One's own settings and those of the shop, as forms."""

from __future__ import annotations

from typing import Any

from django import forms

from kyrtos.accounts.models import Membership
from kyrtos.shops.logo import LARGEST_LOGO, NoLogo, redrawn
from kyrtos.shops.models import DATES, FREQUENCIES, NUMBERS, PHASES, UNITS, Shop
from sizing.base.errors import SizingError
from sizing.base.units import PREFERABLE
from sizing.editing.edit import FITTING_METHODS
from sizing.hydraulics.pipes import SERIES
from sizing.kinds import kinds
from sizing.kinds.start import EVERY_KIND
from sizing.storage import basin_list

_QUANTITIES = {
    "flow": "Flows in",
    "length": "Heights and heads in",
    "size": "Small sizes in",
    "volume": "Volumes in",
    "pressure": "Pressures in",
    "power": "Power in",
}
_CHOICES = {"units": UNITS, "numbers": NUMBERS, "dates": DATES}


def _unit_fields(own: dict[str, str], usual: str) -> dict[str, forms.ChoiceField]:
    """A choice of unit for each quantity that has several."""
    found = {}
    for dimension, label in _QUANTITIES.items():
        symbols = dict.fromkeys(one for every in PREFERABLE[dimension].values() for one in every)
        found[f"unit_{dimension}"] = forms.ChoiceField(
            label=label,
            choices=[("", usual), *((one, one) for one in symbols)],
            required=False,
            initial=own.get(dimension, ""),
        )
    return found


class _TermsForm(forms.ModelForm):  # type: ignore[type-arg]
    """What both have: units by quantity, and the look of every field."""

    usual = "as is usual"

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        self.fields |= _unit_fields(self.instance.own_units, self.usual)
        for name, field in self.fields.items():
            if isinstance(field, forms.ChoiceField):
                field.widget.attrs["class"] = "form-select"
            elif not isinstance(field, forms.BooleanField):
                field.widget.attrs |= {"class": "form-control", "autocomplete": "off"}
            field.widget.attrs["id"] = name

    def clean(self) -> dict[str, Any]:
        """The units by quantity gathered into one mapping."""
        typed = super().clean() or {}
        chosen = {one: typed.get(f"unit_{one}", "") for one in _QUANTITIES}
        self.instance.own_units = {one: unit for one, unit in chosen.items() if unit}
        return typed

    @property
    def unit_fields(self) -> list[forms.BoundField]:
        """The units by quantity."""
        return [self[f"unit_{one}"] for one in _QUANTITIES]


class OwnTermsForm(_TermsForm):
    """What one person prefers to read; a blank is as the shop has it."""

    usual = "as the shop"

    class Meta:
        model = Membership
        fields = ("units", "numbers", "dates")

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **given)
        for name in self.Meta.fields:
            field = self.fields[name]
            assert isinstance(field, forms.ChoiceField)
            field.choices = [("", self.usual), *_CHOICES[name]]

    @property
    def main_fields(self) -> list[forms.BoundField]:
        """The fields over those of single units."""
        return [self[name] for name in self.Meta.fields]


class ShopTermsForm(_TermsForm):
    """The shop on its papers, its units and supply, and what its jobs begin with."""

    new_logo = forms.FileField(
        label="Logo, a PNG or JPEG",
        required=False,
        widget=forms.FileInput(attrs={"accept": "image/png,image/jpeg"}),
    )
    no_logo = forms.BooleanField(label="print no logo", required=False)

    class Meta:
        model = Shop
        fields = (
            *("name", "address", "phone", "licence", "terms"),
            *("units", "numbers", "dates", "time_zone", "currency", "paper_size"),
            *("voltage_v", "phases", "frequency_hz"),
            *("second_step", "idle_minutes"),
            "basins",
        )
        widgets = {
            "terms": forms.Textarea(attrs={"rows": 4}),
            "basins": forms.Textarea(attrs={"rows": 6, "placeholder": basin_list.EXAMPLE}),
            "voltage_v": forms.TextInput(attrs={"inputmode": "decimal", "placeholder": "230"}),
            "idle_minutes": forms.TextInput(attrs={"inputmode": "numeric", "placeholder": "never"}),
        }

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **given)
        self.fields["currency"].required = True
        for name, choices in (("phases", PHASES), ("frequency_hz", FREQUENCIES)):
            field = self.fields[name]
            assert isinstance(field, forms.ChoiceField)
            field.choices = [("", "as is usual"), *choices]
        self._kind_fields()

    def _kind_fields(self) -> None:
        """First-choice pipe and school of fittings, for every kind and for each."""
        kept = "as every kind"
        for code, label in {EVERY_KIND: "Every kind", **_kind_labels()}.items():
            blank = kept if code else "as the kind of job has it"
            for part, choices, own in (
                ("pipe", SERIES.items(), self.instance.own_pipes),
                ("fittings", FITTING_METHODS.items(), self.instance.own_fittings),
            ):
                self.fields[f"{part}_{code or 'every'}"] = forms.ChoiceField(
                    label=f"{label}: {part}",
                    choices=[("", blank), *choices],
                    required=False,
                    initial=own.get(code, ""),
                    widget=forms.Select(attrs={"class": "form-select"}),
                )

    def kind_rows(self) -> list[tuple[str, forms.BoundField, forms.BoundField]]:
        """A row for every kind: its label, its pipe, its school of fittings."""
        labels = {"every": "Every kind", **_kind_labels()}
        return [
            (label, self[f"pipe_{code}"], self[f"fittings_{code}"])
            for code, label in labels.items()
        ]

    def fields_of(self, *names: str) -> list[forms.BoundField]:
        """Some of the fields, in the order given."""
        return [self[name] for name in names]

    @property
    def paper_fields(self) -> list[forms.BoundField]:
        """What is printed at the head and the foot of a paper."""
        return self.fields_of("name", "address", "phone", "licence", "terms", "new_logo")

    @property
    def main_fields(self) -> list[forms.BoundField]:
        """Units, numbers, money, paper and supply."""
        return self.fields_of(*self.Meta.fields[5:-3])

    def clean_basins(self) -> str:
        """Raises ValidationError naming the line that cannot be read."""
        text = str(self.cleaned_data["basins"])
        try:
            basin_list.read(text, "metric")
        except SizingError as problem:
            raise forms.ValidationError(f"{str(problem)[:1].upper()}{str(problem)[1:]}.") from None
        return text

    def clean_voltage_v(self) -> float | None:
        """Raises ValidationError outside of what motors run on."""
        value: float | None = self.cleaned_data["voltage_v"]
        if value is not None and not 6 <= value <= 1000:
            raise forms.ValidationError("A supply has 6 to 1000 V: such as 230 or 115.")
        return value

    def clean_new_logo(self) -> Any:
        """Raises ValidationError for what is no picture, or too large a one."""
        sent = self.cleaned_data["new_logo"]
        if sent is None:
            return None
        content = sent.read(LARGEST_LOGO + 1)
        try:
            content, self.instance.logo_type = redrawn(content)
        except NoLogo as problem:
            raise forms.ValidationError(str(problem)) from None
        self.instance.logo = content
        return sent

    def clean(self) -> dict[str, Any]:
        """The choices by kind gathered, and the logo taken away if asked."""
        typed = super().clean()
        codes = {"every": EVERY_KIND, **{code: code for code in kinds()}}
        for part, target in (("pipe", "own_pipes"), ("fittings", "own_fittings")):
            chosen = {code: typed.get(f"{part}_{name}", "") for name, code in codes.items()}
            setattr(self.instance, target, {code: one for code, one in chosen.items() if one})
        if typed.get("no_logo") and not typed.get("new_logo"):
            self.instance.logo, self.instance.logo_type = b"", ""
        return typed


def _kind_labels() -> dict[str, str]:
    return {one.code: one.label for one in kinds().values()}
