"""Figures and needs of findings worked by hand, of the first case with that message; other cases state
theirs beside themselves.
"""

from typing import Any

BY_HAND: dict[tuple[str, str], dict[str, Any]] = {
    ("bb-shell", "converted"): {"by": "glued sleeve"},  # 42 mm smooth to thread
    ("freewheel-room", "tight"): {"count": 8},
    ("chain-width", "too_narrow"): {"A_chain": "An 11-speed", "a_cassette": "a 9-speed"},
    ("ring-chain", "narrower"): {"a_chain": "an 11-speed"},
    ("largest-sprocket", "over"): {"largest": 36, "limit": 34, "over": 2},
    ("smallest-sprocket", "one_under"): {"smallest": 11, "limit": 12, "under": 1},
    ("capacity", "over"): {"needed": 41, "has": 39, "over": 2},  # (50 − 34) + (36 − 11)
    ("capacity", "rings_too_far"): {"needed": 16, "over": 3},  # 50 − 34
    ("capacity", "sprockets_too_far"): {"needed": 25, "over": 3},  # 36 − 11
    ("ring-difference", "over"): {"differ": 16, "limit": 14, "over": 2},
    ("rotor-thickness", "assumed"): {"least_mm": 1.5},  # 1.8 new, less 0.3
    ("rotor-thickness", "caliper"): {"low_mm": 1.75, "high_mm": 2.0},
    ("brake-fluid", "mixed"): {"one_fluid": "mineral oil", "other_fluid": "glycol fluid"},
    ("hose-fitting", "other_hose"): {"part": "the lever"},
    ("brake-line-type", "other"): {"a_line": "a hose", "works": "cable"},
    ("rim-brake-reach", "reaches"): {"needed_mm": 50, "low_mm": 47, "high_mm": 57},  # 361 − 622 / 2
    ("rim-brake-reach", "too_far"): {"needed_mm": 69},  # 361 − 584 / 2
    ("rim-brake-reach", "in_slot"): {"off_mm": 4},  # (630 − 622) / 2
    ("rim-brake-reach", "off_slot"): {"off_mm": 19},  # (622 − 584) / 2
    ("ring-mount", "too_small"): {"teeth": 28, "bcd_mm": 104, "least": 32},
    ("ring-mount", "fewer_rings"): {"count": 1, "seats": 2},
    ("chain-guide", "out_of_range"): {"teeth": 38, "low": 28, "high": 36},  # oval 36 counts two more
    ("dropper-room", "room"): {"room_mm": 230},  # 720 − 440 − 50
    ("index-alignment", "adjust"): {
        "travel_mm": 4.335,  # 2.55 × 1.7
        "error_mm": -0.015,  # − 4.35
        "worst_mm": 0.06,  # over four steps from the middle of nine
        "worst_from_small_mm": 0.12,  # over eight
        "clean": 9,
    },
    ("index-alignment", "noisy"): {"travel_mm": 4.505, "error_mm": 0.155, "worst_mm": 0.62},
    ("headset-fit", "other_cup"): {"place": "lower", "head": "EC44", "tube": "ZS44"},
    ("steerer-fit", "other_race"): {"takes_mm": 30.0},  # what ZS44/30 carries
    ("stem-spacers", "too_many"): {"limit_mm": 30},
    ("tyre-seat", "too_narrow"): {"least_mm": 29},  # 25 × 1.16
    ("tyre-width", "outside"): {"low_mm": 24, "high_mm": 48},  # 1.2 and 2.4 × 20
    ("tyre-pressure", "limit"): {"max_bar": 5.5},
}

# What is needed, with its size: the first need of the kind named.
NEEDS: dict[tuple[str, str, str], dict[str, Any]] = {
    ("freehub-seat", "spacer", "spacer"): {"size_mm": 1.85},  # 36.75 − 34.9
    ("freehub-seat", "swap_body", "freehub body"): {"body": "spline9"},
    ("freehub-seat", "ring_adapter", "adapter ring"): {"fits": "italic8"},
    ("capacity", "over", "keep out of the slack gears"): {"gears": ["34/11"]},
    ("chain-length", "too_long", "take links out"): {"links": 6, "to_links": 112},  # 118 − 112
    ("chain-angle", "avoid", "keep out of the end gear, or move the ring"): {"gears": ["38/34"]},
    ("ring-mount", "fewer_rings", "shorter ring bolts, or spacers of a ring's thickness"): {"count": 1},
    ("front-derailleur", "band_shim", "band shim"): {"size_mm": 31.8},
    ("bb-width", "spacers", "cup spacers"): {
        "size_mm": 3.0
    },  # 94 − 68 − 22 = 4, less half of the 2 that the preload takes up
    ("bb-width", "shell_spacers", "cup spacers"): {"size_mm": 2.5, "count": 2},  # (73 − 68) / 2
    ("caliper-mount", "needs_adapter", "adapter"): {"rotor_mm": 180, "step_mm": 20, "end": "front"},
    ("caliper-position", "washers", "pair of washers"): {"size_mm": 1.5},  # (203 − 200) / 2
    ("axle-fit", "caps", "end caps"): {"size_mm": 12},
    ("axle-fit", "narrower", "axle spacers"): {"size_mm": 6},  # 135 − 129
    ("bar-ends", "open", "bar plugs"): {"count": 2},
    ("steerer-fit", "reducer", "reducer crown race"): {"race_mm": 39.8, "size_mm": 30.0},
    ("stem-steerer", "sleeve", "stem sleeve"): {"size_mm": 25.4},
    ("steerer-length", "long", "cut the steerer"): {"size_mm": 2.0},  # 234 − 232
    ("stem-bar", "sleeve", "bar sleeve"): {"size_mm": 25.4},
    ("seatpost-fit", "shim", "seatpost shim"): {"size_mm": 31.6, "inner_mm": 27.2},
    ("spoke-length", "to_lace", "spokes"): {"side": "left", "size_mm": 292.9},
}
