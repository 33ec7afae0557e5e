"""The house's own values over a rule, as a form."""

from __future__ import annotations

from typing import Any

from django import forms

from kyrtos.house_rules.models import HouseRule
from sizing.base.rules import PARTS, Part, Rule
from sizing.base.units import System

LABELS: dict[Part, str] = {"low": "Low", "usual": "Usual", "high": "High"}
LONGEST_REASON = 240


class RuleForm(forms.Form):
    """A field for each part of a rule that decides something, and the reason why."""

    reason = forms.CharField(label="Why", max_length=LONGEST_REASON, required=False)

    def __init__(
        self, rule: Rule, system: System, house: HouseRule | None, data: Any = None
    ) -> None:
        super().__init__(data, initial={"reason": house.reason if house else ""})
        self.rule, self.system = rule, system
        for part in PARTS:
            if part in rule.parts:
                self.fields[part] = self._field(part, house)
        self.order_fields([*PARTS, "reason"])
        for name, field in self.fields.items():
            field.widget.attrs |= {"class": "form-control", "autocomplete": "off", "id": name}

    def _field(self, part: Part, house: HouseRule | None) -> forms.CharField:
        own = house.part(part) if house else None
        shown = self.rule.shown(self.rule.part(part) if own is None else own, self.system)
        return forms.CharField(label=LABELS[part], max_length=60, required=False, initial=shown)

    @property
    def typed(self) -> dict[str, str]:
        """What was typed, by part."""
        return {part: self.cleaned_data.get(part, "") for part in self.rule.parts}
