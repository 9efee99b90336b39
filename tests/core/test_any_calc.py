"""Any inputs within their ranges: a finite answer with a finite picture, or a reported refusal; never a crash."""

import math
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.test_any_build import values
from tests.core.test_any_page import finite
from tests.depth import many
from unkett.core.calc.fields import ByName
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError

pytestmark = pytest.mark.long


def allowed(kind: Any) -> st.SearchStrategy[Any]:
    if isinstance(kind, ByName):
        return st.dictionaries(st.sampled_from("abc"), values(kind.item, ()), min_size=1, max_size=3)
    return values(kind, ())


def ends(value: Any) -> bool:
    """Whether every number of an answer is finite."""
    if isinstance(value, dict):
        return all(map(ends, value.values()))
    if isinstance(value, list):
        return all(map(ends, value))
    return not isinstance(value, float) or math.isfinite(value)


@settings(
    max_examples=many(150),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
@given(st.data(), st.sampled_from(sorted(CALCULATIONS)))
def test_any_inputs_are_answered_or_refused(data, name) -> None:
    inputs = {
        one.name: data.draw(allowed(one.type), label=one.name)
        for one in CALCULATIONS[name].inputs
        if not one.optional or data.draw(st.booleans())
    }
    try:
        answer = CALCULATIONS[name].run(inputs).to_json()
    except InputError:
        return
    assert ends(answer)
    assert finite(CALCULATIONS[name].picture(inputs, answer))
