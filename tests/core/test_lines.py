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
from unkett.core.calc.cutting import cut_list
from unkett.core.calc.lines import line_path
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.errors import InputError

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


@settings(max_examples=60, deadline=None)
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
