"""Installed pumps, events and reminders as forms."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django import forms
from django.utils import timezone

from kyrtos.accounts.figure_field import NumberField, look
from kyrtos.installations import days
from kyrtos.installations.models import Event, InstalledPump, Reminder
from sizing.kinds import kinds
from sizing.pump.catalogue_columns import families

MOST_MONEY, MOST_HOURS, MOST_HOURS_A_YEAR = 1e7, 1e6, 8784.0


def _date_field(form: Any, name: str) -> None:
    form.fields[name].widget = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")


def _sensible_day(day: date | None, *, ahead: timedelta = days.TOMORROW) -> date | None:
    try:
        return None if day is None else days.sensible(day, ahead=ahead)
    except days.NoSuchDay as problem:
        raise forms.ValidationError(str(problem)) from None


class PumpForm(forms.ModelForm):  # type: ignore[type-arg]
    """All that is kept of a pump that stands somewhere."""

    price = NumberField(label="Price", low=0, high=MOST_MONEY, required=False)
    hours_per_year = NumberField(
        label="Running hours a year", low=0, high=MOST_HOURS_A_YEAR, required=False
    )

    class Meta:
        model = InstalledPump
        fields = (
            "maker",
            "model",
            "family",
            "serial",
            "place",
            "installed",
            "installer",
            "kind",
            "warranty_until",
            "price",
            "hours_per_year",
            "settings",
            "parts",
        )
        widgets = {
            "settings": forms.Textarea(attrs={"rows": 2}),
            "parts": forms.Textarea(attrs={"rows": 2}),
        }

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        for name, codes in (
            ("family", families()),
            ("kind", {one.code: one.label for one in kinds().values()}),
        ):
            self.fields[name] = forms.ChoiceField(
                label=name.capitalize() if name == "family" else "Kind of job",
                required=False,
                choices=[("", "not known"), *codes.items()],
            )
        for name in ("installed", "warranty_until"):
            _date_field(self, name)
        look(self)
        self.fields["model"].widget.attrs["list"] = "models"

    def clean_installed(self) -> date | None:
        """A day that can be."""
        return _sensible_day(self.cleaned_data["installed"])

    def clean_warranty_until(self) -> date | None:
        """A day that can be."""
        return _sensible_day(self.cleaned_data["warranty_until"], ahead=days.PLANNED)


class EventForm(forms.ModelForm):  # type: ignore[type-arg]
    """Something that happened to a pump."""

    cost = NumberField(label="Cost", low=0, high=MOST_MONEY, required=False)
    hours = NumberField(label="Hours on its counter", low=0, high=MOST_HOURS, required=False)
    token = forms.UUIDField(required=False, widget=forms.HiddenInput)

    class Meta:
        model = Event
        fields = ("kind", "on", "cause", "cost", "hours", "text")
        widgets = {"text": forms.Textarea(attrs={"rows": 2})}
        labels = {"kind": "What happened", "on": "On", "cause": "Why, if it failed", "text": "Note"}

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "event-%s"} | given)
        _date_field(self, "on")
        look(self)
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"event-{name}"
        kinds_of_event = [("", "choose"), *Event.Kind.choices]
        self.fields["kind"].choices = kinds_of_event  # type: ignore[attr-defined]
        self.fields["cause"].widget.attrs["list"] = "causes"
        self.fields["on"].initial = timezone.localdate()

    def clean_on(self) -> date | None:
        """A day that can be."""
        return _sensible_day(self.cleaned_data["on"])


class ReminderForm(forms.ModelForm):  # type: ignore[type-arg]
    """Something that is to be done at a pump."""

    every_months = forms.IntegerField(
        label="and again every … months", min_value=1, max_value=240, required=False
    )
    every_hours = forms.IntegerField(
        label="or every … running hours", min_value=1, max_value=200_000, required=False
    )

    class Meta:
        model = Reminder
        fields = ("text", "due", "every_months", "every_hours")
        labels = {"text": "To be done", "due": "By"}

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "reminder-%s"} | given)
        _date_field(self, "due")
        look(self)
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"reminder-{name}"
        self.fields["due"].required = False

    def clean_due(self) -> date | None:
        """A day that can be."""
        return _sensible_day(self.cleaned_data["due"], ahead=days.PLANNED)

    def clean(self) -> dict[str, Any]:
        """A day, or running hours from which it is reckoned.

        Raises
        ------
        ValidationError
            Neither.
        """
        typed = super().clean() or {}
        if not self.errors and not typed.get("due") and not typed.get("every_hours"):
            self.add_error("due", "by which day, or every how many running hours?")
        return typed
