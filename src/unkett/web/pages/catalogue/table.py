"""Parts from a table into the catalogue: a file sent, its lines shown with what is wrong, the good ones taken."""

from __future__ import annotations

import json
from functools import cached_property

from attrs import frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError, bad
from unkett.core.vocabulary import KINDS
from unkett.web.catalogue.importing import Line, lines_of, take_lines, template_of
from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.common.tables import SHOWN, FileForm, RowsForm
from unkett.web.show.spreadsheets import Rows, rows_of
from unkett.web.workshop.models import User


class KindFileForm(FileForm):
    """A table, and the kind of the lines that name none."""

    kind = forms.ChoiceField(required=False, choices=lambda: [("", ""), *((name, name) for name in KINDS)])


class KindRowsForm(RowsForm):
    """The cells that were shown, sent back."""

    kind = forms.CharField(required=False, max_length=40)


@frozen(kw_only=True, slots=False)
class TablePage:
    """A table before it is taken: `rows` are its cells, none yet at first."""

    actor: User
    kind: str = ""
    rows: Rows | None = None
    faults: tuple[Fault, ...] = ()

    @property
    def kinds(self) -> list[tuple[str, str]]:
        return sorted(((name, kind.title) for name, kind in KINDS.items()), key=lambda pair: pair[1])

    @cached_property
    def lines(self) -> list[Line]:
        return lines_of(self.actor, self.rows, self.kind) if self.rows else []

    @property
    def good(self) -> list[Line]:
        return [line for line in self.lines if not line.faults]

    @property
    def wrong(self) -> list[Line]:
        return [line for line in self.lines if line.faults]

    @property
    def good_shown(self) -> list[Line]:
        return self.good[:SHOWN]

    @property
    def wrong_shown(self) -> list[Line]:
        return self.wrong[:SHOWN]

    @property
    def cells(self) -> str:
        return json.dumps(self.rows, ensure_ascii=False)


@allowed("change-catalogue", "GET", "HEAD", "POST")
def table(request: Request) -> HttpResponse:
    """Send a table and see what would be taken of it, line by line; `?kind=…&as=csv` is an empty one."""
    page = TablePage(actor=request.user, kind=request.GET.get("kind", ""))
    if request.method != "POST":
        head = template_of(page.kind) if page.kind in KINDS else []
        return download(request, f"parts-{page.kind}", None, head) or answer(
            request, "catalogue/table.html", page
        )
    try:
        data = clean(KindFileForm(request.POST, request.FILES))
        page = TablePage(
            actor=request.user, kind=data["kind"], rows=rows_of(data["file"].name, data["file"].read())
        )
        status = 200 if page.good or page.wrong else 422
        if status == 422:
            raise bad("file", "a head and no line below it")
    except InputError as error:
        page, status = TablePage(actor=request.user, kind=page.kind, faults=tuple(error.faults)), 422
    return answer(request, "catalogue/table.html", page, status=status)


@allowed("change-catalogue", "POST")
def take(request: Request) -> HttpResponse:
    """Import the valid rows of the table that was shown."""
    data = clean(KindRowsForm(request.POST))
    take_lines(actor=request.user, rows=data["rows"], kind=data["kind"])
    return redirect("catalogue:parts")
