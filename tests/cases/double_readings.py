"""Cases of readings that say one thing twice. Limits belong to the better verdict: at the limit they agree."""

from typing import Any

from tests.cases import Case, table

twice = table("two-readings")
CASES: list[Case] = [
    twice(None, None, rear_hub={"freehub": "spline9"}),  # one of the two is not read
    twice(None, None, rear_hub={"freehub": "fine23", "freehub_length_mm": 20}),  # not compared
    twice("unmeasured", "differ", rear_hub={"freehub": "spline9", "freehub_length_mm": 36.7},
          figures={"titles": "Freehub body and body length"},
          asks=("rear_hub.freehub", "rear_hub.freehub_length_mm")),
]  # fmt: skip


def _held(slot: str, *rows: tuple[bool, dict[str, Any]]) -> list[Case]:
    return [
        twice(None, None, **{slot: attrs}) if agree else twice("unmeasured", "differ", **{slot: attrs})
        for agree, attrs in rows
    ]


def _chain(speeds: int, *, outer: float | None = None, inner: float | None = None) -> dict[str, Any]:
    return {"speeds": speeds, "outer_width_mm": outer, "inner_width_mm": inner}


CASES += _held(
    "rear_hub",
    *(
        (agree, {"freehub": code, "freehub_length_mm": length})
        for code, length, agree in (
            ("spline9_short", 30.0, True), ("spline9_short", 30.8, True), ("spline9_short", 30.9, False),
            ("spline9", 34.5, True), ("spline9", 35.3, True), ("spline9", 34.4, False), ("spline9", 35.4, False),
            ("spline9_road11", 36.35, True), ("spline9_road11", 37.15, True), ("spline9_road11", 36.25, False),
        )
    ),
)  # fmt: skip
CASES += _held(
    "chain",
    (True, _chain(1, outer=8.4)), (True, _chain(1, outer=9.6)), (True, _chain(1, outer=6.9)),
    (False, _chain(1, outer=8.3)), (False, _chain(1, outer=9.7)), (True, _chain(8, outer=8.1)),
    (False, _chain(8, outer=8.2)), (False, _chain(8, outer=6.8)), (True, _chain(9, outer=6.8)),
    (True, _chain(9, outer=6.4)), (False, _chain(9, outer=6.3)), (True, _chain(10, outer=5.75)),
    (True, _chain(10, outer=6.2)), (False, _chain(10, outer=6.3)), (True, _chain(11, outer=5.4)),
    (True, _chain(11, outer=5.7)), (False, _chain(11, outer=5.8)), (True, _chain(12, outer=5.1)),
    (True, _chain(12, outer=5.4)), (False, _chain(12, outer=5.5)), (True, _chain(13, outer=4.8)),
    (True, _chain(13, outer=5.1)), (False, _chain(13, outer=5.2)), (True, _chain(1, inner=3.3)),
    (True, _chain(1, inner=2.38)), (False, _chain(1, inner=2.8)), (True, _chain(8, inner=2.47)),
    (False, _chain(8, inner=2.5)), (True, _chain(9, inner=2.27)), (False, _chain(9, inner=2.38)),
    (False, _chain(8, inner=2.28)),  # between two windows: agrees with neither
)  # fmt: skip
CASES += _held(
    "cassette",
    *(
        (agree, {"mount": mount, "teeth": [first, *more]})
        for mount, first, more, agree in (
            ("spline9", 11, [13], True), ("spline9_road11", 10, [12], False), ("spline9_short", 10, [12], False),
            ("step_thread", 9, [11], True),  ("fine23", 10, [12], True),
            ("fine23", 9, [11], False), ("italic8", 11, [12], True), ("italic8", 10, [12], False),
            ("italic8_13", 9, [10], True),  ("threaded", 11, [13], True),
            ("threaded", 10, [13], False), ("threaded", 15, [], True), ("threaded", 14, [], False),
            ("bmx_threaded", 13, [], True), ("bmx_threaded", 12, [], False), ("fixed_threaded", 12, [], True),
            ("fixed_threaded", 11, [], False), ("single_cog", 9, [], True),
        )
    ),
)  # fmt: skip
CASES += _held(
    "bottom_bracket",
    *(
        (agree, {"shell": shell, "drive_thread": hand})
        for shell, hand, agree in (
            ("bsa", "left", True), ("bsa", "right", False), ("swiss", "left", True), ("t47", "left", True),
            ("italian", "right", True), ("italian", "left", False), ("french", "right", True),
            ("bb30", "none", True), ("pf30", "left", False), ("bsa", "none", False),
        )
    ),
)  # fmt: skip
CASES += _held(
    "seatpost",
    (True, {"length_mm": 350, "min_insertion_mm": 175}),
    (False, {"length_mm": 350, "min_insertion_mm": 176}),
    (True, {"length_mm": 440, "min_insertion_mm": 240, "dropper_travel_mm": 150, "stack_mm": 200}),
    (False, {"length_mm": 440, "min_insertion_mm": 241, "dropper_travel_mm": 150, "stack_mm": 200}),
    (True, {"length_mm": 440, "min_insertion_mm": 300, "dropper_travel_mm": 150}),
)
CASES += _held(
    "front_rotor",
    (True, {"thickness_mm": 1.8, "measured_mm": 1.85}),
    (False, {"thickness_mm": 1.8, "measured_mm": 1.86}),
)

# the joints of a doubted part: coded 34.9, measured 36.7 under an eight
seat = table(
    "freehub-seat",
    cassette={"mount": "spline9", "speeds": 8, "teeth": [11, 13, 15, 17, 20, 23, 26, 30]},
    rear_hub={"freehub": "spline9", "freehub_length_mm": 36.7},
)
CASES += [
    seat("unmeasured", "two_readings", asks=("rear_hub.freehub", "rear_hub.freehub_length_mm")),
    seat(None, None, cassette=None),
    # between two bodies: neither
    seat("unmeasured", "two_readings", rear_hub={"freehub_length_mm": 36.0}),
    # a freewheel goes on neither body
    seat("no_go", "other_family", cassette={"mount": "threaded", "speeds": 7, "teeth": [14, 28]},
         rear_hub={"freehub_swaps": []}),
]  # fmt: skip
# printed 10, 7.1 over the pins: a 2-to-8 chain; on 11 sprockets too wide either way
wide = table("chain-width", chain={"speeds": 10, "outer_width_mm": 7.1}, cassette={"speeds": 11})
CASES += [wide("no_go", "too_wide"), wide("unmeasured", "two_readings", cassette={"speeds": 10})]
