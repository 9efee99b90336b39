"""What the workshop keeps as tables: out, in again to the same, and what is wrong reported by line and column."""

import csv
import io
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.urls import reverse
from python_calamine import CalamineWorkbook

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.core.formats.reader import read_build
from unkett.web.bikes.fitting import copy_bike, take_off
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bin.services import Kept, enter_piece, leave_bin
from unkett.web.catalogue.models import StockItem
from unkett.web.catalogue.stock import add_stock
from unkett.web.plans.services import start_plan
from unkett.web.show.spreadsheets import rows_of, safe, to_csv, to_ods
from unkett.web.supply.models import Offer, OrderItem
from unkett.web.supply.services import keep_supplier
from unkett.web.transfer.datasets import SHEETS
from unkett.web.wear.models import WearReading
from unkett.web.wear.services import read_wear
from unkett.web.workshop.models import Customer

NASTY = '=1+1|"x"; ,é\n'


def send(client, code, text, name="t.csv"):
    content = text if isinstance(text, bytes) else text.encode()
    return client.post(
        reverse("tables:sheet", args=[code]), {"file": SimpleUploadedFile(name, content), "once": ""}
    )


def take(client, code, text, **more):
    """The table sent, shown, and taken as shown."""
    shown = send(client, code, text, **more)
    assert shown.status_code == 200, shown.text
    form = next(form for form in forms_of(shown.text) if "rows" in form.fields)
    return client.post(form.action, form.fields)


def out(client, code) -> list[list[str]]:
    text = client.get(reverse("tables:sheet", args=[code]), {"as": "csv"}).text
    return list(csv.reader(io.StringIO(text)))


@pytest.fixture
def kept(client, owner, bike):
    """Something in every table."""
    client.force_login(owner)
    Customer.objects.update(reach="+1 555", note="=SUM(A1)")
    enter_piece(
        actor=owner, kind="chain", name="-Old", values={"speeds": 9, "links": 110}, kept=Kept(box="C 1")
    )
    add_stock(actor=owner, sort="spacer", name="5 mm", count=7, box="S")
    add_stock(actor=owner, sort="brake_housing", length_mm=1500.5, count=None)
    read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.25, km=100)
    keep_supplier(actor=owner, supplier_id=None, name="By phone", url="")


@pytest.mark.parametrize("code", ["customers", "bikes", "bin", "counted", "wear"])
def test_a_table_taken_out_comes_in_as_the_same(client, owner, bike, kept, code) -> None:
    before = out(client, code)
    assert len(before) > 1
    text = client.get(reverse("tables:sheet", args=[code]), {"as": "csv"}).text
    if code == "wear":
        WearReading.objects.all().delete()
    elif code == "counted":
        StockItem.objects.all().delete()
    elif code == "bin":
        piece = BikePart.objects.get(where="bench")
        leave_bin(actor=owner, part_id=piece.pk, to="sold")
    else:
        Bike.objects.all().delete()
        Customer.objects.all().delete()
    assert take(client, code, text).status_code == 302
    drop = {"bin": [0], "bikes": [7]}.get(code, [])  # the label is a new piece's, the verdict of a bare bike

    def error(rows):
        return [[cell for n, cell in enumerate(row) if n not in drop] for row in rows]

    assert error(out(client, code)) == error(before)


def test_ods_holds_the_same_and_no_formula(client, owner, kept) -> None:
    content = client.get(reverse("tables:sheet", args=["customers"]), {"as": "ods"}).content
    rows = CalamineWorkbook.from_filelike(io.BytesIO(content)).get_sheet_by_index(0).to_python()
    assert rows[1][2] == "=SUM(A1)"
    assert b"table:formula" not in content
    assert out(client, "customers")[1][2] == "'=SUM(A1)"
    Bike.objects.all().delete()
    Customer.objects.all().delete()
    assert take(client, "customers", content, name="c.ods").status_code == 302
    assert Customer.objects.get().note == "=SUM(A1)"


def test_text_goes_out_and_in_unchanged() -> None:
    rows = [["a", "b"], [NASTY.strip(), "-3.5"], ["@x", "+44 12"], ["-", "'quoted"]]
    assert rows_of("t.csv", to_csv(rows).encode()) == rows
    assert rows_of("t.ods", to_ods("t & <t>", rows)) == rows
    assert safe("-3,5") == "-3,5"
    assert safe("-3x") == "'-3x"
    assert safe("a\x00b") == "ab"


@pytest.mark.parametrize(
    ("code", "line", "says"),
    [
        ("customers", "name\nEbba Holm", "line 2"),
        ("customers", "name\nNew\nnew", "already"),
        ("bikes", "name,use\nX,hovering", "use"),
        ("bikes", "name,customer,frame_number\nPier bike,Ebba Holm,PB-1", "already"),
        ("bin", "kind,value\nchain,-1", "value"),
        ("bin", "kind,figures\nchain,links many", "links"),
        ("bin", 'kind,figures\nchain,"{""teeth"": 1}"', "no teeth"),
        ("bin", "kind\nflux capacitor", "kind"),
        ("counted", "sort,count\nspacer,-2", "count"),
        ("wear", "bike,part,reading,value\nNo bike,chain,chain_pct,0.3", "no such bike"),
        ("wear", "bike,part,reading,value\nPier bike,chain,chain_pct,99", "99 given"),
        ("wear", "bike,part,reading,value\nPier bike,chain,pad_mm,2", "has no"),
        ("wear", "bike,part,reading,value,on\nPier bike,chain,chain_pct,0.3,2999-01-01", "still to come"),
        ("offers", "supplier,code,name\nNobody,A,B", "no supplier"),
        ("orders", "supplier,kind,name,count\nBy phone,chain,Chain,0", "one at least"),
    ],
)
def test_a_wrong_line_is_reported_and_nothing_stored(client, owner, bike, kept, code, line, says) -> None:
    before = out(client, code)
    shown = send(client, code, line)
    assert shown.status_code == 200
    assert "Wrong: 1 line" in shown.text
    assert says in shown.text
    rows = next(form for form in forms_of(shown.text) if "rows" in form.fields).fields["rows"]
    answer = client.post(reverse("tables:take", args=[code]), {"rows": rows, "once": ""})
    assert answer.status_code == 422
    assert says in answer.text
    assert out(client, code) == before


@pytest.mark.parametrize(
    ("code", "text", "says"),
    [("bikes", "bike name\nX", "no such column"), ("bikes", "use\ncity", "no column is called"),
     ("bikes", "name,name\nX,Y", "twice"), ("bikes", "", "empty"), ("bikes", "name\n", "no line below"),
     ("bikes", b"\xff\xfe\x00", "UTF-8")],
)  # fmt: skip
def test_a_file_that_is_no_table_is_reported(client, owner, kept, code, text, says) -> None:
    answer = send(client, code, text)
    assert answer.status_code == 422
    assert says in answer.text
    assert send(client, "moves", "at\nnow").status_code == 404


def test_good_lines_are_taken_alone_when_wished(client, owner, bike, kept) -> None:
    assert (
        take(
            client, "bikes", "Bike;Customer;How to reach them\nNew one;Sigga;by the pier\n;Sigga;x"
        ).status_code
        == 302
    )
    made = Bike.objects.get(name="New one")
    assert (made.customer.name, made.customer.reach) == ("Sigga", "by the pier")


def test_offers_and_orders_by_table(client, owner, kept, catalogue) -> None:
    offers = "supplier,code,kind,name,price,stock\nby phone,A 1,cassette,Wide nine,31.50,2"
    assert take(client, "offers", offers).status_code == 302
    assert take(client, "offers", offers.replace("31.50", "30")).status_code == 302
    offer = Offer.objects.get()
    assert (offer.catalogue_part_id, str(offer.price)) == (catalogue["Wide nine"].pk, "30.00")
    order = "supplier,kind,name,count,code\nBy phone,cassette,Wide nine,3,A 1"
    assert take(client, "orders", order).status_code == 302
    line = OrderItem.objects.get()
    assert (line.count, line.plan_id, line.order.state) == (3, None, "draft")
    assert out(client, "orders")[1][1:] == [
        "By phone",
        "draft",
        "A 1",
        "cassette",
        "Wide nine",
        "",
        "3",
        "0",
        "",
    ]


def test_the_ledger_goes_out(client, owner, bike, kept) -> None:
    bike.refresh_from_db()
    take_off(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain")
    rows = out(client, "moves")
    assert rows[1][5:7] == ["nowhere", "in the bin"]
    assert rows[-1][5:7] == ["Pier bike, chain", "in the bin"]


@pytest.mark.parametrize("code", SHEETS)
def test_every_table_has_its_page(client, owner, kept, code) -> None:
    assert client.get(reverse("tables:sheet", args=[code])).status_code == 200
    assert client.get(reverse("tables:sheet", args=[code]), {"as": "svg"}).status_code == 404
    assert client.get(reverse("tables:list")).text.count("as=ods") == len(SHEETS)


def test_a_workshop_goes_out_as_open_files(owner, bike, kept, stranger, tmp_path) -> None:
    path = tmp_path / "all.zip"
    call_command("export_workshop", str(path), owner.workshop.name, stdout=io.StringIO())
    with zipfile.ZipFile(path) as out:
        names = out.namelist()
        assert {f"tables/{code}.csv" for code in SHEETS} <= set(names)
        build = out.read(next(name for name in names if name.startswith("bikes/")))
        assert read_build(build).name == "Pier bike"
        assert "bring in" in out.read("log.csv").decode()
    assert path.stat().st_mode & 0o077 == 0
    for wrong in ("No such", ""):
        with pytest.raises(CommandError, match="which workshop"):
            call_command("export_workshop", str(path), wrong)
    with pytest.raises(CommandError, match="cannot be written"):
        call_command("export_workshop", str(tmp_path / "no" / "x.zip"), owner.workshop.name)


def test_nothing_private_is_kept_by_a_browser(client, owner, bike, kept) -> None:
    for url in (reverse("bikes:stand", args=[bike.pk]), reverse("bikes:build-file", args=[bike.pk]),
                reverse("tables:sheet", args=["bin"]) + "?as=ods"):  # fmt: skip
        assert "no-store" in client.get(url)["Cache-Control"]


@pytest.mark.parametrize("start", [start_plan, copy_bike])
def test_a_name_too_long_is_reported_not_cut(owner, bike, start) -> None:
    with pytest.raises(InputError, match="at most 120"):
        start(actor=owner, bike_id=bike.pk, name="x" * 121)


def packed(content: bytes) -> bytes:
    """An ODS with this as its content."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(to_ods("x", [["x"]]))) as whole,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as book,
    ):
        for name in ("mimetype", "META-INF/manifest.xml"):
            book.writestr(name, whole.read(name))
        book.writestr("content.xml", content)
    return out.getvalue()


def repeating(rows: int, columns: int) -> bytes:
    """One cell that says it stands a great many times."""
    spaces = " ".join(
        f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
        for name in ("office", "table", "text")
    )
    return (
        f'<?xml version="1.0"?><office:document-content {spaces}><office:body><office:spreadsheet>'
        f'<table:table table:name="x"><table:table-row table:number-rows-repeated="{rows}">'
        f'<table:table-cell office:value-type="string" table:number-columns-repeated="{columns}">'
        "<text:p>x</text:p></table:table-cell></table:table-row></table:table></office:spreadsheet></office:body>"
        "</office:document-content>"
    ).encode()


@pytest.mark.parametrize(
    "content",
    [packed(b" " * 100_000_000), packed(repeating(1_000_000, 1_000)), packed(repeating(30_000, 16_000))],
    ids=["unpacks", "repeats", "wide"],
)
def test_a_small_file_that_unpacks_to_much_is_refused_and_harms_nobody(content) -> None:
    assert len(content) < 500_000
    with pytest.raises(
        InputError, match=r"^file: (a spreadsheet that unpacks to more|no spreadsheet that can be read)"
    ):
        rows_of("t.ods", content)
    assert rows_of("t.ods", packed(repeating(3, 2))) == [["x", "x"]] * 3
