"""The inspection: what was found by eye and hand, each with what to do; damage and feel go on the part."""

from __future__ import annotations

import io
from collections.abc import Collection, Iterable, Mapping
from decimal import Decimal
from typing import Any

from attrs import evolve, frozen
from django.db import transaction
from django.utils import timezone
from PIL import Image, ImageOps, UnidentifiedImageError

from unkett.core.errors import Fault, InputError
from unkett.core.intake import BikeProfile
from unkett.core.intake.inspection import HOWS, TICKS, Tick, places
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect, OwnFinding
from unkett.web.bikes.intake import profile_of
from unkett.web.bikes.models import Bike, Origin, Picture
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User

NOTE_MAX = 400
OWN = "own-"
OWN_MINUTES_MAX, OWN_PRICE_UNDER = 1440, 1_000_000
PICTURE_BYTES_MAX = 15_000_000
PICTURE_PIXELS_MAX = 60_000_000
SIDE_MAX = 1600
FORMATS = ("JPEG", "PNG", "WEBP")


@frozen(kw_only=True)
class Found:
    """Something found: on which parts, how much it matters, what is to be said of it.

    A finding in somebody's own words has these as its note, and its minutes and price.
    """

    slots: tuple[str, ...]
    how: str
    note: str = ""
    minutes: int = 0
    price: Decimal = Decimal(0)


def found_on(bike: Bike) -> dict[str, Found]:
    """Return what the inspection of a bike found, by tick or own code."""
    return {
        code: Found(
            slots=tuple(one["slots"]),
            how=one["how"],
            note=one["note"],
            minutes=one.get("minutes", 0),
            price=Decimal(one.get("price", "0")),
        )
        for code, one in bike.looked.items()
        if code in TICKS or is_own(code)
    }


def is_own(code: str) -> bool:
    """Return whether a code is of a finding in somebody's own words: `own-1` and so on."""
    return code.startswith(OWN) and code.removeprefix(OWN).isdigit()


def defects_of(bike: Bike) -> tuple[list[Defect], list[OwnFinding]]:
    """Return what the inspection found as a job takes it: the ticks, each on each of its parts, and the own words."""
    ticks, own = [], []
    for code, one in found_on(bike).items():
        for slot in one.slots:
            if is_own(code):
                own.append(
                    OwnFinding(
                        slot=slot, code=code, says=one.note, minutes=one.minutes, price=one.price, do=one.how
                    )
                )
            else:
                ticks.append(Defect(slot=slot, defect=code, do=one.how))
    return ticks, own


def next_own(found: Iterable[str]) -> str:
    """Return a code for one more finding in own words."""
    numbers = [int(code.removeprefix(OWN)) for code in found if is_own(code)]
    return f"{OWN}{max(numbers, default=0) + 1}"


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
    `code.note`, `code.minutes`, `code.price` or `code.picture`; then nothing is stored.
    """
    made, faults = _pictures(pictures or {})
    if not all(code in TICKS or is_own(code) for code in found):
        raise NotThere

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        faults.extend(_faults(bike, found))
        if faults:
            raise InputError(faults)
        before = bike.looked
        by = {"by": actor.called, "on": timezone.localdate().isoformat()}
        ordered = [*(code for code in TICKS if code in found), *(code for code in found if is_own(code))]
        bike.looked = {code: _kept(before.get(code), _in_words(code, found[code]), by) for code in ordered}
        _mark(bike, parts, before, bike.looked)
        return before, bike.looked

    with transaction.atomic():
        bike = write_bike(actor, bike_id, version, "look over", "the inspection kept", action)
        for code, content in made.items():
            Picture.objects.update_or_create(bike=bike, about=code, defaults={"content": content})
    return bike


def close_findings(*, actor: User, bike_id: int, mended: Collection[str]) -> Bike:
    """Take findings off an inspection whose work is done; `mended` names them as `slot:code`.

    What was found on several parts stays on those that are left. Damage of a part that was changed went with it.
    Raises NotThere for a bike that is not the actor's.
    """
    bike = bikes_seen_by(actor).filter(pk=bike_id).first()
    if bike is None:
        raise NotThere
    left = {}
    for code, one in found_on(bike).items():
        slots = tuple(slot for slot in one.slots if f"{slot}:{code}" not in mended)
        if slots:
            left[code] = evolve(one, slots=slots)
    if left == found_on(bike):
        return bike
    return look_over(actor=actor, bike_id=bike.pk, version=bike.version, found=left)


def _in_words(code: str, one: Found) -> dict[str, Any]:
    """Return a finding as it is stored."""
    stored: dict[str, Any] = {"slots": list(one.slots), "how": one.how, "note": one.note.strip()}
    return stored | {"minutes": one.minutes, "price": str(one.price)} if is_own(code) else stored


def _kept(was: Mapping[str, Any] | None, stored: dict[str, Any], by: dict[str, Any]) -> dict[str, Any]:
    """Return a tick as it is kept: whoever found it stays its finder while nothing else is said."""
    same = was is not None and all(was.get(name) == value for name, value in stored.items())
    return dict(was) if was is not None and same else {**stored, **by}


def _faults(bike: Bike, found: Mapping[str, Found]) -> list[Fault]:
    profile, faults = profile_of(bike), []
    for code, one in found.items():
        title = TICKS[code].title if code in TICKS else "Your own finding"
        allowed = places(TICKS[code], profile) if code in TICKS else own_places(profile)
        if not one.slots or not set(one.slots) <= set(allowed):
            faults.append(Fault(path=f"{code}.slot", says=f"{title}: choose the part"))
        if one.how not in HOWS:
            faults.append(Fault(path=f"{code}.how", says="must, should or may"))
        if len(one.note) > NOTE_MAX:
            says = f"{len(one.note)} characters; at most {NOTE_MAX} are kept"
            faults.append(Fault(path=f"{code}.note", says=says))
        if is_own(code):
            faults += _own_faults(code, one)
    return faults


def own_places(profile: BikeProfile) -> list[str]:
    """Return the parts that a finding in own words may be on."""
    return ["bike", *(slot for slot in SLOTS if profile.has(slot))]


def _own_faults(code: str, one: Found) -> list[Fault]:
    found = []
    if not one.note.strip():
        found.append(Fault(path=f"{code}.note", says="say what was found"))
    if not 0 <= one.minutes <= OWN_MINUTES_MAX:
        found.append(
            Fault(path=f"{code}.minutes", says=f"{one.minutes} given; 0 to {OWN_MINUTES_MAX} allowed")
        )
    if not 0 <= one.price < OWN_PRICE_UNDER:
        found.append(Fault(path=f"{code}.price", says=f"{one.price} given; 0 to {OWN_PRICE_UNDER} allowed"))
    return found


def _mark(bike: Bike, parts: Parts, before: Mapping[str, Any], after: Mapping[str, Any]) -> None:
    """Take off the parts what the earlier ticks had put there, and put on what these say."""
    slots = [slot for one in (*before.values(), *after.values()) for slot in one["slots"]]
    for slot in dict.fromkeys(slots):
        old, new = _on(slot, before), _on(slot, after)
        part = parts.in_slot(bike, slot) if slot != "bike" else None
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
    return [TICKS[code] for code, one in ticks.items() if slot in one["slots"] and code in TICKS]


def _pictures(sent: Mapping[str, bytes]) -> tuple[dict[str, bytes], list[Fault]]:
    made, faults = {}, []
    for code, content in sent.items():
        try:
            made[code] = made_again(content)
        except ValueError as error:
            faults.append(Fault(path=f"{code}.picture", says=str(error)))
    return made, faults


def made_again(content: bytes) -> bytes:
    """Return a picture as a JPEG of at most 1600 pixels a side, turned as it was held, with nothing else of the file.

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
    """Return the picture of a tick. Raises NotThere."""
    if not bikes_seen_by(actor).filter(pk=bike_id).exists():
        raise NotThere
    found = Picture.objects.filter(bike_id=bike_id, about=code).first()
    if found is None:
        raise NotThere
    return bytes(found.content)
