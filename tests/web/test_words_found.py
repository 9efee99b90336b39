"""Search that forgives: sizes in any writing, words in any order, half words, a slip of a letter."""

from __future__ import annotations

import pytest

from unkett.web.bikes.models import Bike
from unkett.web.bin.queries import pieces
from unkett.web.catalogue.queries import found_by_words, parts_seen_by
from unkett.web.catalogue.services import add_parts, change_part
from unkett.web.plans.yard import yard
from unkett.web.workshop.models import Customer, Role, User, Workshop
from unkett.web.workshop.search import folded, words_of

pytestmark = pytest.mark.django_db

TEETH = [11, 13, 15, 17, 19, 21, 23, 26, 30, 34]
PARTS = [
    {"kind": "cassette", "name": "Skerry 10, 11–34", "maker": "Quernby", "attrs": {"teeth": TEETH, "speeds": 10}},
    {"kind": "cassette", "name": "Moor 9, 12–36", "maker": "Quernby", "attrs": {"speeds": 9}},
    {"kind": "rotor", "name": "Disc 160, six bolts", "attrs": {"diameter_mm": 160}},
    {"kind": "seatpost", "name": "Post 27.2", "attrs": {"diameter_mm": 27.2}},
    {"kind": "tyre", "name": "Quay 28-622 light", "attrs": {"bsd_mm": 622, "width_mm": 28}},
]  # fmt: skip


@pytest.fixture
def owner() -> User:
    workshop = Workshop.objects.create(name="Lighthouse Cycles")
    add_parts(workshop, [{**part, "price": 1} for part in PARTS])
    return User.objects.create_user("first", workshop=workshop, role=Role.OWNER)


def test_text_is_folded_to_words_and_figures() -> None:
    assert folded("Skerry 10, 11–34", "Cassette") == " skerry 10 11 34 cassette "
    assert words_of("11/34  Cassette 27,2") == ["11 34", "cassette", "27.2"]
    assert words_of(" – ") == []
    assert len(words_of("a b c d e f g h")) == 6


def test_what_is_typed_finds_what_is_meant(owner: User) -> None:
    cases = {
        "11-34": ["Skerry 10, 11–34"],
        "11–34": ["Skerry 10, 11–34"],
        "11/34": ["Skerry 10, 11–34"],
        "11×34": ["Skerry 10, 11–34"],
        "cassette 10": ["Skerry 10, 11–34"],
        "10 cassette": ["Skerry 10, 11–34"],
        "cass": ["Moor 9, 12–36", "Skerry 10, 11–34"],
        "casette 10": ["Skerry 10, 11–34"],
        "cassettte": ["Moor 9, 12–36", "Skerry 10, 11–34"],
        "querbny": ["Moor 9, 12–36", "Skerry 10, 11–34"],
        "60": [],
        "160": ["Disc 160, six bolts"],
        "27,2": ["Post 27.2"],
        "light quay 28/622": ["Quay 28-622 light"],
        "100%": [],
        "_": ["Disc 160, six bolts", "Moor 9, 12–36", "Post 27.2", "Quay 28-622 light", "Skerry 10, 11–34"],
    }
    wrong = {}
    for typed, names in cases.items():
        found = found_by_words(parts_seen_by(owner), owner, typed)
        got = sorted(found.values_list("name", flat=True))
        if got != names:
            wrong[typed] = got
    assert wrong == {}


def test_a_changed_name_is_found_by_its_new_words(owner: User) -> None:
    part = parts_seen_by(owner).get(kind="rotor")
    values = {"name": "Rotor 180", "maker": "", "price": 1, "attrs": {"diameter_mm": 180}}
    change_part(actor=owner, part_id=part.pk, version=part.version, values=values)
    assert found_by_words(parts_seen_by(owner), owner, "180").get() == part
    assert not found_by_words(parts_seen_by(owner), owner, "disc").exists()


def test_bikes_are_found_by_customer_number_and_a_slip(owner: User) -> None:
    customer = Customer.objects.create(workshop=owner.workshop, name="Halvard Brae")
    bike = Bike.objects.create(
        workshop=owner.workshop, name="Blue tourer", use="touring", frame_number="LK-4711", customer=customer
    )
    for typed in ("tourer blue", "4711", "LK-4711", "lk 4711", "halvard", "Halward", "BRAE"):
        assert [one.pk for one in yard(owner, typed).bikes] == [bike.pk], typed
    assert yard(owner, "gravel").bikes == ()


def test_a_name_field_says_the_figures_of_a_name_and_what_is_new(client, owner: User) -> None:
    client.force_login(owner)

    def said(typed: str) -> str:
        page = client.get("/catalogue/called/cassette/", {"cassette.name": typed}).text
        return " ".join(page.partition("<output")[2].split())

    assert "11·13·15·17·19·21·23·26·30·34" in said("Skerry 10, 11–34")
    assert "New: not in the catalogue" in said("Tern 13")
    assert "New" not in said("skerry")
    assert "New" not in said("")


def test_a_kind_shows_the_figures_that_matter_as_columns(client, owner: User) -> None:
    client.force_login(owner)
    page = " ".join(client.get("/catalogue/", {"kind": "rotor"}).text.split())
    assert '<th scope="col">Diameter<small> mm</small></th>' in page
    assert '<span class="n-stated">160</span>' in page
    assert ">Diameter<" not in client.get("/catalogue/").text
    assert client.get("/catalogue/", {"kind": "no such"}).status_code == 200


def test_pieces_are_found_by_kind_and_box(owner: User) -> None:
    assert pieces(owner, where="bench", find="cassette 3A").number == 0
