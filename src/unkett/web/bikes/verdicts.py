"""The verdict of a bike, kept with it so that the yard lists thousands: made at every write, again when
rules or settings change.
"""

from __future__ import annotations

import datetime
import functools
import hashlib
import json
import logging
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from django.db import models, transaction
from django.db.models.functions import Cast
from django.utils import timezone

import unkett.core
from unkett.core.build import Build
from unkett.core.check.engine import Check, check
from unkett.core.check.next_measure import next_measures
from unkett.core.check.open_slots import wanted_slots
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.workshop.models import Workshop

BATCH = 500  # bikes renewed in one transaction
CANNOT = "This bike cannot be checked: the log says why"


@functools.cache
def core_fingerprint() -> str:
    """Return a text that changes with anything a verdict comes from: rules, calculations, tables, what is kept."""
    digest = hashlib.sha256(Path(__file__).read_bytes())
    for path in sorted(Path(unkett.core.__file__).parent.rglob("*")):
        if path.suffix in (".py", ".toml"):
            digest.update(path.read_bytes())
    return digest.hexdigest()


def judged_by(workshop: Workshop) -> str:
    """Return the mark of a verdict made by these rules under these settings."""
    own = json.dumps(workshop.settings, sort_keys=True)
    return hashlib.sha256(f"{core_fingerprint()} {own}".encode()).hexdigest()


def summary_json(found: Check, build: Build) -> dict[str, Any]:
    """Return what the yard shows of a check: counts, the worst finding and what to measure first."""
    first, wanted = next(iter(next_measures(found.findings)), None), wanted_slots(build)
    worst = found.findings[0] if found.findings and found.verdict is not Verdict.GOES else None
    return {
        "counts": {verdict.value: sum(f.verdict is verdict for f in found.findings) for verdict in Verdict},
        "says": worst.says if worst else "",
        "measure": f"{_named(first.slot)}: {first.title.lower()}" if first else "",
        "measure_at": [first.slot, first.attr or ""] if first and first.of_part else [],
        "settles": first.settles if first else 0,
        "open": len(found.open_slots),
        "of": len(wanted),
        "recorded": len(wanted) - len(found.open_slots),
        "wants": sorted({*wanted} - {*build.filled()} | _refused_slots(found)),
        "accepted": sum(bool(finding.accepted) for finding in found.findings),
    }


def _refused_slots(found: Check) -> set[str]:
    """The slots of what does not go."""
    refused = [finding for finding in found.findings if finding.verdict is Verdict.NO_GO]
    return {slot for finding in refused for slot in finding.slots if slot in SLOTS}


def _named(slot: str) -> str:
    return SLOTS[slot].title if slot in SLOTS else "Bike and rider"


def fingerprint(finding: Finding) -> str:
    """Return a text that changes with anything a finding says: its figures, needs, words."""
    return hashlib.sha256(json.dumps(finding.to_json(), sort_keys=True).encode()).hexdigest()


def part_ids(finding: Finding, fitted: Iterable[BikePart]) -> dict[str, int]:
    """Return the physical parts that a finding speaks of, by slot."""
    return {slot: part.pk for part in fitted for slot in part.slots() if slot in finding.slots}


def _holds(entry: Mapping[str, Any], finding: Finding, fitted: Iterable[BikePart]) -> bool:
    """Whether what somebody accepted is still what is found: the day not past, the same parts, the same figures."""
    if entry["until"] and datetime.date.fromisoformat(entry["until"]) < timezone.localdate():
        return False
    return bool(entry["parts"] == part_ids(finding, fitted)) and bool(entry["told"] == fingerprint(finding))


def _words(entry: Mapping[str, Any]) -> str:
    until = f", until {day_words(datetime.date.fromisoformat(entry['until']))}" if entry["until"] else ""
    on = day_words(datetime.date.fromisoformat(entry["on"]))
    return f"Accepted by {entry['by']} on {on}{until}: {entry['reason']}"


def day_words(day: datetime.date) -> str:
    """Return a day as pages write it."""
    return f"{day:%-d %b %Y}"


def accepting(found: Check, bike: Bike, fitted: Iterable[BikePart]) -> Check:
    """Return a check of these parts where what somebody accepted counts as settled.

    An acceptance ends by itself: after its day, or as soon as a part or a figure of the finding is another.
    """
    if not bike.accepted:
        return found
    parts, by_ref = list(fitted), {finding.ref: finding for finding in found.findings}
    held = [
        entry
        for entry in bike.accepted
        if entry["ref"] in by_ref and _holds(entry, by_ref[entry["ref"]], parts)
    ]
    return found.accepting({entry["ref"]: _words(entry) for entry in held}) if held else found


def _first_end(bike: Bike) -> datetime.date | None:
    """The first day to come on which an acceptance ends."""
    days = [datetime.date.fromisoformat(entry["until"]) for entry in bike.accepted if entry["until"]]
    return min((day for day in days if day >= timezone.localdate()), default=None)


def judge(bike: Bike, fitted: list[BikePart], workshop: Workshop) -> None:
    """Set the bike's verdict from its parts. Not saved here."""
    build = bike.build(fitted)
    found = accepting(check(build, Settings.of(workshop.settings)), bike, fitted)
    bike.accepted_until = _first_end(bike)
    bike.verdict, bike.summary, bike.judged_by = (
        found.verdict.value,
        summary_json(found, build),
        judged_by(workshop),
    )


def is_stale(workshop: Workshop) -> models.Q:
    """Return the condition of a verdict that is of other rules, other settings or a day that has passed."""
    mark = judged_by(workshop)
    other = models.Q(judged_by__lt=mark) | models.Q(
        judged_by__gt=mark
    )  # an index can answer this, not "unlike"
    return other | models.Q(accepted_until__lt=timezone.localdate())


def stale_bikes(workshop: Workshop) -> models.QuerySet[Bike]:
    """Return the bikes whose verdict is to be renewed."""
    return Bike.objects.filter(models.Q(workshop=workshop) & is_stale(workshop))


def renew_batch(workshop: Workshop, bikes: models.QuerySet[Bike] | None = None, most: int = BATCH) -> int:
    """Judge stale bikes, of these or of all, and keep it; return how many were renewed.

    One transaction of its own. Bikes that somebody is writing at this moment are left out: the writing judges them.
    """
    found = stale_bikes(workshop) if bikes is None else bikes & stale_bikes(workshop)
    with transaction.atomic():
        locked = list(found.select_for_update(skip_locked=True, of=("self",)).order_by("pk")[:most])
        if not locked:
            return 0
        mark = judged_by(workshop)
        for alike in _alike(locked).values():
            first = alike[0]
            _judge_or_say(first, workshop, mark)
            Bike.objects.filter(pk__in=[bike.pk for bike in alike]).update(
                verdict=first.verdict,
                summary=first.summary,
                judged_by=mark,
                accepted_until=first.accepted_until,
            )
    return len(locked)


def _judge_or_say(bike: Bike, workshop: Workshop, mark: str) -> None:
    """Judge a bike; one that a fault of the rules makes impossible to judge must not stop the others."""
    try:
        judge(bike, list(BikePart.objects.filter(bike=bike)), workshop)
    except Exception:
        logging.getLogger("unkett.verdicts").exception("bike %s cannot be checked", bike.pk)
        bike.verdict, bike.summary, bike.judged_by = Verdict.UNMEASURED.value, {"says": CANNOT}, mark
        bike.accepted_until = None  # a day that has passed would make it stale again at once, for ever


def _alike(bikes: list[Bike]) -> dict[Any, list[Bike]]:
    """Group bikes by all that a check reads of them. One with something accepted or settled stands alone."""
    parts: dict[int, list[tuple[Any, ...]]] = {bike.pk: [] for bike in bikes}
    rows = BikePart.objects.filter(bike_id__in=parts).order_by("bike_id", "slot")
    texts = {f"{name}_text": Cast(name, models.TextField()) for name in ("also", "extra")}
    for bike_id, *part in rows.annotate(**texts).values_list(
        "bike_id", "slot", "kind", "name", "attrs_key", *texts
    ):
        parts[bike_id].append(tuple(part))
    found: dict[Any, list[Bike]] = {}
    for bike in bikes:
        own = [bike.use, bike.rider, bike.lever_hand, sorted(bike.empty), bike.extra, bike.parts_extra]
        alone = bike.pk if bike.accepted or bike.settled else None
        key = (alone, json.dumps(own, sort_keys=True), tuple(parts[bike.pk]))
        found.setdefault(key, []).append(bike)
    return found


def renew_next() -> bool:
    """Renew one batch of some workshop's stale bikes; return whether there was one."""
    return any(renew_batch(workshop) for workshop in Workshop.objects.order_by("pk"))


def renewed(bikes: Iterable[Bike], workshop: Workshop) -> list[Bike]:
    """Return bikes that a page is about to show, with verdicts of the rules and settings as they are now."""
    shown, mark, today = list(bikes), judged_by(workshop), timezone.localdate()
    ids = {
        bike.pk
        for bike in shown
        if bike.judged_by != mark or (bike.accepted_until is not None and bike.accepted_until < today)
    }
    if not ids:
        return shown
    renew_batch(workshop, Bike.objects.filter(pk__in=ids), len(ids))
    fresh = Bike.objects.only("verdict", "summary", "judged_by").in_bulk(ids)
    for bike in shown:
        if bike.pk in fresh:
            bike.verdict, bike.summary = fresh[bike.pk].verdict, fresh[bike.pk].summary
            bike.judged_by = fresh[bike.pk].judged_by
    return shown
