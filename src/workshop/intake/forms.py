"""What people send to the order book."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile

from kizami.artwork.shelf import LARGEST_PARCEL_BYTES
from kizami.wording.order_list import LARGEST_LIST_BYTES

__all__ = ["LARGEST_REQUEST_BYTES", "LogosForm", "TakeListForm"]

#: A form's own fields and boundaries come on top of the file.
LARGEST_REQUEST_BYTES = LARGEST_LIST_BYTES + LARGEST_PARCEL_BYTES + 256 * 1024


class _Files(forms.FileField):
    """Any number of files, none among them."""

    def __init__(self, **options: Any) -> None:
        super().__init__(widget=_FilesInput(), **options)

    def clean(self, data: Any, initial: Any = None) -> list[UploadedFile]:
        """Every file looked at on its own; their sum is bounded by the request."""
        files = data if isinstance(data, list) else [data] if data else []
        return [super(_Files, self).clean(file, initial) for file in files]


class _FilesInput(forms.ClearableFileInput):
    allow_multiple_selected = True


class LogosForm(forms.Form):
    """Logo files, or zips of them."""

    logos = _Files(required=False, max_length=200, allow_empty_file=True)

    def content(self) -> list[tuple[str, bytes]]:
        """Each file's name and bytes."""
        return [(file.name or "logo", file.read()) for file in self.cleaned_data["logos"]]


class TakeListForm(forms.Form):
    """A file, or rows pasted from elsewhere; exactly one of the two."""

    logos = _Files(required=False, max_length=200, allow_empty_file=True)
    file = forms.FileField(required=False, label="Order list")
    pasted = forms.CharField(
        required=False, widget=forms.Textarea, max_length=LARGEST_LIST_BYTES, strip=False
    )
    name = forms.CharField(required=False, max_length=200)
    source = forms.CharField(required=False, max_length=80)

    def clean(self) -> dict[str, object]:
        """Say which of the two is missing or too many, and which limit was met."""
        data = super().clean() or {}
        file = data.get("file")
        pasted = str(data.get("pasted") or "")
        if self.errors:
            return data
        if isinstance(file, UploadedFile) and pasted.strip():
            raise forms.ValidationError("Choose a file or paste rows, not both.")
        if isinstance(file, UploadedFile):
            if file.size is not None and file.size > LARGEST_LIST_BYTES:
                raise forms.ValidationError(too_large(file.size))
        elif not pasted.strip():
            raise forms.ValidationError("Choose a file or paste rows with a header row.")
        return data

    def logo_files(self) -> list[tuple[str, bytes]]:
        """Name and bytes of each logo file that came beside the list."""
        return [(file.name or "logo", file.read()) for file in self.cleaned_data["logos"]]

    def content(self) -> tuple[bytes, str]:
        """The list's bytes and its name."""
        file = self.cleaned_data.get("file")
        name = str(self.cleaned_data.get("name") or "").strip()
        if isinstance(file, UploadedFile):
            return file.read(), name or (file.name or "order list")
        return str(self.cleaned_data["pasted"]).encode(), name or "pasted rows"


def too_large(size: int) -> str:
    """The sentence for a list above the limit."""
    return (
        f"That is {size / 1024 / 1024:.0f} MB; an order list may have at most "
        f"{LARGEST_LIST_BYTES // 1024 // 1024} MB. Nothing was taken in. Split it into several lists."
    )
