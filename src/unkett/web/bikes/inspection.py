"""The inspection: what was found by eye and hand, each with what to do; damage and feel go on the part."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any

from attrs import asdict, frozen
from django.db import transaction
from django.utils import timezone
from PIL import Image, ImageOps, UnidentifiedImageError

from unkett.core.errors import Fault, InputError
from unkett.core.intake.inspection import HOWS, TICKS, Tick, places
from unkett.web.bikes.intake import looks_of
from unkett.web.bikes.models import Bike, Origin, Picture
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User

NOTE_MAX = 400
PICTURE_BYTES_MAX = 15_000_000
PICTURE_PIXELS_MAX = 60_000_000
SIDE_MAX = 1600
FORMATS = ("JPEG", "PNG", "WEBP")


@frozen(kw_only=True)
class Found:
    """One ticked defect: on which part, how much it matters, what is to be said of it."""

    slot: str
    how: str
    note: str = ""


def look_over(
    *,
    actor: User,
    bike_id: int,
    version: int,
    found: Mapping[str, Found],
    pictures: Mapping[str, bytes] | None = None,
) -> Bike:
    """Keep what an inspection found, by tick; what is not ticked any more is taken off its part again.

    `pictures` holds a file by tick, which replaces the one before. Raises InputError naming `code.slot`, `code.how`,
    `code.note` or `code.picture`; then nothing is stored.
    """
    made, faults = _pictures(pictures or {})
    if not set(found) <= set(TICKS):
        raise NotThere

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        faults.extend(_faults(bike, found))
        if faults:
            raise InputError(faults)
        before = bike.looked
        by = {"by": actor.called, "on": timezone.localdate().isoformat()}
        bike.looked = {
            code: _kept(before.get(code), {**asdict(found[code]), "note": found[code].note.strip()}, by)
            for code in TICKS
            if code in found
        }
        _mark(bike, parts, before, bike.looked)
        return before, bike.looked

    with transaction.atomic():
        bike = write_bike(actor, bike_id, version, "look over", "the inspection kept", action)
        for code, content in made.items():
            Picture.objects.update_or_create(bike=bike, about=code, defaults={"content": content})
    return bike


def _kept(was: Mapping[str, Any] | None, told: dict[str, Any], by: dict[str, Any]) -> dict[str, Any]:
    """A tick as it is kept: whoever found it stays its finder while nothing else is said."""
    same = was is not None and all(was.get(name) == value for name, value in told.items())
    return dict(was) if was is not None and same else {**told, **by}


def _faults(bike: Bike, found: Mapping[str, Found]) -> list[Fault]:
    looks, faults = looks_of(bike), []
    for code, one in found.items():
        if one.slot not in places(TICKS[code], looks):
            faults.append(Fault(path=f"{code}.slot", says=f"{TICKS[code].title}: choose the part"))
        if one.how not in HOWS:
            faults.append(Fault(path=f"{code}.how", says="must, should or may"))
        if len(one.note) > NOTE_MAX:
            says = f"{len(one.note)} characters; at most {NOTE_MAX} are kept"
            faults.append(Fault(path=f"{code}.note", says=says))
    return faults


def _mark(bike: Bike, parts: Parts, before: Mapping[str, Any], after: Mapping[str, Any]) -> None:
    """Take off the parts what the earlier ticks had put there, and put on what these say."""
    for slot in dict.fromkeys(one["slot"] for one in (*before.values(), *after.values())):
        old, new = _on(slot, before), _on(slot, after)
        part = parts.in_slot(bike, slot)
        if slot == "bike" or (part is None and not new):
            continue
        part = part or parts.enter(bike, slot)
        damage = set(part.attrs.get("damage", [])) - {tick.damage for tick in old}
        damage |= {tick.damage for tick in new} - {""}
        attrs, origins = dict(part.attrs), dict(part.origins)
        if damage:
            attrs["damage"], origins["damage"] = sorted(damage), Origin.MEASURED
        elif any(tick.damage for tick in old):
            attrs.pop("damage", None)
            origins.pop("damage", None)
        condition = dict(part.condition)
        felt = [tick.feel for tick in new if tick.feel]
        if felt:
            condition["feel"] = felt[-1]
        elif condition.get("feel") in {tick.feel for tick in old if tick.feel}:
            del condition["feel"]
        parts.change(part, attrs=attrs, origins=origins, condition=condition)


def _on(slot: str, ticks: Mapping[str, Any]) -> list[Tick]:
    return [TICKS[code] for code, one in ticks.items() if one["slot"] == slot and code in TICKS]


def _pictures(sent: Mapping[str, bytes]) -> tuple[dict[str, bytes], list[Fault]]:
    made, faults = {}, []
    for code, content in sent.items():
        try:
            made[code] = made_anew(content)
        except ValueError as error:
            faults.append(Fault(path=f"{code}.picture", says=str(error)))
    return made, faults


def made_anew(content: bytes) -> bytes:
    """A picture as a JPEG of at most 1600 pixels a side, turned as it was held, with nothing else of the file.

    Raises ValueError for what is no picture, or too big a one.
    """
    if len(content) > PICTURE_BYTES_MAX:
        raise ValueError(f"the file has {len(content)} bytes; at most {PICTURE_BYTES_MAX} are read")
    try:
        with Image.open(io.BytesIO(content), formats=FORMATS) as image:
            if image.width * image.height > PICTURE_PIXELS_MAX:
                raise ValueError(f"{image.width} × {image.height} pixels; that is too large to read")
            turned = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, Image.DecompressionBombError) as error:
        raise ValueError("this is no picture that can be read; JPEG, PNG or WebP are") from error
    turned.thumbnail((SIDE_MAX, SIDE_MAX))
    out = io.BytesIO()
    turned.save(out, "JPEG", quality=82)
    return out.getvalue()


def picture_of(actor: User, bike_id: int, code: str) -> bytes:
    """The picture of a tick. Raises NotThere."""
    if not bikes_seen_by(actor).filter(pk=bike_id).exists():
        raise NotThere
    found = Picture.objects.filter(bike_id=bike_id, about=code).first()
    if found is None:
        raise NotThere
    return bytes(found.content)
