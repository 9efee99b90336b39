"""Tables out and in: what the workshop keeps as CSV and ODS, and lists it has brought along."""

from __future__ import annotations

import json
from functools import cached_property
from typing import Any

from attrs import frozen
from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from unkett.core.errors import Fault, InputError, bad
from unkett.web.pages.common.answers import answer, download
from unkett.web.pages.common.forms import clean, whole_number
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.common.tables import SHOWN, FileForm, RowsForm
from unkett.web.show.spreadsheets import Rows, rows_of
from unkett.web.transfer.datasets import SHEETS, Dataset, TableLine, import_rows
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may, require


class TakeForm(RowsForm):
    """The cells that were shown, and whether lines may be left out."""

    some = forms.BooleanField(required=False)


@frozen(kw_only=True, slots=False)
class SheetPage:
    """One table: going out, and before it is taken in `rows`."""

    actor: User
    sheet: Dataset
    rows: Rows | None = None
    faults: tuple[Fault, ...] = ()
    taken: int | None = None  # lines that were just stored

    @property
    def may_bring(self) -> bool:
        return self.sheet.comes_in and may(self.actor, self.sheet.policy)

    @cached_property
    def lines(self) -> list[TableLine]:
        return self.sheet.read(self.actor, self.rows) if self.rows else []

    @property
    def good(self) -> list[TableLine]:
        return [line for line in self.lines if not line.faults]

    @property
    def wrong(self) -> list[TableLine]:
        return [line for line in self.lines if line.faults]

    @property
    def good_shown(self) -> list[TableLine]:
        return self.good[:SHOWN]

    @property
    def wrong_shown(self) -> list[TableLine]:
        return self.wrong[:SHOWN]

    @property
    def cells(self) -> str:
        return json.dumps(self.rows, ensure_ascii=False)


def _sheet(code: str) -> Dataset:
    if code not in SHEETS:
        raise Http404
    return SHEETS[code]


@allowed("take-out-tables")
def sheets(request: Request) -> HttpResponse:
    """Every table there is."""
    return answer(request, "transfer/tables.html", list(SHEETS.values()))


@allowed("take-out-tables", "GET", "HEAD", "POST")
def sheet(request: Request, code: str) -> HttpResponse:
    """One table: `?as=csv` or `?as=ods` takes it out; a file that is sent is read and shown, and nothing stored."""
    taken = whole_number(request.GET.get("taken", ""))
    page = SheetPage(actor=request.user, sheet=_sheet(code), taken=taken)
    if request.method != "POST":
        rows: Any = list(page.sheet.rows(request.user)) if request.GET.get("as") else []
        return download(request, code, None, rows) or answer(request, "transfer/sheet.html", page)
    if not page.sheet.comes_in:
        raise Http404
    require(request.user, page.sheet.policy)
    try:
        file = clean(FileForm(request.POST, request.FILES))["file"]
        page = SheetPage(actor=request.user, sheet=page.sheet, rows=rows_of(file.name, file.read()))
        if not page.lines:
            raise bad("file", "a head and no line below it")
    except InputError as error:
        page = SheetPage(actor=request.user, sheet=page.sheet, faults=tuple(error.faults))
        return answer(request, "transfer/sheet.html", page, status=422)
    return answer(request, "transfer/sheet.html", page)


@allowed("take-out-tables", "POST")
def take(request: Request, code: str) -> HttpResponse:
    """Take the table that was shown, or the good lines of it."""
    wanted = _sheet(code)
    if not wanted.comes_in:
        raise Http404
    data = clean(TakeForm(request.POST))
    try:
        number = import_rows(actor=request.user, code=code, rows=data["rows"], all_or_none=not data["some"])
    except InputError as error:
        page = SheetPage(actor=request.user, sheet=wanted, faults=tuple(error.faults[:SHOWN]))
        return answer(request, "transfer/sheet.html", page, status=422)
    return redirect(f"{reverse('tables:sheet', args=[code])}?taken={number}")
