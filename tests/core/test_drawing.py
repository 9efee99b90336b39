"""Pictures by their scenes: what is drawn equals the number."""

import itertools
import math

import pytest

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import SetUp, chain_of, gears_of, hill_of, setup_of, top_speed, with_gears
from unkett.core.calc.gears import gears, pitch_radius
from unkett.core.drawing.chain import SCALE, chain_scene
from unkett.core.drawing.fittings import Fittings
from unkett.core.drawing.gears import Upright, gear_scene
from unkett.core.drawing.side import Bones, drawn
from unkett.core.formats.reader import build_from
from unkett.core.panels.brakes import brake_sheet
from unkett.core.scene import Box, Circle, Path, Segment, Text, Wheel, belt_path, belt_round
from unkett.core.settings import DEFAULTS

PARTS = {
    "frame": {"chainstay_mm": 432},
    "chain": {"links": 112},
    "chainrings": {"teeth": [40]},
    "cassette": {"teeth": [11, 24, 42]},
    "rear_derailleur": {"capacity_teeth": 39},
    "rear_rim": {"bsd_mm": 622},
    "rear_tyre": {"bsd_mm": 622, "width_mm": 40},
}


def bike(**more):
    parts = {slot: {**PARTS.get(slot, {}), **(more.get(slot) or {})} for slot in {*PARTS, *more}}
    kept = {
        slot: {"attrs": {name: value for name, value in attrs.items() if value is not None}}
        for slot, attrs in parts.items()
        if more.get(slot, {}) is not None
    }
    return build_from({"parts": kept})


def test_chain_wheels_are_drawn_at_their_radii_and_distance() -> None:
    scene = chain_scene(chain_of(bike()))
    circles = {
        shape.title: shape
        for shape in scene.shapes
        if isinstance(shape, Circle) and shape.role == "wheel-big"
    }
    assert circles["ring 40"].radius == pytest.approx(pitch_radius(40) * SCALE)
    assert circles["sprocket 42"].radius == pytest.approx(pitch_radius(42) * SCALE)
    assert math.dist(circles["ring 40"].centre, circles["sprocket 42"].centre) == pytest.approx(432 * SCALE)


def test_the_belt_touches_both_wheels_and_enters_neither() -> None:
    points = belt_path(left=(0, 0), left_radius=80, right=(400, 0), right_radius=60)
    assert min(math.dist(point, (0, 0)) for point in points) == pytest.approx(80)
    assert min(math.dist(point, (400, 0)) for point in points) == pytest.approx(60)
    with pytest.raises(ValueError, match="inside"):
        belt_path(left=(0, 0), left_radius=80, right=(10, 0), right_radius=60)


def test_the_window_is_as_wide_as_its_links() -> None:
    scene = chain_scene(chain_of(bike()))
    marks = {
        shape.text: shape.at[0] for shape in scene.shapes if isinstance(shape, Text) and shape.role == "mark"
    }
    window = next(shape for shape in scene.shapes if isinstance(shape, Box) and shape.role == "window")
    assert window.corner[0] == pytest.approx(marks["112"])
    assert window.corner[0] + window.width == pytest.approx(marks["116"])
    pointer = next(shape for shape in scene.shapes if isinstance(shape, Path) and shape.role == "pointer-has")
    assert pointer.points[0][0] == pytest.approx(marks["112"])


def test_equal_steps_are_equally_wide() -> None:
    table = gears(chainrings=(40,), sprockets=(10, 20, 40), circumference_mm=2000)
    scene = gear_scene([SetUp(label="as planned", state="planned", table=table, angles={})])
    ticks = sorted(
        shape.centre[0]
        for shape in scene.shapes
        if isinstance(shape, Circle) and shape.role == "gear-planned"
    )
    assert len(ticks) == 3
    assert ticks[1] - ticks[0] == pytest.approx(ticks[2] - ticks[1])


def test_figures_name_what_is_missing() -> None:
    missing = gears_of(bike(rear_tyre={"width_mm": None}))
    assert missing.gears is None
    assert [one.says for one in missing.missing] == ["Rear tyre: nominal width"]
    assert [one.attr for one in chain_of(bike(frame={"chainstay_mm": None})).missing] == ["chainstay_mm"]
    assert chain_of(bike(shock={})).missing[0].attr == "chain_growth_mm"
    assert chain_of(bike(rear_derailleur=None)) is None
    assert "too short" in chain_of(bike(frame={"chainstay_mm": 100})).fault


CUTS = [
    (None, "Cut a new chain to 112 links"),
    (110, "2 links short: a new chain of at least 112 links"),
    (112, "Leave it as long as it is."),
    (116, "Leave it as long as it is."),
    (118, "Take 6 links out and keep them."),
]


@pytest.mark.parametrize(("links", "says"), CUTS)
def test_cut_advice(links, says) -> None:
    assert says in chain_of(bike(chain={"links": links})).cut


def test_measured_width_wins_over_nominal() -> None:
    wide = gears_of(bike(rear_tyre={"width_measured_mm": 42.0})).gears
    assert wide.circumference_mm == pytest.approx(math.pi * (622 + 84))


def test_a_hill_in_every_gear() -> None:
    build = bike()
    table = gears_of(build).gears
    hill = hill_of(build, table, grade_pct=8, power_w=150)
    assert hill.mass_kg == 90
    for gear, cadence in zip(table.gears, hill.cadences_rpm, strict=True):
        assert gear.development_m * cadence * 60 / 1000 == pytest.approx(hill.speed_kmh)
    assert hill.easy is None or hill.cadences_rpm[hill.easy] >= 60
    assert hill_of(build, table, grade_pct=0, power_w=150).easy > 0


def test_teeth_of_the_same_gear_in_four_setups_do_not_write_over_one_another() -> None:
    """All four have the same gears, so each sprocket's four numbers share a place across; 12 units of height apart."""
    build = bike(
        crank={"chainline_mm": 49},
        rear_hub={"spacing_mm": 135},
        cassette={"speeds": 9, "mount": "spline9", "sprocket_pitch_mm": 4.35},
    )
    states = ("stands", "planned", "third", "fourth")
    scene = gear_scene([setup_of(build, state, state) for state in states])
    by_place: dict[float, list[float]] = {}
    for shape in scene.shapes:
        if isinstance(shape, Text) and shape.role.startswith("teeth-"):
            by_place.setdefault(shape.at[0], []).append(shape.at[1])
    assert by_place
    for heights in by_place.values():
        ordered = sorted(heights)
        assert len(ordered) == 4
        assert min(b - a for a, b in itertools.pairwise(ordered)) >= 12


def test_four_setups_lie_on_one_scale() -> None:
    build = bike(
        crank={"chainline_mm": 49},
        rear_hub={"spacing_mm": 135},
        cassette={"speeds": 9, "mount": "spline9", "sprocket_pitch_mm": 4.35},
    )
    wide = with_gears(build, (46, 30), (11, 13, 15, 18, 21, 24, 28, 32, 36))
    pairs = [(build, "stands"), (wide, "planned"), (build, "third"), (wide, "fourth")]
    setups = [setup_of(one, state, state) for one, state in pairs]
    scene = gear_scene(setups)
    for state, count in (("stands", 3), ("planned", 18), ("third", 3), ("fourth", 18)):
        ticks = [
            s
            for s in scene.shapes
            if isinstance(s, Circle) and s.role.split(" ")[0] == f"gear-{state}" and s.title
        ]
        assert len(ticks) == count
    same = {
        state: [
            s.centre[0]
            for s in scene.shapes
            if isinstance(s, Circle) and s.role == f"gear-{state}" and s.title
        ]
        for state in ("stands", "third")
    }
    assert same["stands"] == pytest.approx(same["third"])


def pairs_of(table):
    return [(gear.ring, gear.sprocket) for gear in table.gears]


def test_gears_stand_at_their_lean() -> None:
    # ring at 80 mm, first sprocket at 67.5 − 4.5 = 63, third at 63 − 2 × 4.35 = 54.3: 17 to 25.7 mm over 432 lean
    # 2.25° to 3.40°; a degree is the same height everywhere, and the quiet band goes as far up as down
    build = bike(
        crank={"chainline_mm": 80},
        rear_hub={"spacing_mm": 135},
        cassette={"speeds": 9, "sprocket_pitch_mm": 4.35},
    )
    scene = gear_scene([setup_of(build, "now", "stands")])
    dots = [s for s in scene.shapes if isinstance(s, Circle) and s.role == "gear-stands"]
    heights = sorted(-dot.centre[1] for dot in dots)
    straight = next(
        s for s in scene.shapes if isinstance(s, Segment) and s.role == "grid" and s.start[1] == s.end[1]
    )
    leans = [math.degrees(math.atan(mm / 432)) for mm in (17, 21.35, 25.7)]
    per_degree = (heights[-1] - heights[0]) / (leans[-1] - leans[0])
    assert [(height + straight.start[1]) / per_degree for height in heights] == pytest.approx(leans)
    band = next(s for s in scene.shapes if isinstance(s, Box) and s.role == "quiet-band")
    assert band.height / 2 / per_degree == pytest.approx(DEFAULTS.number("chain_angle_noisy_deg"))
    assert band.corner[1] + band.height / 2 == pytest.approx(straight.start[1])


def test_doubled_gears_are_hollow_and_the_wanted_range_stands_upright() -> None:
    table = gears(chainrings=(40, 30), sprockets=(12, 16), circumference_mm=2000)
    near = SetUp(label="x", state="stands", table=table, angles={})
    assert near.overlaps == (False, True, True, False)  # 30/12 and 40/16 are both 2.5
    leaning = SetUp(
        label="x", state="planned", table=table, angles=dict.fromkeys(pairs_of(table), 1.0) | {(40, 16): -1}
    )
    scene = gear_scene([leaning], wanted=[Upright(2.5 * 2, "hill")])
    hollow = [
        s.centre
        for s in scene.shapes
        if isinstance(s, Circle) and s.role == "gear-planned hollow" and s.title
    ]
    upright = next(s for s in scene.shapes if isinstance(s, Segment) and s.role == "wanted")
    assert [x for x, _ in hollow] == pytest.approx([upright.start[0]] * 2)
    twin = next(s for s in scene.shapes if isinstance(s, Segment) and s.role == "twin")
    assert {twin.start, twin.end} == set(hollow)


def test_top_speed_is_the_highest_gears() -> None:
    table = gears(chainrings=(50,), sprockets=(10, 20), circumference_mm=2000)
    assert top_speed(table, 100) == pytest.approx(60)  # 5 × 2 m × 100 × 60


def test_the_belt_round_three_wheels_touches_each() -> None:
    wheels = (
        Wheel(centre=(0, 0), radius=60),
        Wheel(centre=(430, 0), radius=80),
        Wheel(centre=(40, -150), radius=22),
        Wheel(centre=(15, -100), radius=22, clockwise=False),
    )
    points = belt_round(wheels)
    for wheel in wheels:
        gaps = [math.dist(point, wheel.centre) - wheel.radius for point in points]
        assert min(gaps) == pytest.approx(0)
    # every straight run leaves one wheel and meets the next at right angles to both radii
    runs = [(a, b) for a, b in itertools.pairwise([*points, points[0]]) if math.dist(a, b) > 20]
    assert len(runs) == 4
    for start, end in runs:
        for point in (start, end):
            hub = min(wheels, key=lambda one: abs(math.dist(point, one.centre) - one.radius)).centre
            radius = (point[0] - hub[0], point[1] - hub[1])
            assert radius[0] * (end[0] - start[0]) + radius[1] * (end[1] - start[1]) == pytest.approx(
                0, abs=1e-6
            )


def test_a_doubted_size_is_drawn_as_a_guess() -> None:
    def roles(part: str, **parts) -> set[str]:
        scene = drawn(
            Bones.of(build_from({"parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}}))
        )
        return {shape.role for shape in scene.shapes if getattr(shape, "title", "") == part}

    agrees = {"mount": "spline9", "teeth": [11, 32]}
    assert roles("32 teeth", cassette=agrees) == {"side-cog"}
    assert roles("10 teeth", cassette={**agrees, "teeth": [10, 32]}) == {
        "side-cog guess"
    }  # nine splines begin at 11

    def rotor(**attrs) -> set[str]:
        worn = {"diameter_mm": 160, "thickness_mm": 1.8, **attrs}
        sheet = brake_sheet(build_from({"parts": {"front_rotor": {"attrs": worn}}}), "front")
        return {
            shape.role
            for shape in sheet.scene.shapes
            if isinstance(shape, Box) and shape.title.startswith("rotor")
        }

    assert rotor(measured_mm=1.7) == {"rotor"}
    assert rotor(measured_mm=2.0) == {"rotor guess"}  # now thicker than new


def test_small_parts_stand_where_they_sit() -> None:
    parts = {
        "rear_rack": {},
        "front_light": {},
        "rear_axle": {"dia_mm": 12, "thread_pitch_mm": 1.5},
        "rear_valve": {"length_mm": 44},
        "seat_clamp": {"bore_mm": 34.9},
        "battery": {"place": "down_tube"},
        "belt": {"teeth": 118},
        "chainrings": {"teeth": [50]},
        "cassette": {"teeth": [22]},
        "rear_hub": {"coaster": True, "arm_fixed": True},
    }
    made = Bones.of(build_from({"parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}}))
    found = Fittings(Facts(made.now), made.new).elements()
    assert {name for name, shapes in found.items() if shapes} == {
        "rear_rack", "front_light", "rear_thru_axle", "rear_valve", "seat_clamp", "battery", "coaster_arm", "belt",
    }  # fmt: skip
    (axle,) = found["rear_thru_axle"]
    assert (axle.centre, axle.title) == (made.new["rear_axle"], "rear thru axle 12 × 1.5")
    (valve,) = found["rear_valve"]
    assert math.dist(*valve.points) == pytest.approx(44)
    (belt,) = found["belt"]  # teeth 11 mm apart: 22 of them reach as far as 22 × 11 / 12.7 = 19.06 of a chain
    behind = min(x for x, _ in belt.points)
    assert made.new["rear_axle"][0] - behind == pytest.approx(22 * 11 / (2 * math.pi), rel=0.02)


def test_a_bike_without_small_parts_draws_none() -> None:
    made = Bones.of(bike())
    assert not any(Fittings(Facts(made.now), made.new).elements().values())
