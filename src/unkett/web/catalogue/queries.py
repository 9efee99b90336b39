"""What goes in a slot: exact, paged, whatever the catalogue's size.

The rules say which attributes they read, so parts fall into classes that are alike to every rule.
The core decides each class exactly; the database then pages through the parts of the classes that
were asked for, in the order asked for, by index.
"""

from __future__ import annotations

import functools
import json
from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen
from django.db.models import Count, Q, QuerySet, TextField
from django.db.models.functions import Cast

from unkett.core.build import Build, read_build, stored_part
from unkett.core.engine import Check, SlotChecker, said_by
from unkett.core.finding import Verdict, worst
from unkett.core.rules import RULES
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.catalogue.models import CataloguePart, FitClass
from unkett.web.rulebook.queries import codes_called
from unkett.web.workshop.models import User

PAGE = 40
SORTS = {"price": ("price", "id"), "mass": ("mass_g", "id"), "place": ("place", "id")}
BEST_FIRST = tuple(reversed(Verdict))


def why(check: Check) -> str:
    """The worst finding of a slot's check in words, with how many more there are; nothing for Goes."""
    if not check.findings:
        return "Nothing on this bike checks it yet: fill the slots it mates with."
    asking = [finding for finding in check.findings if finding.verdict is not Verdict.GOES]
    more = f" (and {len(asking) - 1} more)" if len(asking) > 1 else ""
    return asking[0].says + more if asking else ""


@frozen(kw_only=True)
class Candidate:
    """A catalogue part with its verdict in a slot, before it is chosen."""

    part: CataloguePart
    check: Check

    @property
    def verdict(self) -> Verdict:
        return self.check.verdict

    @property
    def says(self) -> str:
        """Why not simply Goes: the worst finding, and how many more ask for something."""
        return why(self.check)


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
    """The parts that can be had."""
    return parts_seen_by(actor).filter(retired=False)


def found_by_words(parts: QuerySet[CataloguePart], actor: User, find: str) -> QuerySet[CataloguePart]:
    """Parts that hold every word in their name or maker, or carry a code the workshop calls by it."""
    for word in find.split()[:6]:
        holds = Q(name__icontains=word) | Q(maker__icontains=word)
        for code in codes_called(actor.workshop_id, word):
            holds |= Q(codes__icontains=f'"{code}"')
        parts = parts.alias(codes=Cast("attrs", TextField())).filter(holds)
    return parts


@functools.lru_cache(maxsize=64)
def _classes(workshop_id: int, kind: str, version: int) -> tuple[tuple[int, Mapping[str, Any], int], ...]:
    """Id, attributes and number of parts of every class of a kind; read once per catalogue version."""
    rows = FitClass.objects.filter(workshop_id=workshop_id, kind=kind).annotate(number=Count("parts"))
    return tuple((row.pk, stored_part(kind, "", row.attrs).attrs, row.number) for row in rows)


@frozen(kw_only=True)
class ClassVerdicts:
    """The verdict of every class of a kind in one slot of one build."""

    checker: SlotChecker
    by_class: Mapping[int, Verdict]
    attrs: Mapping[int, Mapping[str, Any]]
    ids: Mapping[Verdict, tuple[int, ...]]
    counts: Mapping[Verdict, int]
    checks: dict[int, Check]

    def check(self, pk: int) -> Check:
        """All findings of a class; made when it is first shown."""
        if pk not in self.checks:
            self.checks[pk] = self.checker.check(self.attrs[pk])
        return self.checks[pk]


@functools.lru_cache(maxsize=128)
def _verdicts(
    workshop_id: int, version: int, slot: str, build_text: str, settings_text: str
) -> ClassVerdicts:
    """Pure in its arguments: the build and the settings as text, the catalogue by its version."""
    checker = SlotChecker(read_build(build_text), slot, Settings.of(json.loads(settings_text)))
    by_class: dict[int, Verdict] = {}
    ids: dict[Verdict, list[int]] = {verdict: [] for verdict in BEST_FIRST}
    counts: Counter[Verdict] = Counter()
    for pk, attrs, number in _classes(workshop_id, SLOTS[slot].kind, version):
        verdict = by_class[pk] = checker.verdict(attrs)
        ids[verdict].append(pk)
        counts[verdict] += number
    return ClassVerdicts(
        checker=checker,
        by_class=by_class,
        attrs={pk: attrs for pk, attrs, _ in _classes(workshop_id, SLOTS[slot].kind, version)},
        ids={verdict: tuple(of) for verdict, of in ids.items()},
        counts=counts,
        checks={},
    )


def class_verdicts(actor: User, build: Build, slot: str, settings: Settings) -> ClassVerdicts:
    """The verdict of every class of the slot's kind; kept until catalogue, build or settings change."""
    build_text = json.dumps(build.to_json())
    return _verdicts(
        actor.workshop_id,
        actor.workshop.catalogue_version,
        slot,
        build_text,
        json.dumps(dict(settings.own), sort_keys=True),
    )


def _together(slices: list[QuerySet[CataloguePart]]) -> Iterable[CataloguePart]:
    """Several slices in one query; each comes in its own order."""
    if len(slices) < 2:
        return slices[0] if slices else ()
    return slices[0].union(*slices[1:], all=True)


def what_goes(
    actor: User,
    build: Build,
    slot: str,
    settings: Settings,
    *,
    find: str = "",
    sort: str = "price",
    here: bool = False,
    page: int = 1,
) -> Candidates:
    """One page of the catalogue for a slot of this build, best verdict first, then in the order asked for.

    `find` narrows by words in name or maker, `here` to parts that are in the house.
    """
    verdicts = class_verdicts(actor, build, slot, settings)
    parts = on_offer(actor).filter(kind=SLOTS[slot].kind)
    parts = found_by_words(parts, actor, find)
    if here:
        parts = parts.filter(days=0)
    counts = verdicts.counts
    if find or here:
        counts = Counter()
        for pk, number in parts.order_by().values_list("fit_class_id").annotate(number=Count("id")):
            if pk in verdicts.by_class:  # a class made since this request began is seen by the next
                counts[verdicts.by_class[pk]] += number
    pages = max(1, -(-sum(counts.values()) // PAGE))
    page = min(max(page, 1), pages)
    slices = []
    skip, room = (page - 1) * PAGE, PAGE
    for verdict in BEST_FIRST:
        take = min(room, counts[verdict] - skip)
        if take <= 0:
            skip -= counts[verdict]
            continue
        rows = parts.filter(fit_class_id__in=verdicts.ids[verdict])
        slices.append(rows.order_by(*SORTS[sort])[skip : skip + take])
        skip, room = 0, room - take
    shown = [Candidate(part=part, check=verdicts.check(part.fit_class_id)) for part in _together(slices)]
    column = SORTS[sort][0]

    def in_order(candidate: Candidate) -> tuple[Any, ...]:
        value = getattr(candidate.part, column)
        return -candidate.verdict.order, value is None, 0 if value is None else value, candidate.part.pk

    shown.sort(key=in_order)
    ordered = {verdict: counts[verdict] for verdict in BEST_FIRST}
    return Candidates(shown=tuple(shown), counts=ordered, page=page, pages=pages)


def plate_slot(slot: str) -> str:
    """Where the plate of a rotor's caliper stands."""
    return slot.replace("_rotor", "_brake_adapter")


def plates_for(
    actor: User, build: Build, slot: str, candidates: Iterable[Candidate]
) -> dict[int, CataloguePart]:
    """By rotor, the cheapest plate with which the caliper goes on it; none where it goes as it is, or for
    other slots.
    """
    if not slot.endswith("_rotor"):
        return {}
    rule, end = RULES["caliper-mount"], slot.removesuffix("_rotor")
    plates = list(on_offer(actor).filter(kind="brake_adapter").order_by("price", "name"))

    def goes(bike: Build) -> bool:
        found = [finding.verdict for finding in said_by(rule, bike) if finding.joint == f"{end}_brake"]
        return bool(found) and worst(found) in (Verdict.GOES, Verdict.GOES_IF)

    out: dict[int, CataloguePart] = {}
    for candidate in candidates:
        if any(f.verdict is Verdict.NO_GO and f.rule != rule.id for f in candidate.check.findings):
            continue  # no plate makes it go
        with_rotor = build.with_part(slot, stored_part(candidate.part.kind, "", candidate.part.attrs))
        said = [found for found in said_by(rule, with_rotor) if found.joint == f"{end}_brake"]
        if all(found.verdict is Verdict.GOES for found in said):
            continue
        fitting = (
            plate
            for plate in plates
            if goes(with_rotor.with_part(plate_slot(slot), stored_part(plate.kind, "", plate.attrs)))
        )
        plate = next(fitting, None)
        if plate is not None:
            out[candidate.part.pk] = plate
    return out
