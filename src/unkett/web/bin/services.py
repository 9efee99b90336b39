"""The parts bin: pieces written down, kept in their box, leaving it and coming back, and the count of a box."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from attrs import frozen
from django.db import transaction

from unkett.core.build import plain
from unkett.core.errors import Fault, InputError, bad
from unkett.core.formats.reader import contradictions
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.fitting import NAME_MAX, checked_values, fit_part
from unkett.web.bikes.models import Bike, BikePart, Move, Origin, Where
from unkett.web.bikes.permissions import parts_seen_by
from unkett.web.bikes.writing import Parts
from unkett.web.catalogue.models import StockItem
from unkett.web.catalogue.queries import parts_seen_by as catalogue_seen_by
from unkett.web.catalogue.stock import COUNT_MOST, move_stock, stock_seen_by
from unkett.web.plans.queries import wanted_parts
from unkett.web.workshop.errors import Conflict, NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

WHY_MAX = 200
BOX_MAX = 40
VALUE_UNDER = 1_000_000
MASS_MOST = 100_000
LABEL = re.compile(r"P(\d{1,12})")
LEAVES_TO = {
    Where.CUSTOMER: "give back",
    Where.SOLD: "sell",
    Where.RETURNED: "send back",
    Where.SCRAPPED: "scrap",
}
WHY_WANTED = (Where.SCRAPPED, Where.RETURNED)
BACK_FROM = (*LEAVES_TO, Where.MISSING)
CRACKS = ("crack", "dent", "crash")


@frozen(kw_only=True)
class Kept:
    """What is kept of a piece beside its figures."""

    box: str = ""
    value: Decimal | None = None
    mass_g: int | None = None

    def faults(self) -> list[Fault]:
        """Return what is wrong with it, by field."""
        found = []
        if len(self.box.strip()) > BOX_MAX:
            found.append(Fault(path="box", says=f"at most {BOX_MAX} characters are kept"))
        if self.value is not None and not 0 <= self.value < VALUE_UNDER:
            found.append(Fault(path="value", says=f"{self.value} given; 0 to {VALUE_UNDER} allowed"))
        if self.mass_g is not None and not 0 <= self.mass_g <= MASS_MOST:
            found.append(Fault(path="mass_g", says=f"{self.mass_g} given; 0 to {MASS_MOST} allowed"))
        return found


def part_labelled(actor: User, text: str) -> BikePart | None:
    """Return the part whose label was typed or scanned; None where it is none of this workshop."""
    found = LABEL.fullmatch(text.strip().lstrip("/").upper())
    return parts_seen_by(actor).filter(pk=int(found[1])).first() if found else None


def _held(actor: User, part_id: int) -> BikePart:
    part = parts_seen_by(actor).select_for_update(of=("self",)).filter(pk=part_id).first()
    if part is None:
        raise NotThere
    return part


def _refuse_reserved(actor: User, part: BikePart, bike_id: int | None = None) -> None:
    """Refuse a piece that is reserved for a plan; with a bike, for a plan of another bike."""
    plan = wanted_parts(actor, part.pk).get(part.pk)
    if plan is not None and plan.bike_id != bike_id:
        raise Refused(f"{part} is reserved for {plan.called} of {plan.bike.name}: plan something else there.")


def fit_from_bin(*, actor: User, bike_id: int, version: int, slot: str, part_id: int) -> Bike:
    """Fit a piece of the bin on a bike, as `fit_part`; refused while it is reserved for a plan of another bike."""
    return fit_part(
        actor=actor,
        bike_id=bike_id,
        version=version,
        slot=slot,
        part_id=part_id,
        refuse=lambda part: _refuse_reserved(actor, part, bike_id),
    )


def _checked_why(why: str, wanted: bool) -> str:
    if wanted and not why.strip():
        raise bad("why", "enter a reason")
    if len(why) > WHY_MAX:
        raise bad("why", f"{len(why)} characters; at most {WHY_MAX} are kept")
    return why.strip()


def is_cracked_carbon(part: BikePart) -> bool:
    """Return whether what is written of a part says that it is carbon and cracked, dented or crashed."""
    return part.attrs.get("material") == "carbon" and bool({*CRACKS} & {*part.attrs.get("damage", ())})


def _move(actor: User, part: BikePart, to: Where, verb: str, after: Mapping[str, Any]) -> None:
    """Lay a part somewhere off any bike, with its line in the ledger."""
    parts = Parts(actor, [])
    before = {part.kind: Where(part.where).label}
    parts.take_off(part, to)
    parts.save()
    said = {name: value for name, value in after.items() if value}
    parts.record(log(actor, verb, part, before=before, after={part.kind: to.label, **said}))


@transaction.atomic
def leave_bin(*, actor: User, part_id: int, to: str, why: str = "", cracked: bool = False) -> BikePart:
    """Scrap a piece of the bin, sell it, send it back or give it to the customer; its history stays.

    What is scrapped as cracked carbon never comes back. Raises NotThere, InputError naming `why`; refused while the
    piece is reserved for a plan.
    """
    require(actor, "change-bikes")
    part = _held(actor, part_id)
    if to not in LEAVES_TO or part.where != Where.BENCH:
        raise NotThere
    why = _checked_why(why, to in WHY_WANTED)
    _refuse_reserved(actor, part)
    part.never_back = to == Where.SCRAPPED and (cracked or is_cracked_carbon(part))
    _move(actor, part, Where(to), LEAVES_TO[Where(to)], {"why": why, "for good": part.never_back})
    return part


@transaction.atomic
def come_back(*, actor: User, part_id: int, why: str = "", box: str = "") -> BikePart:
    """Put a piece back into the bin that was sold, given away, sent back, missing, or scrapped by mistake.

    Raises NotThere, InputError; refused for cracked carbon.
    """
    require(actor, "change-bikes")
    part = _held(actor, part_id)
    if part.where not in BACK_FROM:
        raise NotThere
    if part.never_back:
        raise Refused(f"{part} is cracked and was scrapped for good: it does not come back.")
    if len(box.strip()) > BOX_MAX:
        raise bad("box", f"at most {BOX_MAX} characters are kept")
    why = _checked_why(why, wanted=part.where == Where.SCRAPPED)
    part.box = box.strip() or part.box
    _move(actor, part, Where.BENCH, "take back in", {"why": why, "box": part.box})
    return part


@transaction.atomic
def keep_in_bin(
    *,
    actor: User,
    part_id: int,
    version: int,
    box: str,
    value: Decimal | None,
    mass_g: int | None,
    kept_with: str = "",
) -> BikePart:
    """Keep a piece's box, value, mass and the label of the part it is kept with.

    Raises NotThere, Conflict; InputError naming the field.
    """
    require(actor, "change-bikes")
    part = _held(actor, part_id)
    if part.where != Where.BENCH:
        raise NotThere
    if part.version != version:
        raise Conflict("Somebody changed this piece since you opened it. Nothing of yours was stored.", part)
    pair = part_labelled(actor, kept_with) if kept_with.strip() else None
    faults = Kept(box=box, value=value, mass_g=mass_g).faults()
    if kept_with.strip() and (pair is None or pair.pk == part.pk):
        faults.append(Fault(path="kept_with", says=f"{kept_with.strip()} is the label of no other part here"))
    if faults:
        raise InputError(faults)
    before = {"box": part.box, "value": part.value and str(part.value)}
    part.box, part.value, part.mass_g, part.kept_with = box.strip(), value, mass_g, pair
    part.version += 1
    part.save(update_fields=["box", "value", "mass_g", "kept_with", "version"])
    log(actor, "keep in bin", part, before=before, after={"box": part.box, "value": value and str(value)})
    return part


@transaction.atomic
def enter_piece(
    *,
    actor: User,
    kind: str,
    name: str,
    values: Mapping[str, Any],
    kept: Kept,
    came_from: str = "",
    like: int | None = None,
) -> BikePart:
    """Enter a piece that no order brought: bought used, found in a drawer. `values` are its figures, measured here,
    laid over those that the maker of the catalogue part `like` states.

    Raises NotThere for a kind or a catalogue part there is not; InputError naming every fault.
    """
    require(actor, "change-bikes")
    if kind not in KINDS:
        raise NotThere
    stated = None if like is None else catalogue_seen_by(actor).filter(kind=kind, pk=like).first()
    if like is not None and stated is None:
        raise NotThere
    part = piece_of(kind, name or (stated.name if stated else ""), values, kept, came_from, stated)
    return put_in_bin(actor, part, came_from)


def put_in_bin(actor: User, part: BikePart, came_from: str) -> BikePart:
    """Store a new piece with the first line of its ledger. Call it inside the action's transaction."""
    part.workshop_id = actor.workshop_id
    part.save()
    line = log(actor, "bring in", part, after={part.kind: part.name, "from": came_from.strip()})
    Move.objects.create(line=line, part=part, to_where=Where.BENCH, before=None, after=part.stored())
    return part


def piece_of(
    kind: str,
    name: str,
    values: Mapping[str, Any],
    kept: Kept,
    came_from: str = "",
    stated: Any = None,
    also: Sequence[str] = (),
) -> BikePart:
    """Return a piece as it would be written down. Raises InputError naming every fault."""
    faults = kept.faults()
    try:
        clean = checked_values(kind, name, values)
    except InputError as error:
        raise InputError([*faults, *error.faults]) from error
    measured = {attr: value for attr, value in clean.items() if value is not None}
    attrs = {**(plain(stated.attrs) if stated else {}), **measured}
    faults += contradictions([kind, *(SLOTS[slot].kind for slot in also)], attrs)
    if len(came_from) > WHY_MAX:
        faults.append(
            Fault(path="came_from", says=f"{len(came_from)} characters; at most {WHY_MAX} are kept")
        )
    if not name.strip() and not attrs:
        faults.append(Fault(path="name", says="enter a name or a figure"))
    if faults:
        raise InputError(faults)
    origins = dict.fromkeys(attrs, Origin.STATED.value) | dict.fromkeys(measured, Origin.MEASURED.value)
    return BikePart(
        where=Where.BENCH, kind=kind, name=name.strip()[:NAME_MAX], attrs=attrs, origins=origins, also=list(also),
        catalogue_part=stated, box=kept.box.strip(), value=kept.value, mass_g=kept.mass_g,
    )  # fmt: skip


@frozen(kw_only=True)
class CountedBox:
    """What a count of a box changed."""

    missing: tuple[BikePart, ...]
    turned_up: tuple[BikePart, ...]
    counted: tuple[StockItem, ...]


@transaction.atomic
def count_box(
    *,
    actor: User,
    box: str,
    expected: Iterable[int],
    found: Iterable[int],
    scanned: str,
    counts: Mapping[int, int],
    why: str,
) -> CountedBox:
    """Keep the count of a box: of the pieces `expected` there those `found`, what else was `scanned` by its label,
    and how many of each counted sort. Every difference wants a reason; what is not found is missing, not forgotten.

    A piece that left the box since it was listed is not missed. Raises InputError naming the field.
    """
    require(actor, "change-bikes")
    turned_up = _turned_up(actor, scanned)
    seen = {*found, *(part.pk for part in turned_up)}
    lying = parts_seen_by(actor).select_for_update(of=("self",)).filter(where=Where.BENCH, box=box)
    missing = [part for part in lying.filter(pk__in=[*expected]).order_by("pk") if part.pk not in seen]
    turned_up = [part for part in turned_up if part.where != Where.BENCH or part.box != box]
    rows = list(stock_seen_by(actor).select_for_update().filter(pk__in=counts, box=box, count__isnull=False))
    if any(not 0 <= counts[row.pk] <= COUNT_MOST for row in rows):
        raise bad("counts", f"0 to {COUNT_MOST} of a sort can be counted")
    other = [row for row in rows if row.count != counts[row.pk]]
    why = _checked_why(why, wanted=bool(missing or turned_up or other))
    for part in missing:
        _move(actor, part, Where.MISSING, "miss", {"why": why, "box": box})
    for part in turned_up:
        part.box = box
        part.save(update_fields=["box"])
        _move(actor, part, Where.BENCH, "find", {"why": why, "box": box})
    for row in other:
        move_stock(actor, row, counts[row.pk] - (row.count or 0), "counted", why)
    log(actor, "count", actor.workshop, after={"box": box, "missing": len(missing), "other": len(other)})
    return CountedBox(missing=tuple(missing), turned_up=tuple(turned_up), counted=tuple(other))


def _turned_up(actor: User, scanned: str) -> list[BikePart]:
    """Return the pieces whose labels were scanned. Raises InputError for a label of none, or of a part on a bike."""
    labels = [LABEL.fullmatch(word.lstrip("/").upper()) for word in scanned.split()]
    wrong = [word for word, label in zip(scanned.split(), labels, strict=True) if label is None]
    ids = {int(label[1]) for label in labels if label}
    held = parts_seen_by(actor).select_for_update(of=("self",)).filter(pk__in=ids).order_by("pk")
    may = [part for part in held if part.where in (Where.BENCH, *BACK_FROM) and not part.never_back]
    wrong += [f"P{pk}" for pk in sorted(ids - {part.pk for part in may})]
    if wrong:
        raise bad("scanned", f"{', '.join(wrong[:5])}: the label of no piece that can lie in a box")
    return may
