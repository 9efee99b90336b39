"""The bin with 100,000 pieces, a million ledger lines and 10,000 bikes: its pages and find by fit."""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from typing import Any

PIECES = 100_000
LINES = 1_000_000
SORTS = 60  # of each kind, pieces that differ
BATCH = 5_000


def figures(client: Any, owner: Any, paired_ms: Callable[..., tuple[float, float, float]]) -> dict[str, Any]:
    """Call it in a database with the demonstration and many bikes."""
    from django.db import connection
    from django.urls import reverse

    from unkett.core.settings import DEFAULTS
    from unkett.web.bikes.models import Bike, BikePart
    from unkett.web.bikes.queries import current_bike
    from unkett.web.bin.queries import PAGE, bikes_needing, pieces, pieces_for

    _fill(owner)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")
    bike = Bike.objects.get(name="Coast audax")
    build = current_bike(owner, bike.pk).build
    kind = "cassette"

    def listed() -> None:
        pieces(owner, where="bench", kind=kind)

    def page() -> None:
        assert client.get(reverse("bench:list"), {"kind": kind}).status_code == 200

    def bare() -> None:
        mine = BikePart.objects.filter(workshop=owner.workshop, where="bench", kind=kind)
        mine.count()
        list(mine.order_by("-pk")[:PAGE])

    def bare_page() -> None:
        assert client.get("/bare/").status_code == 200

    def fit() -> None:
        pieces_for(owner, build, kind, DEFAULTS)

    listed_ms, bare_ms, listed_ratio = paired_ms(listed, bare, 30)
    fit_ms, _, fit_ratio = paired_ms(fit, bare, 30)
    page_ms, bare_page_ms, _ = paired_ms(page, bare_page, 20)
    chain = BikePart.objects.filter(where="bench", kind="chain").first()
    begin = time.perf_counter()
    found = bikes_needing(owner, chain)
    return {
        "pieces": BikePart.objects.filter(where="bench").count(),
        "ledger_lines": _lines(),
        "bikes": Bike.objects.count(),
        "bare_query_ms": bare_ms,
        "listed_ms": listed_ms,
        "listed_ratio": listed_ratio,
        "find_by_fit_ms": fit_ms,
        "find_by_fit_ratio": fit_ratio,
        "bin_page_ms": page_ms,
        "bare_page_ms": bare_page_ms,
        "which_bikes_want_s": round(time.perf_counter() - begin, 2),
        "bikes_that_want": found.go + found.refused,
        "bikes_not_judged": found.not_judged,
    }


def _lines() -> int:
    from unkett.web.bikes.models import Move

    return Move.objects.count()


def _fill(owner: Any) -> None:
    """Pieces of every kind of the demonstration's bin, ten moves each; every third bike wants a chain."""
    from django.utils import timezone

    from unkett.web.bikes.models import Bike, BikePart, Move
    from unkett.web.wear.models import WearReading
    from unkett.web.workshop.models import LogEntry

    pick = random.Random(3)  # noqa: S311 - repeatable
    like = list(BikePart.objects.filter(where="bench").values("kind", "name", "attrs"))
    line = LogEntry.objects.create(
        workshop=owner.workshop, actor=owner, verb="bring in", about="part", about_id=0
    )
    for start in range(0, PIECES, BATCH):
        made = BikePart.objects.bulk_create(
            BikePart(
                workshop=owner.workshop, where="bench", box=f"Z {n % 400}", value=n % 50,
                **_varied(like[n % len(like)], n // len(like) % SORTS),
            )
            for n in range(start, start + BATCH)
        )  # fmt: skip
        each = LINES // PIECES
        Move.objects.bulk_create(
            (
                Move(
                    line=line, part=part, from_where="" if k == 0 else "bench", to_where="bench",
                    before=None if k == 0 else {}, after={},
                )
                for part in made
                for k in range(each)
            ),
            batch_size=20_000,
        )  # fmt: skip
    bikes = Bike.objects.filter(workshop=owner.workshop, name__startswith="Bike ")
    chains = BikePart.objects.filter(bike__in=bikes, slot="chain").order_by("pk")
    WearReading.objects.bulk_create(
        WearReading(
            bike_id=part.bike_id, part=part, slot="chain", sort="chain_pct", value=0.9, on=timezone.localdate(),
            worn=True,
        )
        for part in list(chains)[::3]
    )  # fmt: skip
    cassettes = list(BikePart.objects.filter(bike__in=bikes, slot="cassette"))
    for part in cassettes:  # so that bikes differ round the chain
        part.attrs = {**part.attrs, "extra_spacer_mm": round(pick.randrange(300) / 100, 2)}
    BikePart.objects.bulk_update(cassettes, ["attrs"], batch_size=1000)


def _varied(one: dict[str, Any], n: int) -> dict[str, Any]:
    """A piece a little different from another of its kind."""
    attrs = dict(one["attrs"])
    for name, value in one["attrs"].items():
        if name.endswith("_mm") and isinstance(value, float):
            attrs[name] = round(value + n / 1000, 3)
        elif name == "links":
            attrs[name] = value + 2 * (n % 20)
    return {**one, "attrs": attrs}
