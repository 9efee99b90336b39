"""Cases of wear: what is left of pads, rims and tyres, and how far a chain is elongated."""

from tests.cases import Case, table

# the shipped settings: pads 1.0 mm (near it within 0.5), rim walls 1.0 (0.2), tread 1.0 (0.3)
pads = table("wear-limit", front_caliper={"pad_mm": 3.0})
LEFT = [
    pads("goes", "enough", figures={"left_mm": 3.0, "least_mm": 1.0}),
    pads("goes", "enough", front_caliper={"pad_mm": 1.6}),
    pads("goes_if", "soon", front_caliper={"pad_mm": 1.5}, needs=("new part soon",)),
    pads("goes_if", "soon", front_caliper={"pad_mm": 1.1}),
    pads("no_go", "worn", front_caliper={"pad_mm": 1.0}),
    pads("no_go", "worn", front_caliper={"pad_mm": 0.9}, ways=("front_caliper.pad_mm",)),
    pads(None, None, front_caliper={"pad_mm": None}),
]
WALLS = [
    table("wear-limit", rear_rim={"wall_mm": wall})(verdict, key)
    for wall, verdict, key in (
        (1.3, "goes", "enough"),
        (1.2, "goes_if", "soon"),
        (1.0, "no_go", "worn"),
        (0.7, "no_go", "worn"),
    )
]
TREAD = [
    table("wear-limit", rear_tyre={"tread_mm": tread})(verdict, key)
    for tread, verdict, key in ((1.4, "goes", "enough"), (1.3, "goes_if", "soon"), (1.0, "no_go", "worn"))
]
chain = table("chain-wear", chain={"elongation_pct": 0.4}, cassette={"speeds": 10})
CHAIN = [
    chain("goes", "fresh", figures={"limit_pct": 0.75}),
    chain("goes", "fresh", chain={"elongation_pct": 0.64}),
    chain("goes_if", "soon", chain={"elongation_pct": 0.65}, needs=("new chain soon",)),
    chain("goes_if", "worn", chain={"elongation_pct": 0.75}, needs=("new chain",)),
    chain("goes_if", "worn", chain={"elongation_pct": 0.99}),
    chain("goes_if", "far", chain={"elongation_pct": 1.0}, figures={"over_pct": 0.25}),
    chain(
        "no_go",
        "new_cassette",
        chain={"elongation_pct": 0.75},
        cassette={"unused": True},
        ways=("chain.elongation_pct",),
    ),
    chain("goes_if", "soon", chain={"elongation_pct": 0.7}, cassette={"unused": True}),
    chain("goes_if", "worn", chain={"elongation_pct": 0.5}, cassette={"speeds": 11}),  # narrow: 0.5
    chain(
        "goes_if", "soon", chain={"elongation_pct": 0.9}, cassette={"speeds": None, "teeth": [18]}
    ),  # lone cog: 1.0
    chain("goes_if", "worn", chain={"elongation_pct": 0.5, "speeds": 12}, cassette=None),
    chain("unmeasured", "missing", cassette=None, asks=("chain.speeds",)),
    chain(None, None, chain={"elongation_pct": None}),
]  # fmt: skip
CASES: list[Case] = [*LEFT, *WALLS, *TREAD, *CHAIN]
