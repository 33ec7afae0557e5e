"""Customers, sites and their photos as forms."""

from __future__ import annotations

from typing import Any

from django import forms

from kyrtos.accounts.figure_field import FigureField, look, tell_system
from kyrtos.customers.models import (
    DEEPEST_FROST_M,
    HIGHEST_M,
    LOWEST_M,
    Customer,
    Place,
    Site,
    folded,
)
from kyrtos.shops.one_line import judge
from sizing.base.units import System


class CustomerForm(forms.ModelForm):  # type: ignore[type-arg]
    """All that is kept of a customer."""

    class Meta:
        model = Customer
        fields = ("name", "phone", "mail", "units", "people", "address", "notes")
        widgets = {
            "people": forms.Textarea(attrs={"rows": 3, "placeholder": "Name, what they do"}),
            "phone": forms.Textarea(attrs={"rows": 2}),
            "mail": forms.Textarea(attrs={"rows": 2}),
            "address": forms.Textarea(attrs={"rows": 3}),
            "notes": forms.Textarea(attrs={"rows": 3}),
        }

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        look(self)
        self.fields["units"].choices = [  # type: ignore[attr-defined]
            ("", "as whoever writes to them"),
            *list(self.fields["units"].choices)[1:],  # type: ignore[attr-defined]
        ]

    def clean_name(self) -> str:
        """One customer of a name: a second one would never be found by it.

        Raises
        ------
        ValidationError
            There is one of that name.
        """
        judge(str(self.cleaned_data["name"]))
        name = " ".join(str(self.cleaned_data["name"]).split())
        same = Customer.objects.filter(shop=self.instance.shop_id, known_as=folded(name))
        if same.exclude(pk=self.instance.pk).exists():
            raise forms.ValidationError("there is a customer of that name: change that one")
        return name


class SiteForm(forms.ModelForm):  # type: ignore[type-arg]
    """All that is kept of a site."""

    altitude_m = FigureField(
        label="Altitude", dimension="length", metric="m", us="ft", low=LOWEST_M, high=HIGHEST_M
    )
    frost_depth_m = FigureField(
        label="Frost goes down to",
        dimension="length",
        metric="m",
        us="ft",
        low=0.0,
        high=DEEPEST_FROST_M,
    )

    class Meta:
        model = Site
        fields = (
            "name",
            "address",
            "people",
            "phone",
            "mail",
            "plus_code",
            "latitude",
            "longitude",
            "altitude_m",
            "frost_depth_m",
            "voltage_v",
            "phases",
            "frequency_hz",
            "water",
            "notes",
        )
        widgets = {
            **{
                name: forms.Textarea(attrs={"rows": 2})
                for name in ("address", "people", "phone", "mail")
            },
            "water": forms.Textarea(attrs={"rows": 3, "placeholder": "pH 7.2\nchloride 90 mg/l"}),
            "notes": forms.Textarea(attrs={"rows": 3}),
        }

    def __init__(self, *args: Any, system: System, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        look(self)
        tell_system(self, system)

    def clean_name(self) -> str:
        """One site of a name at a customer.

        Raises
        ------
        ValidationError
            There is one of that name.
        """
        judge(str(self.cleaned_data["name"]))
        name = " ".join(str(self.cleaned_data["name"]).split())
        here = self.instance
        same = Site.objects.filter(
            shop=here.shop_id, customer=here.customer_id, known_as=folded(name)
        )
        if same.exclude(pk=here.pk).exists():
            raise forms.ValidationError("this customer has a site of that name: change that one")
        return name


class FileForm(forms.Form):
    """A photo or a file, and where in the drawing it belongs."""

    file = forms.FileField(
        label="Photo (JPEG, PNG, WebP) or file (PDF, CSV, XLSX, text)",
        allow_empty_file=True,
        widget=forms.FileInput(
            attrs={"accept": "image/jpeg,image/png,image/webp,.pdf,.csv,.xlsx,.txt,.json"}
        ),
        error_messages={"required": "Choose a photo or a file first."},
    )
    place = forms.ChoiceField(label="It shows", choices=Place.choices)
    keep_position = forms.BooleanField(
        label="keep where it was taken (else that is taken out of the picture)", required=False
    )

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        look(self)
