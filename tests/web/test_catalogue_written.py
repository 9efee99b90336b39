"""Parts of one's own: written, changed, copied, taken from a bike's part, retired; seen by the search at once."""

from decimal import Decimal

import pytest
from django.urls import reverse

from tests.web.forms import Form, forms_of
from unkett.core.errors import InputError
from unkett.web.bikes.fitting import fill_part
from unkett.web.bikes.queries import current_bike, settings_of
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import what_goes
from unkett.web.catalogue.services import add_part, change_part, renew_classes, retire_part
from unkett.web.plans.services import swap_part
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import LogEntry

NINE = {"speeds": 9, "teeth": [12, 14, 16, 18, 21, 24, 28, 32, 36], "mount": "spline9"}
NEW = "/catalogue/new/"


def values(**given):
    return {"name": "Filed nine", "maker": "", "price": Decimal("12.50"), "attrs": NINE} | given


def offered(owner, bike) -> dict[str, str]:
    """What the search offers for the cassette, with its verdict."""
    build = current_bike(owner, bike.pk).build
    found = what_goes(owner, build, "cassette", settings_of(owner))
    return {candidate.part.name: candidate.verdict.value for candidate in found.shown}


def part_form(client, url) -> Form:
    """The form of a part's fields on a page."""
    return next(form for form in forms_of(client.get(url).text) if "price" in form.fields)


def test_what_is_written_is_offered_and_what_is_retired_is_not(owner, bike, plan, catalogue) -> None:
    part = add_part(actor=owner, kind="cassette", values=values())
    twin = offered(owner, bike)["Wide nine"]  # the same figures, the same verdict
    assert offered(owner, bike)["Filed nine"] == twin
    eight = values(attrs={"speeds": 8, "teeth": NINE["teeth"][:8], "mount": "spline9"})
    change_part(actor=owner, part_id=part.pk, version=1, values=eight)
    assert offered(owner, bike)["Filed nine"] == "no_go"  # eight sprockets for nine clicks
    retire_part(actor=owner, part_id=part.pk, version=2, retired=True)
    renew_classes(owner.workshop)
    assert "Filed nine" not in offered(owner, bike)
    with pytest.raises(Refused):
        fill_part(actor=owner, bike_id=bike.pk, version=1, slot="cassette", part_id=part.pk)
    with pytest.raises(Refused):
        swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=part.pk)
    retire_part(actor=owner, part_id=part.pk, version=3, retired=False)
    assert offered(owner, bike)["Filed nine"] == "no_go"
    verbs = LogEntry.objects.filter(about="cataloguepart").order_by("pk").values_list("verb", flat=True)
    assert list(verbs) == ["add", "change", "retire", "retire"]


WRONG = [
    ({"name": " "}, "name: enter a name"),
    ({"name": "Eight"}, "name: this part is in the catalogue already"),
    ({"price": Decimal(-1)}, "price: -1 given"),
    (
        {"attrs": {"speeds": 9, "teeth": [11, 12, 13, 14, 15, 16, 17, 18, 19, 20]}},
        "teeth: 10 sprockets given",
    ),
    ({"attrs": {"speeds": 99}}, "speeds: "),
    ({"attrs": {"sprockets": 9}}, "sprockets: unknown"),
]


def test_what_is_wrong_is_named_by_its_field(owner, catalogue) -> None:
    before = CataloguePart.objects.count()
    for given, says in WRONG:
        with pytest.raises(InputError) as error:
            add_part(actor=owner, kind="cassette", values=values(**given))
        faults = [f"{fault.path}: {fault.says}" for fault in error.value.faults]
        assert any(fault.startswith(says) for fault in faults), faults
    with pytest.raises(NotThere):
        add_part(actor=owner, kind="sofa", values=values())
    with pytest.raises(Conflict):
        change_part(actor=owner, part_id=catalogue["Eight"].pk, version=7, values=values())
    assert CataloguePart.objects.count() == before


def test_a_part_in_the_hand_is_written_from_the_drawer(client, owner, plan, catalogue) -> None:
    client.force_login(owner)
    assert "?kind=cassette" in client.get(NEW).text
    drawer = reverse("plans:drawer", args=[plan.pk, "cassette"])
    assert f"{NEW}?kind=cassette&amp;next={drawer}" in client.get(drawer).text
    ask = f"{NEW}?kind=cassette&next={drawer}"
    sent = {
        **part_form(client, ask).fields,
        "name": "Typed nine",
        "price": "dear",
        "speeds": "nine",
        "teeth": "?",
    }
    wrong = client.post(ask, sent)
    assert wrong.status_code == 422
    assert wrong.text.count('aria-invalid="true"') == 3  # price, speeds, teeth at once
    assert 'value="Typed nine"' in wrong.text
    good = {**sent, "price": "9,50", "speeds": "9", "teeth": "12 14 16 18 21 24 28 32 36"}
    assert client.post(ask, good).url == drawer
    typed = CataloguePart.objects.get(name="Typed nine")
    assert (typed.price, typed.attrs) == (Decimal("9.50"), {"speeds": 9, "teeth": NINE["teeth"]})
    assert "Typed nine" in client.get(drawer).text


def test_changed_copied_and_retired_by_the_pages_forms(client, owner, catalogue) -> None:
    client.force_login(owner)
    part = catalogue["Wide nine"]
    like = f"{NEW}?like={part.pk}"
    assert client.post(like, part_form(client, like).fields).status_code == 302
    assert CataloguePart.objects.get(name="Wide nine, copy").attrs == part.attrs
    change = reverse("catalogue:part-change", args=[part.pk])
    sent = {**part_form(client, change).fields, "once": ""}
    assert client.post(change, {**sent, "speeds": "", "mass_g": "310"}).status_code == 302
    part.refresh_from_db()
    assert (part.mass_g, part.attrs) == (
        310,
        {"teeth": NINE["teeth"], "mount": "spline9"},
    )  # cleared is cleared
    late = client.post(change, {**sent, "mass_g": "299"})
    assert late.status_code == 409
    again = next(form for form in forms_of(late.text) if form.action == change)
    assert again.fields["mass_g"] == "299"
    page = reverse("catalogue:part", args=[part.pk])
    retire = reverse("catalogue:part-retire", args=[part.pk])
    for retired in (True, False):
        form = next(form for form in forms_of(client.get(page).text) if form.action == retire)
        assert client.post(retire, form.fields).url == page
        part.refresh_from_db()
        assert part.retired is retired


def test_like_a_part_on_a_bike(client, owner, stranger, bike) -> None:
    client.force_login(owner)
    own = bike.fitted.get(slot="rear_derailleur")
    url = f"{NEW}?of={own.pk}"
    assert client.post(url, {**part_form(client, url).fields, "price": "0"}).status_code == 302
    part = CataloguePart.objects.get(kind="rear_derailleur")
    assert (part.name, part.attrs) == ("Cage", own.attrs)
    client.force_login(stranger)
    for asked in (f"of={own.pk}", f"like={part.pk}", "of=x", "kind=sofa"):
        assert client.get(f"{NEW}?{asked}").status_code == 404
