"""Any bike that reads has its pages and its drawing: every sheet answers, every picture is finite."""

import math
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.test_any_build import PARTS
from tests.depth import many
from unkett.core.bike.figures import chain_of, setup_of
from unkett.core.check.engine import check
from unkett.core.check.joint_verdicts import judged
from unkett.core.drawing.chain import chain_scene
from unkett.core.drawing.gears import gear_scene
from unkett.core.drawing.marks import with_joints
from unkett.core.drawing.side import Bones, change_scene, drawn
from unkett.core.formats.reader import build_from
from unkett.core.panels import PAGES
from unkett.core.scene import Scene
from unkett.core.settings import DEFAULTS

pytestmark = pytest.mark.long


USES = ["road", "cargo", "tandem", "kids", "trail", "fat"]
RIDERS: list[dict[str, Any]] = [{}, {"saddle_height_mm": 700}, {"mass_kg": 80, "saddle_height_mm": 3000}]


@st.composite
def bikes(draw: Any) -> dict[str, Any]:
    """Three to fourteen parts filled with anything allowed."""
    slots = draw(st.sets(st.sampled_from(sorted(PARTS)), min_size=3, max_size=14))
    parts = {slot: {"attrs": draw(PARTS[slot])} for slot in sorted(slots)}
    return {"use": draw(st.sampled_from(USES)), "rider": draw(st.sampled_from(RIDERS)), "parts": parts}


def numbers(value: Any) -> Iterator[float]:
    """Every number of a shape, however deep."""
    if isinstance(value, (tuple, list)):
        for one in value:
            yield from numbers(one)
    elif isinstance(value, (int, float)):
        yield value


def finite(scene: Scene | None) -> bool:
    if scene is None:
        return True
    drawn_at = [getattr(shape, name) for shape in scene.shapes for name in shape.__slots__ if name[0] != "_"]
    return scene.width > 0 < scene.height and all(math.isfinite(one) for one in numbers(drawn_at))


@settings(
    max_examples=many(20),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
@given(bikes(), bikes())
def test_any_bike_has_its_pages_and_its_drawing(one, other) -> None:
    now = build_from(one)
    then = build_from({**one, "parts": {**one["parts"], **dict(list(other["parts"].items())[:4])}})
    for page in PAGES.values():
        for sheet in (*page.sheets(now, DEFAULTS), *page.compares(now, then)):
            assert finite(sheet.scene), sheet.name
            assert all(not isinstance(one.value, float) or math.isfinite(one.value) for one in sheet.numbers)
    bones = Bones.of(now, then)
    assert finite(with_joints(drawn(bones), judged(list(check(then).findings)), bones))
    assert finite(change_scene(now, then))
    chain, setup = chain_of(now, DEFAULTS), setup_of(now, "now", "stands")
    assert chain is None or not chain.window or finite(chain_scene(chain, None))
    assert setup is None or finite(gear_scene([setup], DEFAULTS))
