"""Reads of bikes: one with its parts and its check, its history, the parts on the bench."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from attrs import evolve, frozen
from django.db.models import Q, QuerySet
from django.db.models.fields.json import KeyTextTransform, KeyTransform

from unkett.core.build import ABOUT, Build, Part
from unkett.core.check.engine import Check, check
from unkett.core.formats.reader import stored_part
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.models import Bike, BikePart, Move, Where
from unkett.web.bikes.permissions import bikes_seen_by, parts_seen_by
from unkett.web.bikes.verdicts import accepting
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import LogEntry, User


@frozen(kw_only=True)
class CurrentBike:
    """A bike with everything a page shows of it as it stands."""

    bike: Bike
    fitted: dict[str, BikePart]
    build: Build
    check: Check

    @property
    def origins(self) -> dict[str, dict[str, str]]:
        """Where each attribute of each slot comes from."""
        return {slot: part.origins for part in self.fitted.values() for slot in part.slots()}


def file_of(
    stands: CurrentBike, build: Build | None = None, origins: Mapping[str, Mapping[str, str]] | None = None
) -> Any:
    """A build file of a bike, as it stands or as `build` plans it: with whose it is, its wish, and where each figure
    comes from (`origins` says it of parts that are planned).
    """
    bike, build = stands.bike, build or stands.build
    about = {name: getattr(bike, name) for name in ABOUT if name != "customer"}
    words = {**stands.origins, **(origins or {})}
    parts = {
        slot: evolve(
            part, origins={name: words[slot][name] for name in part.attrs if name in words.get(slot, {})}
        )
        for slot, part in build.parts.items()
    }
    customer = bike.customer.name if bike.customer else ""
    return evolve(build, about={"customer": customer, **about}, parts=parts).to_json()


def settings_of(actor: User) -> Settings:
    """Return the settings of the actor's workshop."""
    return Settings.of(actor.workshop.settings)


def current_bike(actor: User, bike_id: int) -> CurrentBike:
    """Return a bike as it stands, with its findings. Raises NotThere for one that is not the actor's."""
    bike = _lean(bikes_seen_by(actor)).filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    return current_bike_of(bike, settings_of(actor))


def _lean(bikes: QuerySet[Bike]) -> QuerySet[Bike]:
    """Return bikes without the bulk that only an undo reads."""
    said = {"undo_says": KeyTextTransform("says", "undo"), "undo_version": KeyTransform("version", "undo")}
    return bikes.defer("undo", "summary").select_related("customer").annotate(**said)


def current_bike_of(bike: Bike, settings: Settings) -> CurrentBike:
    """Return the same for a bike that is fetched already; its parts are fetched here."""
    fitted = list(BikePart.objects.filter(bike_id=bike.pk))
    build = bike.build(fitted)
    found = accepting(check(build, settings), bike, fitted)
    return CurrentBike(bike=bike, fitted={part.slot: part for part in fitted}, build=build, check=found)


HISTORY_SHOWN = 200


def history_of(actor: User, bike: Bike) -> list[LogEntry]:
    """Return what was done to a bike, the latest first, each action with its lines of the ledger."""
    lines = LogEntry.objects.filter(workshop_id=actor.workshop_id)
    ids = {
        *lines.filter(about="bike", about_id=bike.pk)
        .order_by("-pk")
        .values_list("pk", flat=True)[:HISTORY_SHOWN],
        *bike.gave.order_by("-pk").values_list("line_id", flat=True)[:HISTORY_SHOWN],
        *bike.got.order_by("-pk").values_list("line_id", flat=True)[:HISTORY_SHOWN],
    }
    shown = lines.filter(pk__in=ids).select_related("actor").order_by("-pk")[:HISTORY_SHOWN]
    return list(shown.prefetch_related("moves__part", "moves__from_bike", "moves__to_bike"))


@frozen(kw_only=True)
class Stood:
    """A part as it was on a bike on some day."""

    slot: str
    part: Part


def known_since(actor: User, bike: Bike) -> datetime | None:
    """Return when the bike was written down; None where the log does not say."""
    lines = LogEntry.objects.filter(workshop_id=actor.workshop_id, about="bike", about_id=bike.pk)
    return (
        lines.filter(verb__in=("add", "take in", "copy")).order_by("pk").values_list("at", flat=True).first()
    )


def bike_on_date(bike: Bike, when: datetime) -> list[Stood]:
    """Return the parts that were on a bike at a moment, with what was known of them then, by the ledger.

    A part stands as the last line of its ledger before the moment left it, else as the first line after found it.
    """
    lines = Move.objects.filter(Q(from_bike=bike) | Q(to_bike=bike)).select_related("line", "part")
    by_part: dict[int, list[Move]] = {}
    for move in lines.order_by("line_id", "pk"):
        by_part.setdefault(move.part_id, []).append(move)
    states: list[tuple[str, Mapping[str, Any]]] = [
        (part.slot, part.stored()) for part in bike.fitted.exclude(pk__in=by_part)
    ]
    for moves in by_part.values():
        past = [move for move in moves if move.line.at <= when]
        if past and past[-1].to_bike_id == bike.pk:
            states.append((past[-1].to_slot, past[-1].after))
        elif not past and moves[0].from_bike_id == bike.pk and moves[0].before is not None:
            states.append((moves[0].from_slot, moves[0].before))
    order = list(SLOTS)
    return [
        Stood(slot=slot, part=stored_part(was["kind"], was["name"], was["attrs"], was["also"], was["extra"]))
        for slot, was in sorted(states, key=lambda state: order.index(state[0]))
    ]


BENCH_OFFERED = 200  # pieces that one list offers; the bin finds any


def bench_of(actor: User, *kinds: str) -> list[BikePart]:
    """Return the pieces that lie in the bin, of these kinds where some are named, the latest first."""
    lying = parts_seen_by(actor).filter(where=Where.BENCH)
    return list((lying.filter(kind__in=kinds) if kinds else lying).order_by("-pk")[:BENCH_OFFERED])
