"""Writes to the catalogue. Every part belongs to a fit class; every write counts the catalogue's version up."""

from __future__ import annotations

import functools
import hashlib
import json
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from attrs import evolve
from django.db import transaction
from django.db.models import QuerySet

from unkett.core.build import plain
from unkett.core.check.engine import kind_reads
from unkett.core.errors import Fault, InputError
from unkett.core.formats.reader import attrs_from, contradictions
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.catalogue.models import CataloguePart, FitClass
from unkett.web.workshop.errors import Conflict, NotThere
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.search import folded
from unkett.web.workshop.services import log

BATCH = 2000
SCHEME = 2  # counted up when classes are made in another way


@functools.cache
def reads_mark(kind: str) -> str:
    """Return a mark that changes when the rules come to read other attributes of a kind."""
    return hashlib.sha256(json.dumps([SCHEME, kind_reads(kind)]).encode()).hexdigest()[:16]


@functools.cache
def rules_fingerprint() -> str:
    """Return a mark that changes when the rules come to read other attributes of any kind."""
    return hashlib.sha256(" ".join(map(reads_mark, sorted(KINDS))).encode()).hexdigest()


def class_key(kind: str, attrs: Mapping[str, Any]) -> tuple[str, dict[str, Any]]:
    """Return the key of the fit class of these attributes, and the attributes that make it.

    The key holds what the rules read, so that classes made by other rules are never taken for these.
    """
    own = {name: attrs[name] for name in kind_reads(kind) if attrs.get(name) is not None}
    return hashlib.sha256(json.dumps([reads_mark(kind), own], sort_keys=True).encode()).hexdigest(), own


def _classify(workshop: Workshop, parts: list[CataloguePart]) -> None:
    """Give each part its fit class, making the ones that are new. Not saved here."""
    wanted: dict[tuple[str, str], dict[str, Any]] = {}
    keys = []
    parts = [part for part in parts if not part.also]  # what is of one piece with others is judged by itself
    for part in parts:
        key, own = class_key(part.kind, part.attrs)
        keys.append((part.kind, key))
        wanted[part.kind, key] = own
    FitClass.objects.bulk_create(
        (
            FitClass(workshop=workshop, kind=kind, key=key, attrs=own, made_from=reads_mark(kind))
            for (kind, key), own in sorted(
                wanted.items()
            )  # in one order: two writers never wait for each other
        ),
        update_conflicts=True,
        unique_fields=["workshop", "kind", "key"],
        update_fields=["made_from"],
        batch_size=BATCH,
    )
    rows = FitClass.objects.filter(workshop=workshop, key__in={key for _, key in keys}).values_list(
        "kind", "key", "id"
    )
    ids = {(kind, key): pk for kind, key, pk in rows}
    for part, kind_and_key in zip(parts, keys, strict=True):
        part.fit_class_id = ids[kind_and_key]


def _written(workshop: Workshop) -> None:
    """Count the catalogue's version up, under a lock on the workshop's row."""
    row = Workshop.objects.select_for_update().get(pk=workshop.pk)
    row.catalogue_version += 1
    row.classes_made_from = row.classes_made_from or rules_fingerprint()
    row.save(update_fields=["catalogue_version", "classes_made_from"])
    workshop.catalogue_version, workshop.classes_made_from = row.catalogue_version, row.classes_made_from


def _refuse_doubles(workshop: Workshop, parts: list[CataloguePart]) -> None:
    """Kind, maker and name together name a part once."""
    names = Counter((part.kind, part.maker, part.name) for part in parts)
    there = CataloguePart.objects.filter(workshop=workshop, name__in={part.name for part in parts})
    names.update(key for key in there.values_list("kind", "maker", "name") if key in names)
    doubled = [name for (_, _, name), count in names.items() if count > 1]
    if doubled:
        raise InputError(Fault(path=name, says="this part is in the catalogue already") for name in doubled)


def search_text(part: Any) -> str:
    """Return the text by which a part is found: name, manufacturer, kind, and the range of its teeth."""
    teeth = part.attrs.get("teeth") or ()
    ends = f"{min(teeth)}-{max(teeth)}" if isinstance(teeth, list) and len(teeth) > 1 else ""
    return folded(part.name, part.maker, KINDS[part.kind].title, ends)


@transaction.atomic
def add_parts(workshop: Workshop, entries: Iterable[Mapping[str, Any]]) -> list[CataloguePart]:
    """Add catalogue parts. Raises InputError for an attribute the vocabulary does not allow or a part that
    is there already; then none is stored."""
    parts = [
        CataloguePart(
            workshop=workshop,
            kind=entry["kind"],
            name=entry["name"],
            maker=entry.get("maker", ""),
            also=list(entry.get("also", ())),
            attrs=plain(
                attrs_from(entry["attrs"], entry["kind"], f"{entry['name']}.attrs", entry.get("also", ()))
            ),
            price=None if entry["price"] is None else Decimal(str(entry["price"])),
            mass_g=entry.get("mass_g"),
            place=entry.get("place", ""),
            days=entry.get("days", 0),
            starter=entry.get("starter", ""),
            typical=bool(entry.get("starter")),
        )
        for entry in entries
    ]
    for part in parts:
        part.folded = search_text(part)
    _refuse_doubles(workshop, parts)
    _classify(workshop, parts)
    _written(workshop)
    return CataloguePart.objects.bulk_create(parts, batch_size=BATCH)


def rewrite_parts(workshop: Workshop, parts: list[CataloguePart]) -> None:
    """Store the changed attributes of these parts, each in its fit class. Call it inside a transaction."""
    for part in parts:
        part.version += 1
        part.folded = search_text(part)
    _classify(workshop, [part for part in parts if not part.retired])
    CataloguePart.objects.bulk_update(parts, ["attrs", "folded", "fit_class", "version"], batch_size=BATCH)
    _written(workshop)


SHOP = ("name", "maker", "price", "mass_g", "place", "days")  # what is kept of a part beside its dimensions


def _checked(
    workshop: Workshop,
    kind: str,
    values: Mapping[str, Any],
    but: int | None = None,
    also: Sequence[str] = (),
) -> dict[str, Any]:
    """Return what was typed of a part, with its dimensions checked. Raises InputError naming field or attribute.

    Holds the workshop's row, so that two hands cannot write the same name at once.
    """
    Workshop.objects.select_for_update().get(pk=workshop.pk)
    faults = []
    name, maker = values["name"].strip(), values.get("maker", "").strip()
    if not name:
        faults.append(Fault(path="name", says="enter a name"))
    twins = CataloguePart.objects.filter(workshop=workshop, kind=kind, maker=maker, name=name)
    if name and twins.exclude(pk=but or 0).exists():
        faults.append(Fault(path="name", says="this part is in the catalogue already"))
    if values["price"] is not None and values["price"] < 0:
        faults.append(Fault(path="price", says=f"{values['price']} given; 0 or more allowed"))
    try:
        attrs = plain(attrs_from(plain(values["attrs"]), kind, "", also))
        faults += contradictions([kind, *(SLOTS[slot].kind for slot in also)], attrs)
    except InputError as error:
        faults += [evolve(fault, path=fault.path.removeprefix(".")) for fault in error.faults]
    if faults:
        raise InputError(faults)
    return {
        **{field: values[field] for field in SHOP if field in values},
        "name": name,
        "maker": maker,
        "attrs": attrs,
    }


@transaction.atomic
def add_part(*, actor: User, kind: str, values: Mapping[str, Any], also: Sequence[str] = ()) -> CataloguePart:
    """Write a part into the catalogue: `SHOP` and `attrs`; `also` names the other slots that it fills.

    Raises InputError naming the field, NotThere for a kind there is not.
    """
    require(actor, "change-catalogue")
    if kind not in KINDS or not set(also) <= set(SLOTS):
        raise NotThere
    checked = _checked(actor.workshop, kind, values, also=also)
    part = CataloguePart(workshop_id=actor.workshop_id, kind=kind, also=list(also), **checked)
    part.folded = search_text(part)
    _classify(actor.workshop, [part])
    part.save()
    _written(actor.workshop)
    log(actor, "add", part, after={"attrs": part.attrs, "price": str(part.price)})
    return part


@transaction.atomic
def change_part(*, actor: User, part_id: int, version: int, values: Mapping[str, Any]) -> CataloguePart:
    """Write a part again. What plans and bikes took from it stays as it was taken.

    Raises InputError naming the field, NotThere, and Conflict where somebody else changed it.
    """
    part = _locked(actor, part_id, version)
    before = {"attrs": part.attrs, "price": str(part.price)}
    for name, value in _checked(actor.workshop, part.kind, values, but=part.pk, also=part.also).items():
        setattr(part, name, value)
    part.typical = part.typical and part.attrs == before["attrs"]  # a price alone confirms no figure
    if not part.retired:
        _classify(actor.workshop, [part])
    return _changed(actor, "change", part, before, {"attrs": part.attrs, "price": str(part.price)})


@transaction.atomic
def retire_part(*, actor: User, part_id: int, version: int, retired: bool) -> CataloguePart:
    """Offer a part no more, or again; it stays to be seen. Raises NotThere and Conflict."""
    part = _locked(actor, part_id, version)
    before, part.retired = {"retired": part.retired}, retired
    if retired:
        part.fit_class = None
    else:
        _classify(actor.workshop, [part])
    return _changed(actor, "retire", part, before, {"retired": retired})


def _locked(actor: User, part_id: int, version: int) -> CataloguePart:
    require(actor, "change-catalogue")
    own = CataloguePart.objects.select_for_update().filter(workshop_id=actor.workshop_id)
    part = own.filter(pk=part_id).first()
    if part is None:
        raise NotThere
    if part.version != version:
        raise Conflict("Somebody changed this part since you opened it. Nothing of yours was stored.", part)
    return part


def _changed(actor: User, verb: str, part: CataloguePart, before: Any, after: Any) -> CataloguePart:
    part.version += 1
    part.folded = search_text(part)
    part.save()
    _written(actor.workshop)
    log(actor, verb, part, before=before, after=after)
    return part


@transaction.atomic
def clear_catalogue(workshop: Workshop) -> None:
    """Remove every catalogue part of a workshop."""
    CataloguePart.objects.filter(workshop=workshop).delete()
    FitClass.objects.filter(workshop=workshop).delete()
    _written(workshop)


def renew_classes(workshop: Workshop, kinds: Iterable[str] | None = None) -> bool:
    """Make the fit classes again where the rules read other attributes than when they were made.

    Of these kinds, or of all; in batches that are kept, so that whoever is cut short goes on from there. Returns
    whether anything was renewed.
    """
    if workshop.classes_made_from == rules_fingerprint():
        return False
    stale = CataloguePart.objects.filter(workshop=workshop, retired=False, also=[])
    renewed = False
    for kind in sorted(KINDS) if kinds is None else kinds:
        of_kind = stale.filter(kind=kind).exclude(fit_class__made_from=reads_mark(kind))
        while _renew_some(workshop, of_kind):
            renewed = True
    if kinds is None:
        unused = FitClass.objects.filter(workshop=workshop, parts=None)
        unused.exclude(made_from__in=[reads_mark(kind) for kind in KINDS]).delete()
        Workshop.objects.filter(pk=workshop.pk).update(classes_made_from=rules_fingerprint())
        workshop.classes_made_from = rules_fingerprint()
    return renewed


@transaction.atomic
def _renew_some(workshop: Workshop, stale: QuerySet[CataloguePart]) -> bool:
    batch = list(stale.select_for_update(of=("self",)).order_by("pk")[:BATCH])
    if batch:
        _classify(workshop, batch)
        by_class: dict[int | None, list[int]] = {}
        for part in batch:
            by_class.setdefault(part.fit_class_id, []).append(part.pk)
        for class_id, ids in by_class.items():
            CataloguePart.objects.filter(pk__in=ids).update(fit_class=class_id)
        _written(workshop)
    return bool(batch)


def renew_next() -> bool:
    """Renew the fit classes of some workshop whose rules are others than they were made by; return whether one was."""
    return any(renew_classes(workshop) for workshop in Workshop.objects.order_by("pk"))
