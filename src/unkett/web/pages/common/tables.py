"""A table on its way in: the file that is sent, and the cells that were shown, sent back to be taken."""

from __future__ import annotations

import json
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from unkett.web.show.spreadsheets import Rows

FILE_MOST = 1_500_000
SHOWN = 200


class FileForm(forms.Form):
    """A table as a file."""

    file = forms.FileField(error_messages={"required": "choose a file"})

    def clean_file(self) -> Any:
        """Refuse a file that is larger than the server takes."""
        file = self.cleaned_data["file"]
        if file.size > FILE_MOST:
            raise ValidationError(f"{file.size} bytes; at most {FILE_MOST} are taken")
        return file


class RowsForm(forms.Form):
    """The cells that were shown, sent back."""

    rows = forms.CharField()

    def clean_rows(self) -> Rows:
        """Refuse what is not rows of text."""
        try:
            rows = json.loads(self.cleaned_data["rows"])
        except ValueError as error:
            raise ValidationError("cells that cannot be read: send the file again") from error
        if (
            not isinstance(rows, list)
            or not rows
            or not all(isinstance(row, list) and all(isinstance(cell, str) for cell in row) for row in rows)
        ):
            raise ValidationError("cells that cannot be read: send the file again")
        return rows
