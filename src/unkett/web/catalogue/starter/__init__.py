"""The starter catalogue: usual parts by dimension only, which a new workshop loads with one press.

A starter part has no manufacturer and no price, and says only what its name says or a standard fixes: what a marking
must tell is left out, so that it stays not measured. `CataloguePart.starter` holds its code; `typical` is true until
the workshop writes other figures, and only typical parts are brought up to date.
"""

from __future__ import annotations

import functools
import re
import tomllib
from collections.abc import Mapping
from importlib import resources
from typing import Any

from attrs import frozen
from django.db import transaction

from unkett.core.build import plain
from unkett.core.formats.reader import attrs_from
from unkett.core.standards import SOURCES
from unkett.core.vocabulary import KINDS
from unkett.core.vocabulary.types import Code
from unkett.core.vocabulary.words import in_sentence
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.services import add_parts, rewrite_parts
from unkett.web.show.words import plain_value
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

FILES = ("drive", "wheels", "brakes", "frame")
SIZES = ("rails", "sizes")
CIRCLE = re.compile(r"(\d+)x(\d+)")


@frozen(kw_only=True)
class StarterPart:
    """A usual part: its kind, the name made from its figures, and those figures."""

    kind: str
    name: str
    attrs: Mapping[str, Any]
    source: str

    @property
    def code(self) -> str:
        return f"{self.kind}: {self.name}"[:200]


@frozen(kw_only=True)
class StarterState:
    """How the workshop's catalogue stands against the starter catalogue that ships."""

    here: int
    new: int
    changed: int

    @property
    def pending(self) -> int:
        """Return how many parts an update would add or change."""
        return self.new + self.changed


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads(
        resources.files("unkett.web.catalogue.starter").joinpath(f"{name}.toml").read_text("utf-8")
    )


@functools.cache
def starter_parts() -> tuple[StarterPart, ...]:
    """Return every starter part, checked against the vocabulary.

    Raises InputError naming the part and the attribute where a figure is not allowed.
    """
    words = _read("words")
    found = []
    for family in (family for name in FILES for family in _read(name)["family"]):
        kind = KINDS[family["kind"]]
        for row in family["rows"]:
            given = {**family["all"], **dict(zip(family["columns"], row, strict=True))}
            name = family["name"].format_map(_Said(given, kind.name, words))
            name = name[0].upper() + name[1:]
            attrs = plain(attrs_from({n: v for n, v in given.items() if n != "called"}, kind.name, name))
            found.append(StarterPart(kind=kind.name, name=name, attrs=attrs, source=family["source"]))
    return tuple(found)


class _Said(dict[str, str]):
    """The figures of a part as its name says them."""

    def __init__(self, given: Mapping[str, Any], kind: str, words: Mapping[str, str]) -> None:
        said = {name: _said(value, kind, name, words) for name, value in given.items() if name != "pivots"}
        axle = next((name for name in given if name.endswith("axle_kind")), None)
        if axle:
            diameter = given[f"{axle.removesuffix('axle_kind')}axle_dia_mm"]
            said["axle"] = f"{said[axle]} {diameter:g}"
        super().__init__(said)


def _said(value: Any, kind: str, name: str, words: Mapping[str, str]) -> str:
    if isinstance(value, bool):
        return words.get(name if value else f"not_{name}", "")
    if isinstance(value, list):
        parts = [_said(item, kind, name, words) for item in value]
        if kind == "cassette" and len(parts) > 1:
            return f"{parts[0]}–{parts[-1]}"
        return (
            "–".join(parts)
            if name == "reach_mm"
            else "/".join(parts if name == "teeth" else dict.fromkeys(parts))
        )
    if isinstance(value, str):
        circle = CIRCLE.fullmatch(value) if name in ("mount", "ring_mount") else None
        if circle:
            return f"{circle[1]} mm × {circle[2]} bolts"
        attribute = KINDS[kind].attributes.get(name)
        if attribute is None or isinstance(attribute.type, Code):
            return value
        said = words.get(f"{name}.{value}") or words.get(value)
        return said or in_sentence(plain_value(value, attribute.type)).replace(
            "x", " × " if name in SIZES else "x"
        )
    return f"{value:g}"


def source_of(part: CataloguePart) -> Mapping[str, str] | None:
    """Return where the figures of a typical part come from, with `title` and `kind` (how sure); None of another."""
    sources = {one.code: one.source for one in starter_parts()} if part.typical else {}
    return SOURCES.get(sources.get(part.starter, ""))


def _against(actor: User) -> tuple[list[StarterPart], list[tuple[CataloguePart, StarterPart]], int]:
    """Return the starter parts that are missing, the typical ones whose figures ship otherwise, and how many are here.

    A part of the workshop's own with the same name counts as here, so that nothing is there twice.
    """
    own = CataloguePart.objects.filter(workshop_id=actor.workshop_id)
    here = {part.starter: part for part in own.exclude(starter="")}
    named = set(own.filter(maker="").values_list("kind", "name"))
    missing, changed = [], []
    for one in starter_parts():
        part = here.get(one.code)
        if part is None:
            if (one.kind, one.name) not in named:
                missing.append(one)
        elif part.typical and part.attrs != one.attrs:
            changed.append((part, one))
    return missing, changed, len(here)


def starter_state(actor: User) -> StarterState:
    """Return how many starter parts the workshop has, lacks and could bring up to date."""
    missing, changed, here = _against(actor)
    return StarterState(here=here, new=len(missing), changed=len(changed))


@transaction.atomic
def load_starter(*, actor: User) -> StarterState:
    """Load the starter catalogue, or bring it up to date; what the workshop wrote itself stays as it is.

    Returns what was missing and changed before. Pressed twice, the second press changes nothing.
    """
    require(actor, "change-catalogue")
    type(actor.workshop).objects.select_for_update().get(
        pk=actor.workshop_id
    )  # two presses: one after the other
    missing, changed, here = _against(actor)
    entries = [
        {"kind": one.kind, "name": one.name, "attrs": one.attrs, "price": None, "starter": one.code}
        for one in missing
    ]
    if entries:
        add_parts(actor.workshop, entries)
    if changed:
        for part, one in changed:
            part.attrs = plain(one.attrs)
        rewrite_parts(actor.workshop, [part for part, _ in changed])
    if entries or changed:
        log(actor, "load starter", actor.workshop, after={"added": len(entries), "changed": len(changed)})
    return StarterState(here=here, new=len(missing), changed=len(changed))
