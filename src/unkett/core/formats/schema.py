"""The published JSON Schema of `unkett.build/1`, made from the vocabulary's declarations."""

from __future__ import annotations

from typing import Any

from unkett.core.build import ABOUT, FORMAT, ORIGINS
from unkett.core.formats.reader import RIDER_KEYS
from unkett.core.vocabulary import BIKE, KINDS, SLOTS

Json = dict[str, Any]
OWN_KEYS: Json = {"^x_": {}}


def _nullable(schema: Json) -> Json:
    """Absent and null mean the same: not measured."""
    return {"anyOf": [schema, {"type": "null"}]}


def _kind(name: str) -> Json:
    attributes = {
        attribute.name: {
            **_nullable(attribute.type.schema()),
            "title": attribute.title,
            "description": attribute.how,
            **({"examples": list(attribute.usual)} if attribute.usual else {}),
        }
        for attribute in KINDS[name].attributes.values()
    }
    return {"type": "object", "properties": attributes, "patternProperties": OWN_KEYS}


def _part(kind: str) -> Json:
    return {
        "type": "object",
        "properties": {
            "kind": {"const": kind},
            "name": {"type": "string", "maxLength": 200},
            "also": {"type": "array", "items": {"enum": list(SLOTS)}},
            "attrs": {"$ref": f"#/$defs/{kind}"},
            "origins": {
                "description": "By attribute, where it comes from.",
                "type": ["object", "null"],
                "additionalProperties": {"enum": [*ORIGINS, None]},
            },
        },
        "patternProperties": OWN_KEYS,
        "additionalProperties": False,
    }


def build_schema() -> Json:
    """JSON Schema (2020-12) of a build. A part in two slots carries the attributes of both kinds,
    so unknown attributes are refused by the reader, not by the schema."""
    hand = {"enum": ["left", "right"]}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": FORMAT,
        "description": "A bike's parts by slot, with their measured attributes. Lengths in millimetres.",
        "type": "object",
        "required": ["parts"],
        "properties": {
            "format": {"const": FORMAT},
            "name": {"type": "string", "maxLength": 200},
            "use": _nullable(BIKE.attributes["use"].type.schema()),
            **{key: _nullable({"type": "string", "maxLength": most}) for key, most in ABOUT.items()},
            "rider": {
                "type": "object",
                "properties": {key: _nullable(BIKE.attributes[key].type.schema()) for key in RIDER_KEYS},
                "patternProperties": OWN_KEYS,
                "additionalProperties": False,
            },
            "lever_hand": {
                "type": "object",
                "properties": {"front": hand, "rear": hand},
                "patternProperties": OWN_KEYS,
                "additionalProperties": False,
            },
            "empty": {
                "description": "Slots that were looked at and hold nothing.",
                "type": ["array", "null"],
                "items": {"enum": list(SLOTS)},
                "uniqueItems": True,
            },
            "settled": {
                "description": "Needs of findings that were met and that no attribute can show.",
                "type": ["array", "null"],
                "items": {
                    "type": "object",
                    "required": ["rule", "slots", "what"],
                    "properties": {
                        "rule": {"type": "string", "maxLength": 200},
                        "slots": {"type": "array", "items": {"enum": [*SLOTS, "bike"]}},
                        "what": {"type": "string", "maxLength": 200},
                    },
                    "patternProperties": OWN_KEYS,
                    "additionalProperties": False,
                },
            },
            "parts": {
                "type": "object",
                "properties": {slot.name: _nullable(_part(slot.kind)) for slot in SLOTS.values()},
                "patternProperties": OWN_KEYS,
                "additionalProperties": False,
            },
        },
        "patternProperties": OWN_KEYS,
        "additionalProperties": False,
        "$defs": {name: _kind(name) for name in KINDS},
    }
