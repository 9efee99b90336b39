"""Any build that reads is checked: no value that the vocabulary allows breaks a rule."""

from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import many
from unkett.core.check.engine import check, check_again
from unkett.core.formats.reader import build_from
from unkett.core.rules import RULES
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.core.vocabulary.types import (
    Bool,
    ByKey,
    Choice,
    Code,
    Either,
    ListOf,
    Number,
    Pair,
    Record,
    Whole,
)

pytestmark = pytest.mark.long


def values(kind: Any, usual: tuple[Any, ...]) -> st.SearchStrategy[Any]:
    """Values that a type allows: its ends, what is usual, and anything between."""
    known = st.sampled_from(usual) if usual and isinstance(kind, (Number, Whole)) else st.nothing()
    if isinstance(kind, Number):
        return known | st.sampled_from([kind.low, kind.high]) | st.floats(kind.low, kind.high)
    if isinstance(kind, Whole):
        step = 2 if kind.even else 1
        return known | st.integers(kind.low // step, kind.high // step).map(lambda n: max(kind.low, n * step))
    if isinstance(kind, Bool):
        return st.booleans()
    if isinstance(kind, Choice):
        return st.sampled_from(sorted(kind.of.codes))
    if isinstance(kind, Code):
        if "headset" in kind.form:
            return st.sampled_from(["ZS44", "EC34/28.6", "IS42/28.6", "ZS56/40", "EC99"])
        return st.sampled_from(["15x28x7", "17x30x7"] if "outer" in kind.form else ["a", "b"])
    if isinstance(kind, Either):
        return values(kind.one, ()) | values(kind.other, ())
    if isinstance(kind, Pair):
        return st.lists(values(kind.item, ()), min_size=2, max_size=2).map(sorted)
    if isinstance(kind, ListOf):
        items = st.lists(values(kind.item, usual), min_size=1, max_size=min(5, kind.most))
        return items.map(lambda of: sorted(of, reverse=kind.order == "descending") if kind.order else of)
    if isinstance(kind, ByKey):
        return st.dictionaries(values(kind.key, ()).map(str), values(kind.value, ()), min_size=1, max_size=2)
    assert isinstance(kind, Record)
    return st.fixed_dictionaries({name: values(of, ()) for name, of in kind.fields.items()})


def part(kind: str) -> st.SearchStrategy[dict[str, Any]]:
    attrs = {one.name: values(one.type, one.usual) for one in KINDS[kind].attributes.values()}
    return st.fixed_dictionaries({}, optional=attrs).map(_possible)


def _possible(attrs: dict[str, Any]) -> dict[str, Any]:
    if "speeds" in attrs and "teeth" in attrs and isinstance(attrs["speeds"], int):
        attrs["teeth"] = attrs["teeth"][: max(1, attrs["speeds"])]
    return attrs


PARTS = {slot.name: part(slot.kind) for slot in SLOTS.values()}


@st.composite
def builds(draw: Any) -> dict[str, Any]:
    """The slots of one to three rules, filled with anything allowed."""
    rules = draw(st.lists(st.sampled_from(sorted(RULES)), min_size=1, max_size=3))
    slots = sorted({slot for rule in rules for slot in RULES[rule].slots()})
    return {"parts": {slot: {"attrs": draw(PARTS[slot])} for slot in slots}}


@settings(
    max_examples=many(80),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
@given(builds())
def test_any_build_is_checked(value) -> None:
    result = check(build_from(value))
    for finding in result.findings:
        assert finding.says
        assert bool(finding.needs) == (finding.verdict.value == "goes_if")
        assert bool(finding.measure) == (finding.verdict.value == "unmeasured")


@settings(
    max_examples=many(20),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
@given(builds(), builds(), st.data())
def test_checking_again_is_checking(one, other, data) -> None:
    """From any bike to any other: what is kept of the first check is what a full check says."""
    old = build_from(one)
    mixed = {**one["parts"], **other["parts"]}
    gone = data.draw(st.sets(st.sampled_from(sorted(mixed)), max_size=3))
    new = build_from({"parts": {slot: part for slot, part in mixed.items() if slot not in gone}})
    assert check_again(check(old), old, new) == check(new)


def test_checking_again_hears_the_rider_too() -> None:
    parts = {"front_brake_lever": {"attrs": {"reach_min_mm": 70}}}
    old = build_from({"rider": {"hand_span_mm": 60}, "parts": parts})
    new = build_from({"rider": {"hand_span_mm": 90}, "parts": parts})
    assert check_again(check(old), old, new) == check(new) != check(old)
