"""A new job, blank or from a file, as forms."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile

from kyrtos.shops.one_line import judge
from sizing.editing.sentence.read import LONGEST
from sizing.kinds import kinds

LARGEST_JOB_FILE = 1024 * 1024
_LONGEST = 200


def _text(label: str, required: str = "") -> forms.CharField:
    return forms.CharField(
        label=label,
        max_length=_LONGEST,
        required=bool(required),
        error_messages={"required": required},
        widget=forms.TextInput(attrs={"class": "form-control"}),
        validators=[judge],
    )


class NewJobForm(forms.Form):
    """The name of a job, for whom and where it is, and its kind."""

    title = _text("Name of the job", "Give the job a name by which you will find it again.")
    customer = _text("Customer")
    site = _text("Site")
    kind = forms.ChoiceField(
        label="Kind of job",
        error_messages={
            "required": "Choose a kind of job from the list.",
            "invalid_choice": "Choose a kind of job from the list.",
        },
        widget=forms.RadioSelect,
    )
    # what was answered elsewhere and goes along, such as at "Which pump?"
    largest_solid = forms.CharField(max_length=60, required=False, widget=forms.HiddenInput)
    liquid = forms.CharField(max_length=24, required=False, widget=forms.HiddenInput)
    note = forms.CharField(max_length=300, required=False, widget=forms.HiddenInput)

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        field = self.fields["kind"]
        assert isinstance(field, forms.ChoiceField)
        field.choices = [(one.code, f"{one.label}: {one.purpose}") for one in kinds().values()]
        self.fields["title"].widget.attrs["autofocus"] = True
        for name in ("customer", "site"):
            self.fields[name].widget.attrs["list"] = f"{name}s"


class SentenceForm(forms.Form):
    """A job told in words, for whom and where."""

    told = forms.CharField(
        label="The job in words: a sentence, a mail, what was said on the phone",
        max_length=LONGEST,
        error_messages={
            "required": "Write what is known, such as “cellar sump 18 in pit, rises 4 in in 70 s,"
            " 40 ft of 1-1/2 in pvc, 12 ft up”."
        },
        widget=forms.Textarea(attrs={"class": "form-control", "rows": 3}),
    )
    customer = forms.CharField(max_length=_LONGEST, required=False, widget=forms.HiddenInput)
    site = forms.CharField(max_length=_LONGEST, required=False, widget=forms.HiddenInput)

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "in_words_%s"} | given)


class JobFileForm(forms.Form):
    """A job file sent up."""

    file = forms.FileField(
        label="A .json file that “Job file” on a worksheet gave",
        allow_empty_file=True,  # what is wrong with it is told when it is read
        error_messages={
            "required": "The job file was not read: choose a job file first",
            "missing": "The job file was not read: choose a job file first",
        },
        widget=forms.FileInput(attrs={"class": "form-control", "accept": "application/json,.json"}),
    )

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)

    def clean_file(self) -> UploadedFile[bytes]:
        """Raises ValidationError when it is larger than a job file ever is."""
        sent: UploadedFile[bytes] = self.cleaned_data["file"]
        if (sent.size or 0) > LARGEST_JOB_FILE:
            raise forms.ValidationError(
                "The job file was not read: it is larger than 1 MB, and a job file never is"
            )
        return sent
