"""Parts from a table into the catalogue: what would be taken and what is wrong, line by line, before any is."""

import io
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.web.catalogue.models import CataloguePart

CSV = """name;kind;Price;speeds;links;teeth
Long ten;chain;21,50;10;116;
Close ten;Cassette;48;10;;11-12-13-14-15-17-19-21-24-28
No price;chain;;10;114;
Many links;chain;9;10;lots;
Odd;boat;9;;;
;chain;9;10;114;
Long ten;chain;22;10;118;
Toothed;chain;9;10;114;11-28
"""


MANIFEST = """<?xml version="1.0"?>
<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">
<manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>
<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/>
</manifest:manifest>"""


def send(client, content: bytes, name: str = "parts.csv", **more):
    data = {"once": "", "kind": "", "file": SimpleUploadedFile(name, content), **more}
    return client.post(reverse("catalogue:table"), data)


def ods(rows: list[list[str]]) -> bytes:
    """An open document of one sheet, made by hand after its open standard."""
    cells = "".join(
        "<table:table-row>"
        + "".join(
            f'<table:table-cell office:value-type="string"><text:p>{cell}</text:p></table:table-cell>'
            for cell in row
        )
        + "</table:table-row>"
        for row in rows
    )
    names = {
        name: f"urn:oasis:names:tc:opendocument:xmlns:{name}:1.0" for name in ("office", "table", "text")
    }
    spaces = " ".join(f'xmlns:{name}="{uri}"' for name, uri in names.items())
    body = (
        f'<?xml version="1.0"?><office:document-content {spaces} office:version="1.2"><office:body>'
        f'<office:spreadsheet><table:table table:name="a">{cells}</table:table></office:spreadsheet>'
        "</office:body></office:document-content>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as book:
        book.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        book.writestr("META-INF/manifest.xml", MANIFEST)
        book.writestr("content.xml", body)
    return out.getvalue()


def test_lines_are_shown_before_the_good_ones_are_taken(client, owner) -> None:
    client.force_login(owner)
    answer = send(client, CSV.encode())
    assert answer.status_code == 200
    assert "Skipped: 5 lines" in answer.text
    assert "Can be taken: 3 lines" in answer.text
    for said in (
        "line 5",
        "line 6",
        "line 7",
        "line 8",
        "line 9",
        "boat",
        "enter a name",
        "or above, already",
    ):
        assert said in answer.text, said
    assert not CataloguePart.objects.filter(name="Long ten").exists()
    form = next(one for one in forms_of(answer.text) if "rows" in one.fields)
    assert client.post(form.action, form.fields).status_code == 302
    taken = {part.name: part for part in CataloguePart.objects.filter(workshop=owner.workshop)}
    assert (taken["Long ten"].attrs, str(taken["Long ten"].price)) == ({"speeds": 10, "links": 116}, "21.50")
    assert taken["Close ten"].attrs["teeth"] == [11, 12, 13, 14, 15, 17, 19, 21, 24, 28]
    assert "Toothed" not in taken
    assert all(part.fit_class_id for part in taken.values())
    again = send(client, CSV.encode())
    assert "Skipped: 8 lines" in again.text


def test_a_spreadsheet_is_read_too(client, owner) -> None:
    client.force_login(owner)
    rows = [["Name", "Speeds"], ["Twelve", "12"]]
    answer = send(client, ods(rows), "parts.ods", kind="chain")
    assert "Can be taken: 1 line" in answer.text


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("a.csv", b"", "empty"),
        ("a.csv", b"\xff\xfe\x00", "no CSV"),
        ("a.csv", b"name,wings\nx,2\n", "no such column: wings"),
        ("a.csv", b"name,name\nx,2\n", "twice"),
        ("a.csv", b"price\n2\n", "called name"),
        ("a.csv", b"name,kind\n", "no line below"),
        ("a.csv", b'name,kind\n"x', "no CSV"),
        ("a.ods", b"PK nothing", "no spreadsheet"),
        ("a.xlsx", b"", "file"),
    ],
)
def test_what_is_no_table_is_reported(client, owner, name, content, says) -> None:
    client.force_login(owner)
    answer = send(client, content, name)
    assert answer.status_code == 422
    assert says in answer.text


@pytest.mark.parametrize("rows", ["", "{", "[]", "[1]", '[["name"],["x"]]', '[["wings"]]'])
def test_cells_that_were_never_shown_are_refused(client, owner, rows) -> None:
    client.force_login(owner)
    answer = client.post(reverse("catalogue:table-take"), {"once": "", "rows": rows, "kind": ""})
    assert answer.status_code == 422
    assert not CataloguePart.objects.filter(name="x").exists()


def test_an_empty_table_of_a_kind_names_its_columns(client, owner) -> None:
    client.force_login(owner)
    text = client.get(reverse("catalogue:table"), {"kind": "chain", "as": "csv"}).text
    assert text.startswith("name,maker,price,mass_g,place,days,")
    assert "links" in text
