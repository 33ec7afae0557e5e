"""A list sent up as a file, as a form."""

from __future__ import annotations

from typing import Any

from django import forms

from kyrtos.accounts.figure_field import look

LARGEST_LIST = 5_000_000


class ListForm(forms.Form):
    """A list of some kind; whoever takes it says what it may be, and which files it accepts."""

    file = forms.FileField(
        allow_empty_file=True, error_messages={"required": "Choose a file first."}
    )

    def __init__(self, label: str, accept: str, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        self.fields["file"].label = label
        self.fields["file"].widget.attrs["accept"] = accept
        look(self)

    def clean_file(self) -> Any:
        """Not larger than such a list is.

        Raises
        ------
        ValidationError
            It is.
        """
        sent = self.cleaned_data["file"]
        if (sent.size or 0) > LARGEST_LIST:
            raise forms.ValidationError("this file is larger than 5 MB: send it in parts")
        return sent
