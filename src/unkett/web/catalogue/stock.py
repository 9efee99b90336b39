"""What lines are cut from: lengths written down, cut, and their off-cuts laid back."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import frozen
from django.db import transaction

from unkett.core.errors import bad
from unkett.core.lines import SORTS
from unkett.web.catalogue.models import LineStock
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

OFFCUT_LEAST_MM = 100.0  # a shorter rest is thrown away
LONGEST_MM = 100_000.0
COUNT_MOST = 1000


@frozen(kw_only=True)
class Opened:
    """A length that is cut: its sort, how long it was, what is left of it."""

    sort: str
    length_mm: float
    left_mm: float


def stock_of(actor: User) -> list[LineStock]:
    """The lengths that the workshop has."""
    return list(LineStock.objects.filter(workshop_id=actor.workshop_id))


@transaction.atomic
def add_stock(*, actor: User, sort: str, length_mm: float, count: int | None) -> LineStock:
    """Write a length down. Raises InputError naming the field."""
    require(actor, "change-catalogue")
    if sort not in SORTS:
        raise bad("sort", f"{sort!r} given; one of {', '.join(SORTS)} allowed")
    if not 1 <= length_mm <= LONGEST_MM:
        raise bad("length_mm", f"{length_mm:g} given; 1 to {LONGEST_MM:g} mm allowed")
    if count is not None and not 1 <= count <= COUNT_MOST:
        raise bad("count", f"{count} given; 1 to {COUNT_MOST}, or nothing for any number")
    row = LineStock.objects.create(workshop_id=actor.workshop_id, sort=sort, length_mm=length_mm, count=count)
    log(actor, "add", row, after={"length_mm": length_mm, "count": count})
    return row


@transaction.atomic
def remove_stock(*, actor: User, stock_id: int) -> None:
    """Take a length off the list. Raises NotThere."""
    require(actor, "change-catalogue")
    row = LineStock.objects.select_for_update().filter(workshop_id=actor.workshop_id, pk=stock_id).first()
    if row is None:
        raise NotThere
    log(actor, "remove", row, before={"length_mm": row.length_mm, "count": row.count})
    row.delete()


@transaction.atomic
def cut_stock(*, actor: User, opened: Iterable[Opened]) -> None:
    """Take what was cut off the list and lay the off-cuts back. Refused where a length is gone by now."""
    require(actor, "change-bikes")
    rows = list(LineStock.objects.select_for_update().filter(workshop_id=actor.workshop_id).order_by("pk"))
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
        if row.count is not None:
            row.count -= 1
            row.save(update_fields=["count"])
        log(actor, "cut", row, before={"length_mm": one.length_mm}, after={"left_mm": one.left_mm})
        if one.left_mm >= OFFCUT_LEAST_MM and not one.sort.endswith(
            "_inner"
        ):  # what is cut off an inner has no head
            rest = LineStock(
                workshop_id=actor.workshop_id, sort=one.sort, length_mm=one.left_mm, count=1, offcut=True
            )
            rest.save()
    LineStock.objects.filter(workshop_id=actor.workshop_id, count=0).delete()
