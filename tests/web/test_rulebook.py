"""The rule book: made from the declarations, current, and the workshop's own settings and names."""

import json

import pytest
from django.urls import reverse

from tests.cases.export import text
from unkett.core.formats.schema import build_schema
from unkett.core.rules import RULES
from unkett.core.settings import SETTINGS
from unkett.core.standards import table_names
from unkett.local.state import PROJECT
from unkett.web.bikes.queries import settings_of
from unkett.web.pages.rulebook.page import EXAMPLES
from unkett.web.rulebook.models import ShopName
from unkett.web.rulebook.queries import known_codes
from unkett.web.workshop.models import LogEntry


def test_every_rule_and_table_has_its_page(client, owner) -> None:
    client.force_login(owner)
    for rule in RULES.values():
        page = client.get(reverse("rulebook:rule", args=[rule.id]))
        assert page.status_code == 200, rule.id
        assert "Worked examples" in page.text
    for name in table_names():
        assert client.get(reverse("rulebook:table", args=[name])).status_code == 200, name
    assert client.get("/rules/made-up/").status_code == 404
    assert client.get("/rules/tables/made-up/").status_code == 404
    book = client.get(reverse("rulebook:book"), {"find": "freehub"}).text
    assert "Cassette sits on the freehub body" in book
    assert "Pedals screw" not in book


def test_the_worked_cases_are_current() -> None:
    assert EXAMPLES.read_text(encoding="utf-8") == text(), "write them anew, see CONTRIBUTING.md"


def test_the_published_schema_is_current(client, owner) -> None:
    published = json.loads((PROJECT / "docs/unkett.build.schema.json").read_text(encoding="utf-8"))
    assert published == json.loads(json.dumps(build_schema()))
    client.force_login(owner)
    assert client.get(reverse("rulebook:schema")).json() == published


def test_settings_are_the_workshops_and_logged(client, owner, mechanic, stranger) -> None:
    client.force_login(owner)
    answer = client.post(reverse("rulebook:setting-change"), {"name": "index_clean_mm", "value": "0,4"})
    assert answer.status_code == 302
    owner.workshop.refresh_from_db()
    assert settings_of(owner).number("index_clean_mm") == 0.4
    assert settings_of(stranger).number("index_clean_mm") == SETTINGS["index_clean_mm"].default
    line = LogEntry.objects.get(verb="set")
    assert (line.before, line.after) == ({"index_clean_mm": None}, {"index_clean_mm": 0.4})
    assert "Olla" in client.get(reverse("rulebook:settings")).text
    client.post(reverse("rulebook:setting-change"), {"name": "index_clean_mm", "value": ""})
    owner.workshop.refresh_from_db()
    assert owner.workshop.settings == {}


@pytest.mark.parametrize(
    ("name", "value", "status"),
    [("index_clean_mm", "9", 422), ("index_clean_mm", "soft", 422), ("mood", "1", 404)],
)
def test_bad_settings_store_nothing(client, owner, name, value, status) -> None:
    client.force_login(owner)
    answer = client.post(reverse("rulebook:setting-change"), {"name": name, "value": value})
    assert answer.status_code == status
    if status == 422:
        assert f'id="fault-{name}"' in answer.text
    owner.workshop.refresh_from_db()
    assert owner.workshop.settings == {}


def test_bench_names(client, owner) -> None:
    client.force_login(owner)
    assert ShopName.objects.count() == 0
    add = reverse("rulebook:name-add")
    assert client.post(add, {"code": "spline9", "name": "old nine"}).status_code == 302
    for code, name, says in (
        ("spline9", "old nine", "that name already"),
        ("splin9", "x", "did you mean"),
        ("", "x", "required"),
    ):
        answer = client.post(add, {"code": code, "name": name})
        assert answer.status_code == 422
        assert says in answer.text
    row = ShopName.objects.get()
    assert client.post(reverse("rulebook:name-remove", args=[row.pk])).status_code == 302
    assert ShopName.objects.count() == 0


def test_codes_are_known() -> None:
    assert {"spline9", "bsa", "six_bolt", "130x5", "7x9"} <= set(known_codes())


def test_a_table_without_codes_is_led_by_its_own_first_column(client, owner) -> None:
    client.force_login(owner)
    page = client.get("/rules/tables/needs/").text
    assert '<th scope="row">cup spacers' in page
