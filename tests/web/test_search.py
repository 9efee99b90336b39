"""The search by fit is exact: equal to checking every part one by one, whatever the page, order or filter."""

import random

import pytest
from django.urls import reverse

from tests.cases.all import CASES
from tests.depth import many as deep
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import stored_part
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.catalogue import queries
from unkett.web.catalogue.models import CataloguePart, FitClass
from unkett.web.catalogue.queries import what_goes
from unkett.web.catalogue.services import add_parts
from unkett.web.pages.catalogue.uses import uses_of
from unkett.web.rulebook.services import add_shop_name


def every_page(owner, build, slot, **more):
    first = what_goes(owner, build, slot, DEFAULTS, **more)
    pages = [what_goes(owner, build, slot, DEFAULTS, page=n, **more) for n in range(1, first.pages + 1)]
    return [candidate for page in pages for candidate in page.shown], first.counts


def one_by_one(build, slot, part):
    """The part's own findings: those that name the slot, less a No-go or a need that stands without it too; a chain
    too short for another part is a need.
    """
    whole = check(build.with_part(slot, stored_part(part.kind, part.name, part.attrs)))
    without = {(f.rule, f.joint, f.says) for f in check(build.with_part(slot, None)).findings}
    said = [
        (finding.rule, finding.joint, finding.verdict.value, finding.says)
        for finding in whole.findings
        if slot in finding.slots
        and not (
            finding.verdict.value in ("no_go", "goes_if")
            and (finding.rule, finding.joint, finding.says) in without
        )
    ]
    return {
        (rule, joint, "goes_if") if (rule, verdict) == ("chain-length", "no_go") and slot != "chain"
        else (rule, joint, verdict)
        for rule, joint, verdict, _ in said
    }  # fmt: skip


@pytest.fixture
def many(workshop):
    """A part for every distinct set of attributes in the rules' cases, and some doubled."""
    entries = []
    for number, case in enumerate(CASES):
        for slot, attrs in case.parts.items():
            if attrs:
                kind = SLOTS[slot].kind
                entries.append(
                    {"kind": kind, "name": f"{kind} {number} {slot}", "attrs": attrs, "price": number % 7}
                )
    return add_parts(workshop, entries)


def test_equal_to_checking_every_part(owner, many, monkeypatch) -> None:
    monkeypatch.setattr(queries, "PAGE", 7)
    sample = random.Random(5).sample([case for case in CASES if case.verdict], deep(25))
    for case in sample:
        build = case.build
        slot = next(iter(build.parts))
        found, counts = every_page(owner, build, slot)
        parts = CataloguePart.objects.filter(kind=SLOTS[slot].kind)
        assert sorted(one.part.pk for one in found) == sorted(part.pk for part in parts)
        for one in random.Random(1).sample(found, min(12, len(found))):
            own = {(f.rule, f.joint, f.verdict.value) for f in one.check.findings}
            assert own == one_by_one(build, slot, one.part), (str(case), one.part.name)
        assert sum(counts.values()) == len(found)
        order = [-one.verdict.order for one in found]
        assert order == sorted(order)


def test_classes_are_as_many_as_the_distinct_attributes(many) -> None:
    assert FitClass.objects.count() < CataloguePart.objects.count()
    assert not CataloguePart.objects.filter(fit_class=None).exists()


@pytest.mark.parametrize(("sort", "key"), [("price", "price"), ("mass", "mass_g"), ("place", "place")])
def test_sorted_within_a_verdict(owner, workshop, bike, sort, key) -> None:
    attrs = {"speeds": 9, "links": 114}
    add_parts(
        workshop,
        [
            {
                "kind": "chain",
                "name": f"c{n}",
                "attrs": attrs,
                "price": (n * 7) % 11,
                "mass_g": (n * 5) % 13,
                "place": f"bin {n * 3 % 9}",
            }
            for n in range(20)
        ],
    )
    build = bike.build(list(bike.fitted.all()))
    values = [getattr(one.part, key) for one in what_goes(owner, build, "chain", DEFAULTS, sort=sort).shown]
    assert values == sorted(values)


def test_filters_and_counts(owner, workshop, bike) -> None:
    attrs = {"speeds": 9, "mount": "spline9"}
    add_parts(
        workshop,
        [{"kind": "cassette", "name": f"Holm {n}", "attrs": attrs, "price": 1, "days": n} for n in range(3)],
    )
    build = bike.build(list(bike.fitted.all()))
    assert sum(what_goes(owner, build, "cassette", DEFAULTS).counts.values()) == 3
    assert [one.part.name for one in what_goes(owner, build, "cassette", DEFAULTS, here=True).shown] == [
        "Holm 0"
    ]
    found = what_goes(owner, build, "cassette", DEFAULTS, find="holm 2")
    assert [one.part.name for one in found.shown] == ["Holm 2"]
    assert sum(found.counts.values()) == 1


def test_new_parts_and_settings_are_seen_at_once(owner, workshop, bike) -> None:
    build = bike.build(list(bike.fitted.all()))
    lever = {"mode": "indexed", "speeds": 9, "pull_per_click_mm": 2.65}
    assert not what_goes(owner, build, "rear_shifter", DEFAULTS).shown
    add_parts(workshop, [{"kind": "shifter", "name": "Odd nine", "attrs": lever, "price": 1}])
    assert what_goes(owner, build, "rear_shifter", DEFAULTS).shown[0].verdict.value == "goes_if"
    strict = Settings.of({"index_noisy_mm": 0.6})
    assert what_goes(owner, build, "rear_shifter", strict).shown[0].verdict.value == "no_go"


def test_a_bench_name_finds_what_carries_its_code(client, owner, bike, catalogue) -> None:
    add_shop_name(actor=owner, code="spline9", name="harbour notch")
    build = bike.build(list(bike.fitted.all()))
    found = what_goes(owner, build, "cassette", DEFAULTS, find="notch")
    assert {one.part.attrs["mount"] for one in found.shown} == {"spline9"}
    client.force_login(owner)
    assert "Pier bike" in client.get(reverse("bikes:yard"), {"find": "notch"}).text
    assert "harbour notch" in client.get(reverse("bikes:stand", args=[bike.pk]), {"all": "1"}).text
    assert "Wide nine" in client.get(reverse("catalogue:parts"), {"find": "notch"}).text


def test_a_part_that_nothing_checks_is_never_goes(owner, workshop, bike) -> None:
    adapter = {
        "frame_side": "post",
        "caliper_side": "post",
        "rotor_mm": 180,
        "native_mm": 160,
        "end": "either",
    }
    part = add_parts(workshop, [{"kind": "brake_adapter", "name": "Step", "attrs": adapter, "price": 1}])[0]
    build = bike.build(list(bike.fitted.all()))
    found = what_goes(owner, build, "front_brake_adapter", DEFAULTS)
    assert [one.verdict.value for one in found.shown] == ["unmeasured"]
    assert "Nothing on this bike checks it" in found.shown[0].says
    assert {use.verdict.value for use in uses_of(owner, part, DEFAULTS)} == {"unmeasured"}


def test_which_of_our_bikes_can_use_it(client, owner, bike, catalogue) -> None:
    client.force_login(owner)
    page = client.get(reverse("catalogue:part", args=[catalogue["Eight"].pk])).text
    assert "Pier bike" in page
    assert "No-go" in page
    assert "Shifter 9 positions; cassette 8 sprockets" in page


def test_a_part_is_in_the_catalogue_once(workshop, catalogue) -> None:
    again = {"kind": "cassette", "name": "Eight", "attrs": {}, "price": 1}
    with pytest.raises(InputError, match="Eight: this part is in the catalogue already"):
        add_parts(workshop, [{**again, "name": "Fresh"}, again])
    assert not CataloguePart.objects.filter(name="Fresh").exists()
