"""The verdict of a bike, kept with it so that the yard lists thousands: made at every write, anew when
rules or settings change.
"""

from __future__ import annotations

import functools
import hashlib
import json
from pathlib import Path
from typing import Any

from django.db import transaction

import unkett.core
from unkett.core.engine import Check, check
from unkett.core.finding import Verdict
from unkett.core.next_measure import next_measures
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.workshop.models import Workshop

BATCH = 100  # bikes judged anew in one request at most


@functools.cache
def core_fingerprint() -> str:
    """Changes when anything a verdict comes from changes: rules, calculations, tables."""
    digest = hashlib.sha256()
    for path in sorted(Path(unkett.core.__file__).parent.rglob("*")):
        if path.suffix in (".py", ".toml"):
            digest.update(path.read_bytes())
    return digest.hexdigest()


def judged_by(workshop: Workshop) -> str:
    """The mark of a verdict made by these rules under these settings."""
    own = json.dumps(workshop.settings, sort_keys=True)
    return hashlib.sha256(f"{core_fingerprint()} {own}".encode()).hexdigest()


def standing_json(found: Check) -> dict[str, Any]:
    """What the yard shows of a check: counts, the worst finding and what to measure first."""
    first = next(iter(next_measures(found.findings)), None)
    worst = found.findings[0] if found.findings and found.verdict is not Verdict.GOES else None
    return {
        "counts": {verdict.value: sum(f.verdict is verdict for f in found.findings) for verdict in Verdict},
        "says": worst.says if worst else "",
        "measure": f"{_named(first.slot)}: {first.title.lower()}" if first else "",
        "measure_at": [first.slot, first.attr or ""] if first and first.of_part else [],
        "settles": first.settles if first else 0,
        "open": len(found.open_slots),
    }


def _named(slot: str) -> str:
    return SLOTS[slot].title if slot in SLOTS else "Bike and rider"


def judge(bike: Bike, fitted: list[BikePart], workshop: Workshop) -> None:
    """Set the bike's verdict from its parts. Not saved here."""
    found = check(bike.build(fitted), Settings.of(workshop.settings))
    bike.verdict, bike.standing, bike.judged_by = (
        found.verdict.value,
        standing_json(found),
        judged_by(workshop),
    )


def judge_stale(workshop: Workshop, most: int | None = BATCH) -> int:
    """Judge bikes whose verdict is of other rules or settings; returns how many still wait."""
    mark = judged_by(workshop)
    stale = Bike.objects.filter(workshop=workshop).exclude(judged_by=mark)
    if not stale.exists():
        return 0
    with transaction.atomic():
        locked = stale.select_for_update(skip_locked=True).prefetch_related("fitted")
        bikes = list(locked.order_by("pk")[:most])
        for bike in bikes:
            judge(bike, list(bike.fitted.all()), workshop)
        Bike.objects.bulk_update(bikes, ["verdict", "standing", "judged_by"])
    return stale.count() if bikes and most is not None and len(bikes) == most else 0
