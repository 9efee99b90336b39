"""The parts bin, found by fit: what in it goes on a bike, and which bikes want a piece of it."""

from __future__ import annotations

import functools
import json
from collections.abc import Iterable, Mapping
from typing import Any

from attrs import evolve, field, frozen
from django.core.paginator import Page, Paginator
from django.db.models import Count, Prefetch, Q, QuerySet, Sum
from django.utils import timezone

from unkett.core.bike.wear import worn_out
from unkett.core.build import Build
from unkett.core.check.engine import SlotChecker
from unkett.core.check.part_effect import Chooser, PartEffect, Rank
from unkett.core.formats.reader import read_build, stored_part
from unkett.core.rules.finding import Verdict
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS, slots_of_kind
from unkett.web.bikes.models import Bike, BikePart, Feel, Move, Status, Where
from unkett.web.bikes.permissions import bikes_seen_by, parts_seen_by
from unkett.web.bikes.queries import CurrentBike, settings_of
from unkett.web.bikes.verdicts import stale_bikes
from unkett.web.catalogue.models import StockItem
from unkett.web.catalogue.stock import stock_seen_by
from unkett.web.wear.models import WearReading
from unkett.web.wear.queries import SOON
from unkett.web.workshop.models import User
from unkett.web.workshop.search import folded_columns, searched

PAGE = 40
FEW = 300  # pieces of a bin that are all judged at once
CLASSES_MOST = 600  # bikes that differ around a slot, judged for one piece
SHOWN_MOST = 40
SOUND_FEELS = ("", Feel.SMOOTH.value)


def pieces_seen_by(actor: User, where: str = Where.BENCH) -> QuerySet[BikePart]:
    """Return the pieces of the bin, or those that left it by one way."""
    return parts_seen_by(actor).filter(where=where)


@frozen(kw_only=True)
class Pieces:
    """One sheet of the pieces, and of all that were found how many there are and what they are worth."""

    sheet: Page[Any]
    number: int
    worth: Any


def pieces(
    actor: User, *, where: str, find: str = "", kind: str = "", box: str = "", page: int = 1
) -> Pieces:
    """Return the pieces that hold every word in their name or box, of one kind, in one box; the latest first."""
    found = pieces_seen_by(actor, where)
    if find.strip():
        found = searched(found.alias(folded=folded_columns("name", "box", "kind")), find)
    if kind:
        found = found.filter(kind=kind)
    if box:
        found = found.filter(box=box)
    sums = found.aggregate(number=Count("pk"), worth=Sum("value"))
    sheet: Page[Any] = Paginator(range(sums["number"]), PAGE).get_page(page)
    start = (sheet.number - 1) * PAGE
    latest = Move.objects.order_by("part_id", "-pk").distinct("part_id")
    came = Prefetch("moves", queryset=latest.select_related("line__actor", "from_bike"))
    shown = found.order_by("-pk").prefetch_related(came)[start : start + PAGE]
    sheet.object_list = list(shown)
    return Pieces(sheet=sheet, number=sums["number"], worth=sums["worth"])


def boxes_of(actor: User) -> list[str]:
    """Return the boxes that hold something, by name."""
    held = pieces_seen_by(actor).exclude(box="").order_by().values_list("box", flat=True).distinct()
    counted = stock_seen_by(actor).exclude(box="").order_by().values_list("box", flat=True).distinct()
    return sorted({*held[:2000], *counted[:2000]})


def in_box(actor: User, box: str) -> tuple[list[BikePart], list[StockItem]]:
    """Return what should lie in a box: its pieces, and what is counted there."""
    lying = pieces_seen_by(actor).filter(box=box).order_by("kind", "pk")
    there = stock_seen_by(actor).filter(box=box, count__isnull=False)
    return list(lying[:1000]), list(there[:1000])


# what in the bin goes on this bike


@frozen
class _Judge:
    """Ranks pieces for one slot of one build; those with the same figures once."""

    chooser: Chooser
    ranks: dict[str, Rank] = field(factory=dict)


@functools.lru_cache(maxsize=128)
def _judge(build_text: str, slot: str, settings_text: str) -> _Judge:
    return _Judge(Chooser(read_build(build_text), slot, Settings.of(json.loads(settings_text))))


@frozen(kw_only=True)
class Piece:
    """A piece of the bin judged in a slot before it is fitted."""

    part: BikePart
    chosen: PartEffect

    @property
    def verdict(self) -> Verdict:
        return self.chosen.verdict

    @property
    def says(self) -> str:
        return self.chosen.asking[0].says if self.chosen.asking else ""


@frozen(kw_only=True)
class PiecesThatGo:
    """The pieces of the bin for one slot, those that go first, and how many of each verdict there are."""

    slot: str
    shown: tuple[Piece, ...]
    counts: Mapping[Verdict, int]

    @property
    def title(self) -> str:
        return SLOTS[self.slot].title

    @property
    def number(self) -> int:
        return sum(self.counts.values())


def pieces_by_slot(actor: User) -> dict[str, int]:
    """Return by slot that a bike may have, how many pieces of the bin are of its kind."""
    found = pieces_seen_by(actor).filter(also=[]).order_by().values_list("kind").annotate(Count("pk"))
    by_kind = dict(found)
    return {slot: by_kind[at.kind] for slot, at in SLOTS.items() if at.kind in by_kind}


def pieces_for(actor: User, build: Build, slot: str, settings: Settings, most: int = PAGE) -> PiecesThatGo:
    """Return what lies in the bin for a slot of this build, judged: best first."""
    alike = json.dumps(evolve(build, name="", about={}).to_json())
    judge = _judge(alike, slot, json.dumps(dict(settings.own), sort_keys=True))
    mine = pieces_seen_by(actor).filter(kind=SLOTS[slot].kind, also=[])
    numbers = dict(mine.order_by().values_list("attrs_key").annotate(Count("pk")))
    new = numbers.keys() - judge.ranks.keys()
    if new:
        one_each = mine.filter(attrs_key__in=new).order_by("attrs_key").distinct("attrs_key")
        for key, attrs in one_each.values_list("attrs_key", "attrs"):
            judge.ranks[key] = judge.chooser.rank(stored_part(SLOTS[slot].kind, "", attrs).attrs)
    known = {key: judge.ranks[key] for key in numbers if key in judge.ranks}
    wanted: list[str] = []
    there = 0
    for key in sorted(known, key=lambda key: (known[key], key)):
        if there < most:
            wanted.append(key)
            there += numbers[key]
    rows = sorted(
        mine.filter(attrs_key__in=wanted)[: most * 4], key=lambda one: (known[one.attrs_key], one.pk)
    )
    counts = dict.fromkeys(Verdict, 0)
    for key, rank in known.items():
        counts[tuple(Verdict)[-rank[0]]] += numbers[key]
    shown = tuple(Piece(part=part, chosen=judge.chooser.choose(part.as_part().attrs)) for part in rows[:most])
    return PiecesThatGo(slot=slot, shown=shown, counts=counts)


def all_that_go(actor: User, stands: CurrentBike) -> list[PiecesThatGo]:
    """Of a small bin, by slot what goes on the bike as it stands, with a need or without."""
    settings, by_slot = settings_of(actor), pieces_by_slot(actor)
    found = [pieces_for(actor, stands.build, slot, settings, FEW) for slot in by_slot]
    return [one for one in found if one.counts[Verdict.GOES] or one.counts[Verdict.GOES_IF]]


# which of our bikes wants this


@frozen(kw_only=True)
class NeedingBike:
    """A bike that wants a piece: where, why, and whether it goes there."""

    bike: Bike
    slot: str
    why: str
    chosen: PartEffect

    @property
    def title(self) -> str:
        return SLOTS[self.slot].title

    @property
    def says(self) -> str:
        return self.chosen.asking[0].says if self.chosen.asking else ""


@frozen(kw_only=True)
class BikesNeeding:
    """The bikes that want a piece, and how many more ask for such a part but were not judged, or do not take this."""

    shown: tuple[NeedingBike, ...]
    go: int
    refused: int
    not_judged: int
    waiting: int  # bikes whose verdict is being renewed: what they lack may be of other rules


# the reasons for which a bike wants a part, the strongest first
WORN, BROKEN, LACKS, SOON_WORN = "worn", "not sound", "lacking, or does not go", "worn soon"
REASONS = (WORN, BROKEN, LACKS, SOON_WORN)
_Key = tuple[Any, ...]


def bikes_needing(actor: User, part: BikePart) -> BikesNeeding:
    """Return the bikes here that have a reason to take a piece and whose joints let it, strongest reason first.

    A reason: what stands in the slot is worn or soon will be, feels or looks unsound, does not go, or is lacking.
    Bikes that are alike in everything the slot's rules read are judged once; what is shown is judged by itself.
    """
    attrs = part.as_part().attrs
    settings = settings_of(actor)
    ranked: list[tuple[Rank, int, int, str, str]] = []
    refused = not_judged = 0
    for slot in (one.name for one in slots_of_kind(part.kind)):
        if worn_out(slot, part.as_part(), settings):
            continue
        reasons = _reasons(actor, slot)
        classes = _alike(actor, slot, reasons)
        order = sorted(classes.values(), key=lambda ids: min(REASONS.index(reasons[pk]) for pk in ids))
        not_judged += sum(len(ids) for ids in order[CLASSES_MOST:])
        builds = _builds([ids[0] for ids in order[:CLASSES_MOST]], SlotChecker.reads(slot))
        for ids in order[:CLASSES_MOST]:
            rank = Chooser(builds[ids[0]], slot, settings).rank(attrs)
            if tuple(Verdict)[-rank[0]] is Verdict.NO_GO:
                refused += len(ids)
            else:
                ranked += [(rank[:4], REASONS.index(reasons[pk]), pk, slot, reasons[pk]) for pk in ids]
    best = sorted(ranked)[:SHOWN_MOST]
    return BikesNeeding(
        shown=_needing(best, attrs, settings), go=len(ranked), refused=refused, not_judged=not_judged,
        waiting=stale_bikes(actor.workshop).filter(status=Status.HERE).count(),
    )  # fmt: skip


def _needing(
    best: list[tuple[Rank, int, int, str, str]], attrs: Mapping[str, Any], settings: Settings
) -> tuple[NeedingBike, ...]:
    bikes = Bike.objects.defer("undo", "summary").in_bulk([row[2] for row in best])
    builds = _builds(list(bikes), None)
    out = []
    for _, _, pk, slot, why in best:
        chosen = Chooser(builds[pk], slot, settings).choose(attrs)
        if chosen.verdict is not Verdict.NO_GO:
            out.append(NeedingBike(bike=bikes[pk], slot=slot, why=why, chosen=chosen))
    return tuple(out)


def _reasons(actor: User, slot: str) -> dict[int, str]:
    """Return by bike that is here, the strongest reason to put another part into a slot."""
    here = bikes_seen_by(actor).filter(status=Status.HERE)
    readings = WearReading.objects.filter(
        latest=True,
        struck=False,
        part__workshop_id=actor.workshop_id,
        part__bike__status=Status.HERE,
        part__slot=slot,
    )
    soon = readings.filter(worn=False, due__lte=timezone.localdate() + SOON)
    fitted = BikePart.objects.filter(workshop_id=actor.workshop_id, slot=slot, bike__status=Status.HERE)
    unsound = fitted.exclude(condition={}).filter(
        (Q(condition__has_key="feel") & ~Q(condition__feel__in=SOUND_FEELS)) | Q(condition__has_key="damage")
    )
    found = dict.fromkeys(soon.values_list("part__bike_id", flat=True), SOON_WORN)
    found |= dict.fromkeys(here.filter(summary__wants__contains=[slot]).values_list("pk", flat=True), LACKS)
    found |= dict.fromkeys(unsound.values_list("bike_id", flat=True), BROKEN)
    return found | dict.fromkeys(readings.filter(worn=True).values_list("part__bike_id", flat=True), WORN)


def _alike(actor: User, slot: str, ids: Iterable[int]) -> dict[_Key, list[int]]:
    """Bikes grouped by everything that the rules of a slot read of them but the slot itself."""
    seen = SlotChecker.reads(slot)
    parts: dict[int, list[tuple[str, str, str]]] = {}
    there = BikePart.objects.filter(bike_id__in=ids).exclude(slot=slot)
    reads = there.filter(Q(slot__in=seen) | ~Q(also=[]))
    for bike_id, at, key, also in reads.values_list("bike_id", "slot", "attrs_key", "also").order_by("slot"):
        parts.setdefault(bike_id, []).append((at, key, str(also)))
    bikes = Bike.objects.filter(pk__in=ids).values_list("pk", "use", "rider", "lever_hand", "empty")
    found: dict[_Key, list[int]] = {}
    for pk, use, rider, hands, empty in bikes:
        about = json.dumps([use, rider, hands], sort_keys=True)
        key = (about, tuple(sorted(seen & set(empty))), tuple(parts.get(pk, ())))
        found.setdefault(key, []).append(pk)
    return found


def _builds(ids: list[int], slots: frozenset[str] | None) -> dict[int, Build]:
    """Bikes as the core reads them, of their parts those in these slots."""
    parts = BikePart.objects.all()
    if slots is not None:
        parts = parts.filter(Q(slot__in=slots) | ~Q(also=[]))
    bikes = Bike.objects.filter(pk__in=ids).defer("undo", "summary")
    return {
        bike.pk: bike.build(list(bike.fitted.all()))
        for bike in bikes.prefetch_related(Prefetch("fitted", parts))
    }
