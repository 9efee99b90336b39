"""Tables as files: CSV and spreadsheets read as rows of text, rows written as CSV and as ODS."""

from __future__ import annotations

import csv
import io
import json
import os
import re
import subprocess
import sys
import zipfile
from collections.abc import Iterable, Sequence
from typing import Any
from xml.sax.saxutils import escape, quoteattr

from unkett.core.errors import bad
from unkett.web.show import sheet_reader

LINES_MOST = 2000
CELL_MOST = 2000
READ_SECONDS = 30
TOO_LARGE_SAYS = (
    f"a spreadsheet that unpacks to more than is read; save the {LINES_MOST} lines that are wanted as CSV"
)
Rows = list[list[str]]
FORMULA = ("=", "+", "-", "@", "\t", "\r")  # what a spreadsheet would take for a formula
NUMBER = re.compile(r"[+-]?\d+(?:[.,]\d+)?")
UNSEEN = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufffe\uffff]")  # what XML cannot hold


def rows_of(name: str, content: bytes) -> Rows:
    """Return the cells of the first sheet as text. Raises InputError for a file that is no table or is too long."""
    rows = _sheet_rows(content) if name.lower().endswith((".ods", ".xlsx")) else _csv_rows(content)
    rows = [[_unquoted(cell.strip()) for cell in row] for row in rows]
    if not any(any(row) for row in rows):
        raise bad("file", "an empty table")
    if len(rows) - 1 > LINES_MOST:
        raise bad("file", f"{len(rows) - 1} lines; at most {LINES_MOST} are taken at once")
    if any(len(cell) > CELL_MOST for row in rows for cell in row):
        raise bad("file", f"a cell of more than {CELL_MOST} characters")
    return rows


def _csv_rows(content: bytes) -> Rows:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise bad("file", "no CSV in UTF-8, and its name ends in neither .ods nor .xlsx") from error
    first = text.partition("\n")[0]
    between = max(";,\t", key=first.count)
    try:
        return list(csv.reader(io.StringIO(text), delimiter=between, strict=True))
    except csv.Error as error:
        raise bad("file", f"no CSV: {error}") from error


def _sheet_rows(content: bytes) -> Rows:
    """Return the cells that a process of its own reads; one that it cannot read within its limits is too large."""
    try:
        done = subprocess.run(  # noqa: S603 - our own module
            [sys.executable, "-m", sheet_reader.__name__],
            input=content,
            capture_output=True,
            check=False,
            timeout=READ_SECONDS,
            env={"PYTHONPATH": os.pathsep.join(sys.path)},
        )
    except subprocess.TimeoutExpired as error:
        raise bad("file", TOO_LARGE_SAYS) from error
    if done.returncode == sheet_reader.UNREADABLE:
        raise bad("file", "no spreadsheet that can be read")
    if done.returncode:
        raise bad("file", TOO_LARGE_SAYS)
    rows: Rows = json.loads(done.stdout)
    return rows


def _unquoted(cell: str) -> str:
    """Return a text without the mark that `safe` put before it."""
    return cell[1:] if cell[:1] == "'" and cell[1:].startswith(FORMULA) else cell


def safe(value: Any) -> str:
    """A cell that no spreadsheet runs as a formula: a text that would be one gets a quote before it, a number stays."""
    text = "" if value is None else UNSEEN.sub("", str(value))
    return f"'{text}" if text.startswith(FORMULA) and not NUMBER.fullmatch(text) else text


def to_csv(rows: Iterable[Sequence[Any]]) -> str:
    """Rows as CSV."""
    out = io.StringIO()
    csv.writer(out).writerows([safe(cell) for cell in row] for row in rows)
    return out.getvalue()


ODS = "application/vnd.oasis.opendocument.spreadsheet"
_NAMES = " ".join(
    f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{full}:1.0"'
    for name, full in (("office", "office"), ("table", "table"), ("text", "text"))
)
_MANIFEST = (
    '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest manifest:version="1.2" '
    'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{ODS}"/>'
    '<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>'
)


def to_ods(title: str, rows: Iterable[Sequence[Any]]) -> bytes:
    """Rows as an OpenDocument spreadsheet of one sheet: numbers as numbers, all else as text, nothing as a formula.

    Written here because the libraries for it take over a second for a thousand lines, and a bin has a hundred thousand.
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as book:
        book.writestr(zipfile.ZipInfo("mimetype"), ODS)
        book.writestr("META-INF/manifest.xml", _MANIFEST)
        with book.open("content.xml", "w") as content:
            content.write(
                f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {_NAMES} office:version="1.2">'
                f"<office:body><office:spreadsheet><table:table table:name={quoteattr(title)}>".encode()
            )
            for row in rows:
                cells = "".join(_cell(cell) for cell in row)
                content.write(f"<table:table-row>{cells}</table:table-row>".encode())
            content.write(b"</table:table></office:spreadsheet></office:body></office:document-content>")
    return out.getvalue()


def _cell(value: Any) -> str:
    if value is None or value == "":
        return "<table:table-cell/>"
    text = escape(UNSEEN.sub("", str(value)))
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        return (
            f'<table:table-cell office:value-type="float" office:value="{value!r}"><text:p>{text}</text:p>'
            "</table:table-cell>"
        )
    return f'<table:table-cell office:value-type="string"><text:p>{text}</text:p></table:table-cell>'
