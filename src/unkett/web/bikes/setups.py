"""Set-ups of a bike: named parts that go on together, set aside with it while others are on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import evolve, frozen
from django.db import transaction

from unkett.core.build import Build, Part, plain
from unkett.core.check.engine import Check, check_again
from unkett.core.errors import bad
from unkett.core.formats.reader import stored_part
from unkett.core.vocabulary import SLOTS
from unkett.core.vocabulary.kinds_suspension import SETTINGS
from unkett.web.bikes.models import Bike, BikePart, Origin, SetUp, SetUpPart, Where
from unkett.web.bikes.permissions import bikes_seen_by, parts_seen_by
from unkett.web.bikes.queries import CurrentBike, settings_of
from unkett.web.bikes.verdicts import accepting
from unkett.web.bikes.writing import Parts, finish, locked, write_bike
from unkett.web.catalogue.queries import on_offer
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NAME_MAX = 80
SPRUNG = ("fork", "shock")
ON_IT, LIKE_IT, BENCH, CATALOGUE = "on", "like", "bench", "catalogue"


@frozen(kw_only=True)
class Source:
    """Where a part of a set-up comes from: it is on the bike, like the one there, from the bench or the catalogue."""

    sort: str
    part_id: int | None = None


@transaction.atomic
def add_set_up(
    *,
    actor: User,
    bike_id: int,
    version: int,
    name: str,
    parts: Mapping[str, Source],
    settings: Mapping[str, Mapping[str, Any]] | None = None,
) -> SetUp:
    """Add a named set of parts of a bike, by slot. What is not on the bike is set aside with it. `settings` are
    those of
    its fork and shock, else what they are set to now.

    Raises InputError naming `name` or `parts`, Refused for a part that is not where it should be.
    """
    require(actor, "change-bikes")
    bike = locked(actor, bike_id, version)
    name = name.strip()
    if not 1 <= len(name) <= NAME_MAX:
        raise bad("name", f"enter a name of 1 to {NAME_MAX} characters")
    if bike.set_ups.filter(name=name).exists():
        raise bad("name", "this bike has a set-up of that name")
    if not parts:
        raise bad("parts", "choose at least one part")
    held = Parts(actor, [bike])
    set_up = SetUp.objects.create(bike=bike, name=name)
    chosen = {slot: _chosen(actor, bike, held, slot, source) for slot, source in parts.items()}
    held.save()
    set_up.settings = settings_on(chosen) if settings is None else plain(settings)
    set_up.save(update_fields=["settings"])
    SetUpPart.objects.bulk_create(
        SetUpPart(set_up=set_up, part=part, slot=slot) for slot, part in chosen.items()
    )
    line = log(
        actor, "add", bike, after={"set_up": name, **{slot: part.name for slot, part in chosen.items()}}
    )
    finish(bike, held, actor, None)
    held.record(line)
    return set_up


def _chosen(actor: User, bike: Bike, held: Parts, slot: str, source: Source) -> BikePart:
    if slot not in SLOTS:
        raise NotThere
    title, kind = SLOTS[slot].title, SLOTS[slot].kind
    there = held.in_slot(bike, slot)
    if source.sort in (ON_IT, LIKE_IT):
        if there is None:
            raise Refused(f"No {title.lower()} stands on {bike.name}.")
        if source.sort == ON_IT:
            return there
        attrs = {name: value for name, value in there.attrs.items() if name != "damage"}
        origins = dict.fromkeys(attrs, Origin.ALIKE)
        return _aside(actor, kind=there.kind, name=there.name, attrs=attrs, origins=origins, also=there.also)
    if source.sort == BENCH:
        lying = (
            parts_seen_by(actor)
            .select_for_update()
            .filter(pk=source.part_id or 0, where=Where.BENCH, kind=kind)
        )
        part = lying.first()
        if part is None:
            raise NotThere
        held.take_off(part, Where.ASIDE)
        return part
    found = on_offer(actor).filter(pk=source.part_id or 0, kind=kind).first()
    if found is None:
        raise Refused(f"That part is not in the catalogue, or no {title.lower()}.")
    attrs = plain(stored_part(found.kind, found.name, found.attrs).attrs)
    origins = dict.fromkeys(attrs, Origin(found.origin))
    return _aside(
        actor, kind=found.kind, name=found.name, attrs=attrs, origins=origins, catalogue_part_id=found.pk
    )


def _aside(actor: User, **values: Any) -> BikePart:
    return BikePart.objects.create(workshop_id=actor.workshop_id, where=Where.ASIDE, **values)


def put_on(*, actor: User, bike_id: int, version: int, set_up_id: int) -> Bike:
    """Swap a set-up on: the parts that go with what it replaces are set aside, its own go on. It can be undone.

    Raises NotThere, and Refused where one of its parts is elsewhere by now.
    """
    set_up = _own(actor, bike_id, set_up_id)

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        wanted = _wanted(actor, parts, set_up)
        on = {part.pk for part in parts.on(bike)}
        going = {part.pk: part for slot in wanted for part in [parts.in_slot(bike, slot)] if part is not None}
        for other in _on_it(bike, on, set_up):
            if set(other) & set(wanted):  # it is swapped as a whole: what only it has comes off too
                going |= {part.pk: part for part in other.values()}
        staying = {part.pk for part in wanted.values()}
        kept = set(SetUpPart.objects.filter(set_up__bike=bike).values_list("part_id", flat=True))
        before = {
            slot: part.name for part in going.values() for slot in part.slots() if part.pk not in staying
        }
        for part in going.values():
            if part.pk not in staying:
                parts.take_off(part, Where.ASIDE if part.pk in kept else Where.BENCH)
        for slot, part in wanted.items():
            if part.pk not in on:
                parts.put(part, bike, slot)
            if slot in set_up.settings:
                attrs, origins = _set_to(part, set_up.settings[slot])
                parts.change(part, attrs=attrs, origins=origins)
        bike.rider = {**bike.rider, **set_up.settings.get("bike", {})}
        return before, {"set_up": set_up.name, **{slot: part.name for slot, part in wanted.items()}}

    return write_bike(actor, bike_id, version, "swap", f"{set_up.name} put on", action)


def settings_on(parts: Mapping[str, BikePart]) -> dict[str, dict[str, Any]]:
    """Return what is set on the fork and shock among parts, by slot."""
    found = {
        slot: {name: part.attrs[name] for name in SETTINGS if name in part.attrs}
        for slot, part in parts.items()
        if slot in SPRUNG
    }
    return {slot: values for slot, values in found.items() if values}


def _set_to(part: BikePart, settings: Mapping[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """Return a part's attributes and their origins with these settings in place of its own."""
    attrs = {name: value for name, value in part.attrs.items() if name not in SETTINGS}
    origins = {name: value for name, value in part.origins.items() if name not in SETTINGS}
    return attrs | dict(settings), origins | dict.fromkeys(settings, Origin.MEASURED)


def is_set(set_up: SetUp, parts: Mapping[str, BikePart], fitted: Iterable[BikePart], mass_kg: Any) -> bool:
    """Return whether a set-up is on: its parts on the bike, fork and shock set as it says, for its rider."""
    if not {part.pk for part in parts.values()} <= {part.pk for part in fitted}:
        return False
    own = {slot: values for slot, values in set_up.settings.items() if slot in parts}
    now = settings_on({slot: part for slot, part in parts.items() if slot in own})
    return (
        all(now.get(slot, {}) == values for slot, values in own.items())
        and set_up.settings.get("bike", {}).get("mass_kg", mass_kg) == mass_kg
    )


def set_ups_on(bike: Bike, fitted: Sequence[BikePart]) -> list[SetUp]:
    """Return the set-ups with settings of their own that are on the bike as it is."""
    rows = bike.set_ups.exclude(settings={}).prefetch_related("places__part")
    by_pk = {part.pk: part for part in fitted}
    return [row for row in rows if is_set(row, _parts_of(row, by_pk), fitted, bike.rider.get("mass_kg"))]


def keep_settings(bike: Bike, set_ups: Iterable[SetUp]) -> None:
    """Keep what fork and shock are set to now with these set-ups."""
    fitted = {part.pk: part for part in bike.fitted.all()}
    for row in set_ups:
        parts = _parts_of(row, fitted)
        rider = {"bike": row.settings["bike"]} if "bike" in row.settings else {}
        row.settings = {**settings_on(parts), **rider}
        row.save(update_fields=["settings"])


def _parts_of(row: SetUp, fitted: Mapping[int, BikePart]) -> dict[str, BikePart]:
    """Return the parts of a set-up by slot, those on the bike as they are now."""
    return {place.slot: fitted.get(place.part_id, place.part) for place in row.places.all()}


def _own(actor: User, bike_id: int, set_up_id: int) -> SetUp:
    set_up = SetUp.objects.filter(pk=set_up_id, bike__in=bikes_seen_by(actor), bike_id=bike_id).first()
    if set_up is None:
        raise NotThere
    return set_up


def _wanted(actor: User, parts: Parts, set_up: SetUp) -> dict[str, BikePart]:
    """Return the parts of a set-up by slot, locked. Refused where one is neither on this bike nor set aside."""
    places = {place.part_id: place.slot for place in set_up.places.all()}
    found = {part.pk: part for part in parts.on(set_up.bike)}
    aside = parts_seen_by(actor).select_for_update().filter(pk__in=set(places) - set(found))
    for part in aside.order_by("pk"):
        if part.where not in (Where.ASIDE, Where.BENCH):
            raise Refused(f"{part} is {part.get_where_display().lower()}: it cannot be put on.")
        found[part.pk] = part
    return {slot: found[pk] for pk, slot in places.items()}


def _on_it(bike: Bike, on: set[int], but: SetUp) -> list[dict[str, BikePart]]:
    """Return the other set-ups that are on the bike whole, each with its parts by slot."""
    others = bike.set_ups.exclude(pk=but.pk).prefetch_related("places__part")
    by_slot = [{place.slot: place.part for place in other.places.all()} for other in others]
    return [parts for parts in by_slot if parts and {part.pk for part in parts.values()} <= on]


@transaction.atomic
def remove_set_up(*, actor: User, bike_id: int, version: int, set_up_id: int) -> Bike:
    """Forget a set-up: parts of it that are set aside and in no other go to the bench. Raises NotThere."""
    require(actor, "change-bikes")
    set_up = _own(actor, bike_id, set_up_id)
    bike = locked(actor, bike_id, version)
    held = Parts(actor, [bike])
    own = set(set_up.places.values_list("part_id", flat=True))
    others = (
        SetUpPart.objects.exclude(set_up=set_up).filter(part_id__in=own).values_list("part_id", flat=True)
    )
    left = parts_seen_by(actor).select_for_update().filter(pk__in=own - set(others), where=Where.ASIDE)
    for part in left.order_by("pk"):
        held.take_off(part, Where.BENCH)
    held.save()
    set_up.delete()
    line = log(actor, "remove", bike, before={"set_up": set_up.name}, after=None)
    finish(bike, held, actor, None)
    held.record(line)
    return bike


def _as_set(row: SetUp, slot: str, part: BikePart) -> Part:
    """Return a set-up's part with what is set on it while the set-up is on."""
    made = part.as_part()
    if slot not in row.settings:
        return made
    kept = {name: value for name, value in made.attrs.items() if name not in SETTINGS}
    return evolve(made, attrs={**kept, **row.settings[slot]})


@frozen(kw_only=True)
class SetUpSeen:
    """A set-up with the bike as it is when it is on, and the check of that."""

    set_up: SetUp
    parts: Mapping[str, BikePart]
    is_on: bool
    build: Build
    check: Check


def set_ups_of(actor: User, stands: CurrentBike) -> list[SetUpSeen]:
    """Return the set-ups of a bike, each with the bike checked whole as if it were on."""
    rows = list(SetUp.objects.filter(bike_id=stands.bike.pk).prefetch_related("places__part"))
    fitted = {part.pk: part for part in stands.fitted.values()}
    all_parts = {row.pk: _parts_of(row, fitted) for row in rows}
    mass = stands.bike.rider.get("mass_kg")
    whole = {row.pk for row in rows if is_set(row, all_parts[row.pk], fitted.values(), mass)}
    out = []
    for row in rows:
        parts = all_parts[row.pk]
        build = stands.build
        if row.pk not in whole:
            others = [all_parts[pk] for pk in whole if set(all_parts[pk]) & set(parts)]
            for slot in {slot for other in others for slot in other} - set(parts):
                build = build.with_part(slot, None)
            for slot, part in parts.items():
                build = build.with_part(slot, _as_set(row, slot, part))
            if "bike" in row.settings:
                build = evolve(build, rider={**build.rider, **row.settings["bike"]})
        settings = settings_of(actor)
        found = stands.check if row.pk in whole else check_again(stands.check, stands.build, build, settings)
        stay = [part for part in stands.fitted.values() if build.parts.get(part.slot) is not None]
        stay = [part for part in stay if row.pk in whole or not set(part.slots()) & set(parts)]
        checked = accepting(found, stands.bike, stay)
        out.append(SetUpSeen(set_up=row, parts=parts, is_on=row.pk in whole, build=build, check=checked))
    return out
