"""Lines: paths of straight runs and arcs, cut lists, and the lines of a whole bike."""

import itertools
import json
import math
import random
import subprocess
import sys

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.calc_examples import GOOD
from tests.depth import many
from unkett.core.bike.curves import LEAST_MM
from unkett.core.bike.lines import inners_from, line_reports, pieces_of, small_parts
from unkett.core.bike.planned import as_planned
from unkett.core.bike.routes import figures_of, line_of, routes_for
from unkett.core.build import Part
from unkett.core.calc.cutting import cut_list
from unkett.core.calc.lines import line_path
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.core.rules.lines import LINES
from unkett.core.standards import table
from unkett.core.vocabulary import enums

# by hand: each turn θ takes r·tan(θ/2) of both runs and gives r·θ back
LAID = [
    ([[0, 0, 0], [300, 0, 0]], 50, 300, []),
    ([[0, 0, 0], [100, 0, 0], [100, 100, 0]], 20, 200 - 40 + 10 * math.pi, [90]),
    ([[0, 0, 0], [100, 0, 0], [100, 0, 80], [100, 60, 80]], [20, 30], 240 - 40 - 60 + 25 * math.pi, [90, 90]),
    ([[0, 0, 0], [100, 0, 0], [200, 0, 0]], 60, 200, [0]),
    (
        [[0, 0, 0], [100, 0, 0], [50, 50 * math.sqrt(3), 0]],
        10,
        200 - 20 * math.sqrt(3) + 20 * math.pi / 3,
        [120],
    ),
]


@pytest.mark.parametrize(("points", "radius", "length", "turns"), LAID)
def test_a_path_laid_by_hand(points, radius, length, turns) -> None:
    path = CALCULATIONS["line_path"].run({"points_mm": points, "radius_mm": radius})
    assert path.length_mm == pytest.approx(length)
    assert path.turns_deg == pytest.approx(turns)
    assert path.total_deg == pytest.approx(sum(turns))


@pytest.mark.parametrize(
    ("points", "radius", "path"),
    [
        ([[0, 0, 0], [30, 0, 0], [30, 100, 0]], 40, "points_mm[1]"),  # the bend takes 40 of a run of 30
        (
            [[0, 0, 0], [90, 0, 0], [90, 50, 0], [190, 50, 0]],
            30,
            "points_mm[2]",
        ),  # two bends on one run of 50
        ([[0, 0, 0], [100, 0, 0], [50, 0, 0]], 0, "points_mm[1]"),  # back on itself
        ([[0, 0, 0], [0, 0, 0], [50, 0, 0]], 0, "points_mm[1]"),
        ([[0, 0, 0], [100, 0, 0], [100, 90, 0]], [10, 10], "radius_mm"),
        ([[0, 0, 0]], 10, "points_mm"),
        ([[0, 0], [1, 1]], 10, "points_mm[0]"),
    ],
)
def test_a_path_that_cannot_be_laid_is_named(points, radius, path) -> None:
    with pytest.raises(InputError) as caught:
        CALCULATIONS["line_path"].run({"points_mm": points, "radius_mm": radius})
    assert path in str(caught.value)


def sampled(points, radius: float) -> float:
    """The length of the same line, its arcs walked in small steps: a second way."""
    total, at = 0.0, points[0]
    for before, here, after in zip(points, points[1:], points[2:], strict=False):
        one = [(b - a) / math.dist(before, here) for a, b in zip(before, here, strict=True)]
        two = [(b - a) / math.dist(here, after) for a, b in zip(here, after, strict=True)]
        turn = math.acos(max(-1, min(1, sum(a * b for a, b in zip(one, two, strict=True)))))
        take = radius * math.tan(turn / 2)
        start = [p - take * d for p, d in zip(here, one, strict=True)]
        total += math.dist(at, start)
        if turn > 1e-9:
            side = [(t - math.cos(turn) * o) / math.sin(turn) for o, t in zip(one, two, strict=True)]
            steps = 400
            spots = [
                [
                    p
                    + radius * math.sin(turn * n / steps) * o
                    + radius * (1 - math.cos(turn * n / steps)) * s
                    for p, o, s in zip(start, one, side, strict=True)
                ]
                for n in range(steps + 1)
            ]
            total += sum(math.dist(a, b) for a, b in itertools.pairwise(spots))
            at = spots[-1]
        else:
            at = start
    return total + math.dist(at, points[-1])


@settings(max_examples=many(25), deadline=None)
@given(st.lists(st.tuples(*[st.integers(-400, 400)] * 3), min_size=3, max_size=6, unique=True))
def test_the_length_is_that_of_the_curve_walked(points) -> None:
    try:
        path = line_path(points_mm=tuple(points), radius_mm=25.0)
    except InputError:
        return
    assert path.length_mm == pytest.approx(sampled(points, 25.0), abs=0.05)
    assert path.length_mm <= sum(math.dist(a, b) for a, b in itertools.pairwise(points)) + 1e-6


def opened_least(pieces, stock) -> float | None:
    """The least stock opened, by trying every way: each piece into a length that is open or a new one."""
    best = [math.inf]

    def go(left, bins, total) -> None:
        if total >= best[0]:
            return
        if not left:
            best[0] = total
            return
        piece, rest = left[0], left[1:]
        for n, room in enumerate(bins):
            if piece <= room and room not in bins[:n]:
                go(rest, [*bins[:n], room - piece, *bins[n + 1 :]], total)
        for length in stock:
            if piece <= length:
                go(rest, [*bins, length - piece], total + length)

    go(sorted(pieces, reverse=True), [], 0)
    return None if best[0] == math.inf else best[0]


def test_cut_lists_are_the_least_there_is() -> None:
    pick = random.Random(3)
    for _ in range(12):
        stock = pick.sample([700, 850, 1000, 1213, 1400], 2)
        pieces = [pick.randrange(150, min(stock)) for _ in range(pick.randrange(2, 8))]
        found = cut_list(pieces_mm=tuple(pieces), stock_mm=tuple({"length_mm": length} for length in stock))
        assert found.proven
        assert sum(cut.stock_mm for cut in found.cuts) == opened_least(pieces, stock), (pieces, stock)
        assert sorted(piece for cut in found.cuts for piece in cut.pieces_mm) == sorted(pieces)
        assert all(sum(cut.pieces_mm) <= cut.stock_mm for cut in found.cuts)


@pytest.mark.long
def test_sixty_pieces_of_fifteen_lengths_are_cut_and_proven() -> None:
    """Made from twenty full lengths cut without a rest, so that the least waste is known: none."""
    pick = random.Random(8)
    cuts = [(300, 500, 1200), (400, 700, 900), (250, 650, 1100), (350, 550, 1100), (450, 750, 800)]
    pieces = [piece for _ in range(4) for cut in cuts for piece in cut]
    pick.shuffle(pieces)
    assert (len(pieces), len(set(pieces))) == (60, 14)
    found = cut_list(pieces_mm=tuple(pieces), stock_mm=({"length_mm": 2000}, {"length_mm": 3100}))
    assert (found.waste_mm, found.proven, found.bound_mm) == (0, True, 0)


def test_the_command_prints_nothing_but_its_answer(tmp_path) -> None:
    """The solver prints words of its own; a program that reads the answer gets JSON alone."""
    file = tmp_path / "cut.json"
    file.write_text(json.dumps(GOOD["cut_list"]))
    command = [sys.executable, "-m", "unkett.cli", "calc", "cut_list", str(file)]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    answer = json.loads(done.stdout)
    assert (answer["format"], answer["proven"], answer["waste_mm"]) == ("unkett.calc/1", True, 0)


BIKE = {
    "frame": {"head_angle_deg": 72, "seat_angle_deg": 73, "wheelbase_mm": 1012, "bb_drop_mm": 70, "chainstay_mm": 430,
              "stack_mm": 580, "reach_mm": 385, "head_tube_length_mm": 150, "seat_tube_length_mm": 540},
    "fork": {"axle_to_crown_mm": 395, "offset_mm": 45},
    "stem": {"length_mm": 100, "angle_deg": -6},
    "handlebar": {"shape": "drop", "width_mm": 420, "reach_mm": 80},
    "rear_rim": {"bsd_mm": 622}, "front_rim": {"bsd_mm": 622}, "rear_tyre": {"width_mm": 28},
    "front_tyre": {"width_mm": 28},
}  # fmt: skip


def bike(use: str = "road", hands=None, **changed):
    parts = {slot: {**attrs, **changed.get(slot, {})} for slot, attrs in BIKE.items()}
    parts |= {slot: attrs for slot, attrs in changed.items() if slot not in BIKE}
    given = {"use": use, "parts": {slot: {"attrs": attrs} for slot, attrs in parts.items()}}
    return build_from({**given, "lever_hand": hands} if hands else given)


EVERY = [(slot, code) for slot in LINES for code, _ in routes_for(slot)]


def test_the_words_of_the_vocabulary_are_the_routes_of_the_table() -> None:
    assert {row["code"]: row["title"] for row in table("routes").rows} == dict(enums.ROUTE.codes)
    assert {slot for row in table("routes").rows for slot in row["fits"]} == set(LINES)


@pytest.mark.parametrize(("slot", "code"), EVERY, ids=str)
@pytest.mark.parametrize("shape", ["drop", "flat"])
def test_every_route_is_laid_on_every_bar(slot, code, shape) -> None:
    line = line_of(bike(handlebar={"shape": shape, "width_mm": 620 if shape == "flat" else 420}), slot, code)
    assert line is not None
    assert 150 < line.need_mm < 2600
    for piece in line.pieces:
        path = line_path(
            points_mm=piece.curve.points, radius_mm=piece.curve.radii
        )  # the same by the calculation
        assert piece.length_mm == pytest.approx(path.length_mm)
        walked = piece.curve.drawn
        assert sum(math.dist(a, b) for a, b in itertools.pairwise(walked)) == pytest.approx(
            path.length_mm, abs=0.5
        )
        assert piece.need_mm >= piece.length_mm - 1e-9
        straight = math.dist(piece.curve.points[0], piece.curve.points[-1])
        assert piece.length_mm >= straight - 1e-6
        tight = {at for at, _ in piece.tight}
        for at, radius, turn in zip(
            piece.curve.points[1:-1], piece.curve.radii, piece.curve.turns, strict=True
        ):
            assert radius >= LEAST_MM[piece.type] - 1e-6 or at in tight or turn <= math.radians(20)


@pytest.mark.parametrize("longer", [10, 30, 60])
def test_a_longer_frame_wants_about_as_much_more_line(longer) -> None:
    change = {"frame": {"reach_mm": 385 + longer, "wheelbase_mm": 1012 + longer}}
    for code in ("down_tube_full", "internal_open", "down_tube_stops"):
        short, long = (line_of(build, "rear_shift_line", code) for build in (bike(), bike(**change)))
        assert long.need_mm - short.need_mm == pytest.approx(longer, abs=0.35 * longer + 2)
    stay = bike(frame={"chainstay_mm": 430 + longer, "wheelbase_mm": 1012 + longer})
    assert line_of(stay, "rear_shift_line", "down_tube_full").need_mm - line_of(
        bike(), "rear_shift_line", "down_tube_full"
    ).need_mm == pytest.approx(longer, abs=0.25 * longer + 2)


def test_a_mirrored_bike_has_the_same_lines() -> None:
    for code in ("rear_top_tube_stops", "rear_full"):
        left, right = (
            line_of(bike(hands={"rear": hand}), "rear_brake_line", code).need_mm for hand in ("left", "right")
        )
        assert left == pytest.approx(right, abs=30)  # only the caliper stands on one side
    one, other = (
        line_of(bike(hands={"rear": hand}), "rear_brake_line", "rear_hanger").need_mm
        for hand in ("left", "right")
    )
    assert one == pytest.approx(other)  # hanger and stops stand in the middle


def test_a_line_hidden_in_the_axis_needs_nothing_for_the_turned_bar() -> None:
    line = line_of(bike(), "rear_brake_line", "rear_disc_hidden")
    straight = sum(piece.length_mm for piece in line.pieces)
    assert line.need_mm == pytest.approx(straight, abs=3)
    outside = line_of(bike(), "rear_brake_line", "rear_top_tube_stops")
    assert outside.pieces[0].need_mm > outside.pieces[0].length_mm + 3


def test_a_plan_lays_its_lines_anew_and_moves_what_was_typed_by_the_difference() -> None:
    old = bike()
    kept = figures_of(line_of(old, "rear_brake_line", "rear_top_tube_stops"))
    now = bike(rear_brake_line={**kept, "length_mm": 1000})
    stem = Part(kind="stem", attrs={"length_mm": 60, "angle_deg": -6})
    then = as_planned(now, {"stem": stem})
    shorter = now.parts["rear_brake_line"].attrs["need_mm"] - then.parts["rear_brake_line"].attrs["need_mm"]
    assert 15 < shorter < 45  # 40 mm of stem, most of it along the line
    typed = bike(rear_brake_line={**kept, "need_mm": 1234.0})
    moved = as_planned(typed, {"stem": stem}).parts["rear_brake_line"].attrs["need_mm"]
    assert moved == pytest.approx(1234.0 - shorter, abs=0.11)
    assert as_planned(typed, {"stem": stem}).parts["rear_brake_line"].attrs["turns_deg"] != kept["turns_deg"]


def test_a_need_without_a_path_lapses_on_another_frame_and_stays_on_its_own() -> None:
    now = bike(rear_brake_line={"need_mm": 1234.0, "length_mm": 1250})
    stem = Part(kind="stem", attrs={"length_mm": 60, "angle_deg": -6})
    assert "need_mm" not in as_planned(now, {"stem": stem}).parts["rear_brake_line"].attrs
    chain = Part(kind="chain", attrs={"links": 110})
    assert as_planned(now, {"chain": chain}).parts["rear_brake_line"].attrs["need_mm"] == 1234.0


def test_a_new_line_runs_as_the_old_one_did_and_too_short_a_line_does_not_go_in_the_plan() -> None:
    kept = figures_of(line_of(bike(), "rear_brake_line", "rear_top_tube_stops"))
    now = bike(rear_brake_line={**kept, "length_mm": math.ceil(kept["need_mm"])})
    longer = {"stem": Part(kind="stem", attrs={"length_mm": 140, "angle_deg": -6})}
    found = {one.key for one in check(as_planned(now, longer)).findings if one.rule == "line-length"}
    assert "short" in found
    new = {**longer, "rear_brake_line": Part(kind="brake_line", attrs={"length_mm": 2000})}
    then = as_planned(now, new).parts["rear_brake_line"].attrs
    assert then["route"] == "rear_top_tube_stops"
    assert then["need_mm"] > kept["need_mm"] + 10
    own = Part(kind="brake_line", attrs={"length_mm": 2000, "route": "rear_full"})
    assert as_planned(now, {"rear_brake_line": own}).parts["rear_brake_line"].attrs["route"] == "rear_full"


def test_a_guide_put_elsewhere_moves_the_line() -> None:
    there = {"point": "under_bracket", "forward_mm": 0, "up_mm": -60, "right_mm": 8}
    code = "down_tube_stops"
    plain = line_of(bike(rear_shift_line={"route": code}), "rear_shift_line")
    moved = line_of(bike(rear_shift_line={"route": code, "points_mm": [there]}), "rear_shift_line")
    assert moved.need_mm > plain.need_mm
    assert [spot.own for spot in moved.spots if spot.name == "under_bracket"] == [True]


def test_the_old_line_stays_or_not() -> None:
    need = line_of(bike(), "rear_brake_line", "rear_top_tube_stops").need_mm
    for has, says in (
        (need + 20, "stays, with 20"),
        (need - 15, "15 mm short"),
        (need + 120, "120 mm shorter"),
    ):
        line = {"route": "rear_top_tube_stops", "length_mm": has}
        assert says in line_reports(bike(rear_brake_line=line))[0].says


def test_what_is_cut_for_a_line() -> None:
    line = line_of(bike(), "rear_brake_line", "rear_top_tube_stops")
    pieces = pieces_of(line, 20)
    housing = [piece.length_mm for piece in pieces if piece.sort == "brake_housing"]
    inner = next(piece for piece in pieces if piece.sort == "brake_inner")
    front, bare, rear = (piece.need_mm for piece in line.pieces)
    assert housing == [math.ceil(front), math.ceil(rear)]
    assert inner.length_mm == math.ceil(front + bare + rear + 60 + 50 + 20)  # lever, past the clamp, spare
    assert dict(small_parts([line])) == {"ferrule, metal, for brake housing": 4, "end cap": 1}
    found = inners_from([512, 1115], [{"length_mm": 1700, "count": 1}, {"length_mm": 2000}])
    assert [(cut.stock_mm, cut.pieces_mm) for cut in found.cuts] == [(1700, (1115,)), (2000, (512,))]
    twice = [{"length_mm": 1700, "count": 1}, {"length_mm": 1700, "count": 1}, {"length_mm": 2000}]
    assert [cut.stock_mm for cut in inners_from([900, 800, 700], twice).cuts] == [1700, 1700, 2000]
