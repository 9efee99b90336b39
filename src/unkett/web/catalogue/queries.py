"""What goes in a slot: exact, paged, whatever the catalogue's size.

The rules say which attributes they read, so parts fall into classes that are alike to every rule.
The core decides each class exactly; the database then pages through the parts of the classes that
were asked for, in the order asked for, by index.
"""

from __future__ import annotations

import functools
import json
from collections.abc import Iterable, Mapping
from typing import Any

from attrs import evolve, frozen
from django.db.models import Count, Q, QuerySet, TextField
from django.db.models.functions import Cast

from unkett.core.bike.wheels import wheel_slots
from unkett.core.build import Build
from unkett.core.check.engine import Check, SlotChecker, check
from unkett.core.check.part_effect import Chooser, PartEffect, Rank
from unkett.core.formats.reader import new_part, read_build, stored_part
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.catalogue.models import CataloguePart, FitClass
from unkett.web.catalogue.services import reads_mark, renew_classes
from unkett.web.rulebook.queries import codes_called
from unkett.web.workshop.models import User
from unkett.web.workshop.search import searched

PAGE = 40
WHEELS_SHOWN = 30
SORTS = {
    "near": ("price", "id"),
    "price": ("price", "id"),
    "mass": ("mass_g", "id"),
    "place": ("place", "id"),
}
BEST_FIRST = tuple(reversed(Verdict))
NOTHING_CHECKS = "Nothing on this bike checks it yet: fill the slots it mates with."


@frozen(kw_only=True)
class Candidate:
    """A catalogue part judged in a slot before it is chosen, with the plate it goes on by where it wants one."""

    part: CataloguePart
    chosen: PartEffect
    plate: CataloguePart | None = None

    @property
    def check(self) -> Check:
        return self.chosen.check

    @property
    def verdict(self) -> Verdict:
        return self.chosen.verdict

    @property
    def says(self) -> str:
        """Why not simply Goes: the worst finding; nothing for Goes."""
        if not self.check.findings:
            return NOTHING_CHECKS
        return self.chosen.asking[0].says if self.chosen.asking else ""

    @property
    def more(self) -> tuple[Finding, ...]:
        """What else asks for something."""
        return self.chosen.asking[1:]


@frozen(kw_only=True)
class Candidates:
    """One page of what could go in a slot: what goes first, what does not last, each with its reason."""

    shown: tuple[Candidate, ...]
    counts: Mapping[Verdict, int]
    page: int
    pages: int


def parts_seen_by(actor: User) -> QuerySet[CataloguePart]:
    return CataloguePart.objects.filter(workshop_id=actor.workshop_id)


def on_offer(actor: User) -> QuerySet[CataloguePart]:
    """Return the parts that can be had."""
    return parts_seen_by(actor).filter(retired=False)


def found_by_words(parts: QuerySet[CataloguePart], actor: User, find: str) -> QuerySet[CataloguePart]:
    """Parts that hold every word in their name, maker or kind, or carry a code the workshop calls by it."""

    def called(word: str) -> Iterable[Q]:
        return [Q(codes__icontains=f'"{code}"') for code in codes_called(actor.workshop_id, word)]

    return searched(parts.alias(codes=Cast("attrs", TextField())), find, called) if find.strip() else parts


@functools.lru_cache(maxsize=64)
def _classes(workshop_id: int, kind: str, version: int) -> tuple[tuple[int, Mapping[str, Any], int], ...]:
    """Id, attributes and number of parts of every class of a kind; read once per catalogue version."""
    made = FitClass.objects.filter(workshop_id=workshop_id, kind=kind, made_from=reads_mark(kind))
    rows = made.annotate(number=Count("parts"))
    return tuple((row.pk, stored_part(kind, "", row.attrs).attrs, row.number) for row in rows)


@frozen(kw_only=True)
class Plated:
    """A rotor's class with the cheapest plate by which the caliper goes on it."""

    chooser: Chooser
    plate: CataloguePart


@frozen(kw_only=True)
class ClassVerdicts:
    """How near every class of a kind is in one slot of one build."""

    chooser: Chooser
    ranks: Mapping[int, Rank]
    attrs: Mapping[int, Mapping[str, Any]]
    numbers: Mapping[int, int]
    plated: Mapping[int, Plated]
    judged: dict[int, PartEffect]

    def chosen(self, pk: int) -> PartEffect:
        """Return a class judged; made when it is first shown."""
        if pk not in self.judged:
            chooser = self.plated[pk].chooser if pk in self.plated else self.chooser
            self.judged[pk] = chooser.choose(self.attrs[pk])
        return self.judged[pk]

    def candidate(self, part: CataloguePart) -> Candidate:
        """Return a part of one of the classes, judged."""
        class_id = part.fit_class_id or 0  # one of these classes, so never 0
        plated = self.plated.get(class_id)
        return Candidate(part=part, chosen=self.chosen(class_id), plate=plated.plate if plated else None)


def _verdict(rank: Rank) -> Verdict:
    return tuple(Verdict)[-rank[0]]


@functools.lru_cache(maxsize=128)
def _verdicts(
    workshop_id: int, version: int, slot: str, build_text: str, settings_text: str, new: bool
) -> ClassVerdicts:
    """Pure in its arguments: the build and the settings as text, the catalogue by its version."""
    build, settings = read_build(build_text), Settings.of(json.loads(settings_text))
    chooser = Chooser(build, slot, settings)
    kind = SLOTS[slot].kind
    classes = _classes(workshop_id, kind, version)
    if new:
        classes = tuple((pk, new_part(kind, "", attrs).attrs, number) for pk, attrs, number in classes)
    ranks = {pk: chooser.rank(attrs) for pk, attrs, _ in classes}
    attrs = {pk: attrs for pk, attrs, _ in classes}
    plated = _plated(workshop_id, build, slot, settings, attrs, ranks) if slot.endswith("_rotor") else {}
    return ClassVerdicts(
        chooser=chooser,
        ranks=ranks | {pk: one.chooser.rank(attrs[pk]) for pk, one in plated.items()},
        attrs=attrs,
        numbers={pk: number for pk, _, number in classes},
        plated=plated,
        judged={},
    )


def _plated(
    workshop_id: int,
    build: Build,
    slot: str,
    settings: Settings,
    attrs: Mapping[int, Mapping[str, Any]],
    ranks: Mapping[int, Rank],
) -> dict[int, Plated]:
    """Return by class of rotors, the cheapest plate that makes it go better than as it is; none where none does."""
    plates = CataloguePart.objects.filter(workshop_id=workshop_id, retired=False, kind="brake_adapter")
    first_of = {plate.fit_class_id: plate for plate in plates.order_by("-price", "-name")}
    bare = evolve(build, parts={name: part for name, part in build.parts.items() if name != slot})
    mounts = SlotChecker(bare, plate_slot(slot), settings)
    choosers = []
    for plate in sorted(
        first_of.values(), key=lambda plate: (plate.price is None, plate.price or 0, plate.name)
    ):
        part = stored_part(plate.kind, plate.name, plate.attrs)
        if mounts.verdict(part.attrs) is Verdict.NO_GO:
            continue  # made for another mount than the frame's or the caliper's
        with_plate = build.with_part(plate_slot(slot), part)
        choosers.append(Plated(chooser=Chooser(with_plate, slot, settings), plate=plate))
    out: dict[int, Plated] = {}
    for pk, rotor in attrs.items():
        if choosers and _verdict(ranks[pk]) is not Verdict.GOES:
            best, number = min((one.chooser.rank(rotor)[:4], n) for n, one in enumerate(choosers))
            if best < ranks[pk][:4]:
                out[pk] = choosers[number]
    return out


def class_verdicts(
    actor: User, build: Build, slot: str, settings: Settings, *, new: bool = False
) -> ClassVerdicts:
    """Return the verdict of every class of the slot's kind; kept until catalogue, build or settings change."""
    kinds = [SLOTS[slot].kind, *(["brake_adapter"] if slot.endswith("_rotor") else [])]
    renew_classes(actor.workshop, kinds)  # after an upgrade, where the background has not come to them yet
    return _verdicts(
        actor.workshop_id,
        actor.workshop.catalogue_version,
        slot,
        json.dumps(evolve(build, name="", about={}).to_json()),  # bikes that are alike share it
        json.dumps(dict(settings.own), sort_keys=True),
        new,
    )


def _together(slices: list[QuerySet[CataloguePart]]) -> Iterable[CataloguePart]:
    """Several slices in one query; each comes in its own order."""
    if len(slices) < 2:
        return slices[0] if slices else ()
    return slices[0].union(*slices[1:], all=True)


def _numbers_of(parts: QuerySet[CataloguePart], verdicts: ClassVerdicts) -> dict[int, int]:
    """Return how many of some parts each class has; a class made since this request began is seen by the next."""
    found = parts.order_by().values_list("fit_class_id").annotate(number=Count("id"))
    return {pk: number for pk, number in found if pk in verdicts.ranks}


def what_goes(
    actor: User,
    build: Build,
    slot: str,
    settings: Settings,
    *,
    find: str = "",
    sort: str = "near",
    here: bool = False,
    page: int = 1,
    new: bool = False,
) -> Candidates:
    """One page of the catalogue for a slot of this build, best verdict first, then in the order asked for.

    `find` narrows by words in name or maker, `here` to parts in the house; `new` judges them as bought new. The order
    `near` puts what asks least first, and among those what is most like the part that stands there.
    """
    verdicts = class_verdicts(actor, build, slot, settings, new=new)
    parts = on_offer(actor).filter(kind=SLOTS[slot].kind, also=[])
    parts = found_by_words(parts, actor, find)
    if here:
        parts = parts.filter(days=0)
    numbers = _numbers_of(parts, verdicts) if find or here else verdicts.numbers
    places: dict[Rank, list[int]] = {}
    for pk in numbers:
        rank = verdicts.ranks[pk]
        places.setdefault(rank if sort == "near" else rank[:1], []).append(pk)
    pages = max(1, -(-sum(numbers.values()) // PAGE))
    page = min(max(page, 1), pages)
    slices = []
    skip, room = (page - 1) * PAGE, PAGE
    whole: list[int] = []
    for rank in sorted(places):
        number = sum(numbers[pk] for pk in places[rank])
        take = min(room, number - skip)
        if take <= 0:
            skip -= min(skip, number)
            continue
        if take == number:
            whole += places[rank]
        else:
            rows = parts.filter(fit_class_id__in=places[rank])
            slices.append(rows.order_by(*SORTS[sort])[skip : skip + take])
        skip, room = 0, room - take
    if whole:
        slices.append(parts.filter(fit_class_id__in=whole).order_by(*SORTS[sort])[:PAGE])
    shown = [verdicts.candidate(part) for part in _together(slices)]
    column = SORTS[sort][0]

    def in_order(candidate: Candidate) -> tuple[Any, ...]:
        value, rank = getattr(candidate.part, column), verdicts.ranks[candidate.part.fit_class_id or 0]
        place = rank if sort == "near" else rank[:1]
        return place, value is None, 0 if value is None else value, candidate.part.pk

    shown.sort(key=in_order)
    counts = dict.fromkeys(BEST_FIRST, 0)
    for pk, number in numbers.items():
        counts[_verdict(verdicts.ranks[pk])] += number
    return Candidates(shown=tuple(shown), counts=counts, page=page, pages=pages)


@frozen(kw_only=True)
class Wheel:
    """A ready-built wheel of the catalogue, judged on a bike: what its joints say with it on."""

    part: CataloguePart
    findings: tuple[Finding, ...]

    @property
    def verdict(self) -> Verdict:
        return min(
            (one.verdict for one in self.findings), key=lambda one: one.order, default=Verdict.UNMEASURED
        )

    @property
    def says(self) -> str:
        """Why not simply Goes: the worst finding; nothing for Goes."""
        asking = [one for one in self.findings if one.verdict is not Verdict.GOES]
        return asking[0].says if asking else ""


def wheels_that_go(actor: User, build: Build, end: str, settings: Settings) -> list[Wheel]:
    """Return the ready-built wheels on offer for an end of a bike, what goes first, then the cheaper."""
    hub, *others = wheel_slots(end)
    wheels = on_offer(actor).filter(kind="hub", also=others).order_by("price", "pk")[:WHEELS_SHOWN]
    found = []
    for part in wheels:
        then = build.with_part(hub, new_part(part.kind, part.name, part.attrs, part.also))
        findings = [one for one in check(then, settings).findings if {hub, *others} & set(one.slots)]
        found.append(Wheel(part=part, findings=tuple(findings)))
    return sorted(found, key=lambda one: -one.verdict.order)


def plate_slot(slot: str) -> str:
    """Return where the plate of a rotor's caliper stands."""
    return slot.replace("_rotor", "_brake_adapter")
