"""What is counted: lengths that lines are cut from, their off-cuts, small parts. Every change leaves a line."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal

from attrs import frozen
from django.db import transaction
from django.db.models import Q, QuerySet

from unkett.core.bike.lines import SORTS
from unkett.core.errors import Fault, InputError, bad
from unkett.web.catalogue.models import CountMove, StockItem
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

OFFCUT_LEAST_MM = 100.0  # a shorter rest is thrown away
LONGEST_MM = 100_000.0
COUNT_MOST = 100_000
NAME_MOST, BOX_MOST, NOTE_MOST = 120, 40, 200
VALUE_UNDER = 1_000_000
SMALL = {
    "spacer": "Spacers",
    "ferrule": "End caps and ferrules",
    "bolt": "Bolts and nuts",
    "bearing": "Bearing balls",
    "small": "Other small parts",
}
ALL_SORTS = {**SORTS, **SMALL}
# why something comes or goes, and whether it comes
WHYS = {"in": True, "used": False, "sold": False, "returned": False, "scrapped": False}
WHY_WORDS = {
    "in": "came in", "used": "used", "sold": "sold", "returned": "sent back", "scrapped": "scrapped", "cut": "cut",
    "rest": "off-cut laid back", "counted": "counted anew",
}  # fmt: skip


@frozen(kw_only=True)
class Opened:
    """A length that is cut: its sort, how long it was, what is left of it."""

    sort: str
    length_mm: float
    left_mm: float


def stock_seen_by(actor: User) -> QuerySet[StockItem]:
    """Return what the workshop counts, sorts that have run out among it."""
    return StockItem.objects.filter(workshop_id=actor.workshop_id)


def stock_of(actor: User) -> list[StockItem]:
    """Return the lengths that the workshop has."""
    there = Q(count=None) | Q(count__gt=0)
    return list(stock_seen_by(actor).filter(there, sort__in=SORTS))


def move_stock(actor: User, row: StockItem, change: int, why: str, note: str = "") -> None:
    """Change a count by so many, with its line in the ledger. The row is locked; inside the action's transaction."""
    if row.count is None:
        log(actor, why, row, after={"change": change})
        return
    row.count += change
    if row.count < 0:
        raise Refused(f"There are {row.count - change} of {row} only.")
    row.save(update_fields=["count"])
    reason = {"why": note} if note else {}
    line = log(actor, why, row, before={"count": row.count - change}, after={"count": row.count, **reason})
    CountMove.objects.create(counted=row, line=line, change=change, left=row.count, why=why, note=note)


def _checked(sort: str, name: str, length_mm: float | None, count: int | None) -> list[Fault]:
    faults = []
    if sort not in ALL_SORTS:
        faults.append(Fault(path="sort", says=f"{sort!r} given; one of {', '.join(ALL_SORTS)} allowed"))
    elif sort in SORTS and length_mm is None:
        faults.append(Fault(path="length_mm", says="enter a length"))
    elif sort in SMALL and not name:
        faults.append(Fault(path="name", says="enter a name, such as 1 1/8 inch, 5 mm high"))
    if length_mm is not None and not 1 <= length_mm <= LONGEST_MM:
        faults.append(Fault(path="length_mm", says=f"{length_mm:g} given; 1 to {LONGEST_MM:g} mm allowed"))
    if count is not None and not 0 <= count <= COUNT_MOST:
        faults.append(
            Fault(path="count", says=f"{count} given; 0 to {COUNT_MOST}, or nothing for any number")
        )
    if len(name) > NAME_MOST:
        faults.append(Fault(path="name", says=f"at most {NAME_MOST} characters are kept"))
    return faults


@transaction.atomic
def add_stock(
    *,
    actor: User,
    sort: str,
    length_mm: float | None = None,
    count: int | None,
    name: str = "",
    box: str = "",
    value: Decimal | None = None,
) -> StockItem:
    """Write a length or a sort of small parts down. Raises InputError naming every field."""
    require(actor, "change-catalogue")
    name, box = name.strip(), box.strip()
    faults = _checked(sort, name, length_mm, count)
    if len(box) > BOX_MOST:
        faults.append(Fault(path="box", says=f"at most {BOX_MOST} characters are kept"))
    if value is not None and not 0 <= value < VALUE_UNDER:
        faults.append(Fault(path="value", says=f"{value} given; 0 to {VALUE_UNDER} allowed"))
    if faults:
        raise InputError(faults)
    row = StockItem.objects.create(
        workshop_id=actor.workshop_id, sort=sort, name=name, length_mm=length_mm, box=box, value=value,
        count=None if count is None else 0,
    )  # fmt: skip
    move_stock(actor, row, count or 0, "in")
    return row


def count_in(actor: User, name: str, number: int, box: str, note: str) -> StockItem:
    """Count small parts in that have arrived, under their name. Call it inside the action's transaction."""
    mine = stock_seen_by(actor).select_for_update().filter(name__iexact=name, sort__in=SMALL)
    row = mine.exclude(count=None).order_by("pk").first()
    if row is None:
        row = StockItem.objects.create(
            workshop_id=actor.workshop_id, sort="small", name=name[:NAME_MOST], box=box[:BOX_MOST], count=0
        )
    move_stock(actor, row, number, "in", note)
    return row


def _locked(actor: User, stock_id: int) -> StockItem:
    row = stock_seen_by(actor).select_for_update().filter(pk=stock_id).first()
    if row is None:
        raise NotThere
    return row


@transaction.atomic
def remove_stock(*, actor: User, stock_id: int) -> None:
    """Take a length or a sort off the list: what is left of it is scrapped. Raises NotThere."""
    require(actor, "change-catalogue")
    row = _locked(actor, stock_id)
    if row.count is None:
        row.count = 0
        row.save(update_fields=["count"])
    move_stock(actor, row, -row.count, "scrapped")


@transaction.atomic
def change_count(*, actor: User, stock_id: int, number: int, why: str, note: str = "") -> StockItem:
    """So many came in, or went, and why. Raises NotThere, InputError naming the field; refused where fewer are left."""
    require(actor, "change-bikes")
    row = _locked(actor, stock_id)
    if why not in WHYS:
        raise bad("why", f"{why!r} given; one of {', '.join(WHYS)} allowed")
    if not 1 <= number <= COUNT_MOST:
        raise bad("number", f"{number} given; 1 to {COUNT_MOST} allowed")
    if len(note) > NOTE_MOST:
        raise bad("note", f"at most {NOTE_MOST} characters are kept")
    if row.count is not None and row.count + number > 10 * COUNT_MOST:
        raise bad("number", "more than can be counted")
    move_stock(actor, row, number if WHYS[why] else -number, why, note.strip())
    return row


@transaction.atomic
def cut_stock(*, actor: User, opened: Iterable[Opened]) -> None:
    """Take what was cut off the list and lay the off-cuts back. Refused where a length is gone by now."""
    require(actor, "change-bikes")
    rows = list(stock_seen_by(actor).filter(sort__in=SORTS).select_for_update().order_by("pk"))
    for one in opened:
        row = next(
            (
                row
                for row in rows
                if row.sort == one.sort and row.length_mm == one.length_mm and row.count != 0
            ),
            None,
        )
        if row is None:
            raise Refused(
                f"No {SORTS[one.sort].lower()} of {one.length_mm:g} mm is left: make the list anew."
            )
        move_stock(actor, row, -1, "cut", f"{one.left_mm:g} mm left")
        if one.left_mm >= OFFCUT_LEAST_MM and not one.sort.endswith(
            "_inner"
        ):  # what is cut off an inner has no head
            rest = StockItem.objects.create(
                workshop_id=actor.workshop_id, sort=one.sort, length_mm=one.left_mm, count=0, offcut=True,
                box=row.box,
            )  # fmt: skip
            move_stock(actor, rest, 1, "rest")
