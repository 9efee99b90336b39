"""What is printed on a part, typed as it is printed: one line instead of three fields.

Tyres and rims by ISO 5775, axles as diameter × spacing, headsets by the bore and the steerer of both ends, rotors
and stems as they are stamped.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from attrs import frozen

from unkett.core.errors import bad, shown
from unkett.core.standards import table
from unkett.core.vocabulary import KINDS, SLOTS, enums

Attrs = dict[str, Any]
_NUMBER = r"\d+(?:[.,]\d+)?"
_THRU_FROM_MM = 12.0  # no axle of this diameter or more is clamped by its ends


def _figure(text: str) -> float:
    number = float(text.replace(",", "."))
    return int(number) if number.is_integer() else number


@frozen(kw_only=True)
class Mark:
    """How a sort of part is marked: the pattern, one example and what it tells."""

    pattern: re.Pattern[str]
    example: str
    reads: Callable[[Mapping[str, str]], Attrs]


def _mark(pattern: str, example: str, reads: Callable[[Mapping[str, str]], Attrs]) -> Mark:
    return Mark(pattern=re.compile(pattern, re.IGNORECASE | re.ASCII), example=example, reads=reads)


def _code(text: str, kind: enums.Enumeration) -> str:
    """Return the code that somebody means who types a piece of its long name. Raises InputError."""
    wanted = re.sub(r"[\s_-]", "", text.lower())
    plain = {code: re.sub(r"[\s_-]", "", f"{code} {title}".lower()) for code, title in kind.codes.items()}
    found = [code for code, words in plain.items() if wanted in words]
    if len(found) != 1:
        raise bad("value", f"{shown(text)} given; one of {', '.join(kind.codes.values())} allowed")
    return found[0]


def _axle(prefix: str) -> Callable[[Mapping[str, str]], Attrs]:
    def reads(found: Mapping[str, str]) -> Attrs:
        dia = _figure(found["dia"])
        out: Attrs = {f"{prefix}axle_dia_mm": dia, f"{prefix}spacing_mm": _figure(found["old"])}
        if found["kind"]:
            out[f"{prefix}axle_kind"] = _code(found["kind"], enums.AXLE_KIND)
        elif dia >= _THRU_FROM_MM:
            out[f"{prefix}axle_kind"] = "thru"
        if found.get("rotor"):
            out["rotor_mount"] = _code(found["rotor"], enums.ROTOR_MOUNT)
        return out

    return reads


def _headset(found: Mapping[str, str]) -> Attrs:
    carries = {row["code"]: row["mm"] for row in table("headset_carries").rows}
    out: Attrs = {}
    for end, attr in (("upper", "steerer_upper_mm"), ("lower", "crown_race_mm")):
        code = found[end].upper().replace(",", ".")
        out[end] = code
        _, _, after = code.partition("/")
        if after in carries:
            out[attr] = carries[after]
        elif after:
            raise bad("value", f"{shown(after)} stands after the slash; {', '.join(carries)} are known")
    return out


def _stem(found: Mapping[str, str]) -> Attrs:
    """Two diameters before the length are those of a clamp on the steerer and of the bar."""
    out: Attrs = {
        "bar_clamp_mm": _figure(found["clamp"]),
        "length_mm": _figure(found["length"]),
        "angle_deg": _figure(found["angle"].replace("−", "-")),
    }
    if found["steerer"]:
        out |= {"steerer_mm": _figure(found["steerer"]), "mount": "threadless"}
    return out


def _rim(found: Mapping[str, str]) -> Attrs:
    out: Attrs = {"bsd_mm": _figure(found["bsd"]), "inner_width_mm": _figure(found["inner"])}
    form = (found["form"] or "").upper()
    if form:
        out["bead"] = "hookless" if form in ("TSS", "SS") else "hooked"
    return out


_AXLE = rf"(?P<dia>{_NUMBER})\s*[x×*]\s*(?P<old>{_NUMBER})"
_KIND = r"(?:\s+(?P<kind>thru|solid|quick[\s-]?release|quick))?"
_CUP = r"(?:EC|ZS|IS)\d{2}(?:[.,]\d)?(?:/\d{2}(?:[.,]\d)?)?"

MARKS: dict[str, Mark] = {
    "tyre": _mark(
        r"(?P<width>\d{2,3})\s*[-–]\s*(?P<bsd>\d{3})",
        "45-622",
        lambda found: {
            "width_mm": _figure(found["width"]),
            "bsd_mm": _figure(found["bsd"]),
            "type": "clincher",  # the standard marks tyres with beads so, no tubulars
        },
    ),
    "rim": _mark(
        rf"(?P<bsd>\d{{3}})\s*[x×*]\s*(?P<inner>{_NUMBER})\s*(?P<form>TSS|TC|SS|C)?", "622x23TC", _rim
    ),
    "hub": _mark(rf"{_AXLE}{_KIND}(?:\s+(?P<rotor>\S+(?:\s\S+)?))?", "12x100 six-bolt", _axle("")),
    "fork": _mark(rf"{_AXLE}{_KIND}", "12x100", _axle("")),
    "frame": _mark(rf"{_AXLE}{_KIND}", "12x142", _axle("rear_")),
    "headset": _mark(rf"(?P<upper>{_CUP})[\s;,]+(?P<lower>{_CUP})", "ZS44/28.6 EC49/40", _headset),
    "rotor": _mark(
        rf"(?P<dia>\d{{3}})(?:\s+(?P<mount>six\S*|splined|five\S*))?(?:\s+(?P<thick>{_NUMBER}))?",
        "160 six-bolt 1.8",
        lambda found: {
            "diameter_mm": _figure(found["dia"]),
            **({"mount": _code(found["mount"], enums.ROTOR_MOUNT)} if found["mount"] else {}),
            **({"thickness_mm": _figure(found["thick"])} if found["thick"] else {}),
        },
    ),
    "stem": _mark(
        rf"(?:(?P<steerer>{_NUMBER})\s+)?(?P<clamp>{_NUMBER})\s+(?P<length>{_NUMBER})\s+(?P<angle>[+−-]?{_NUMBER})°?",
        "28.6 31.8 90 -6",
        _stem,
    ),
    "handlebar": _mark(
        rf"(?P<clamp>{_NUMBER})\s+(?P<width>\d{{3}})(?:\s+(?P<shape>[a-z _-]+))?",
        "31.8 440 drop",
        lambda found: {
            "clamp_mm": _figure(found["clamp"]),
            "width_mm": _figure(found["width"]),
            **({"shape": _code(found["shape"], enums.BAR_SHAPE)} if found["shape"] else {}),
        },
    ),
}


def example_for(slot: str) -> str:
    """Return how the part of a slot is marked, for instance; nothing where its sort bears no common mark."""
    mark = MARKS.get(SLOTS[slot].kind)
    return mark.example if mark else ""


def read_printed(slot: str, text: str) -> Attrs:
    """Return what a printed line tells of the part in a slot. Raises InputError that gives an example."""
    kind = SLOTS[slot].kind
    mark = MARKS[kind]
    found = mark.pattern.fullmatch(text.strip())
    if found is None:
        raise bad("value", f"{shown(text)} given; as it is printed wanted, for instance {mark.example}")
    allowed = KINDS[kind].attributes
    return {
        name: allowed[name].type.check(value, "value")
        for name, value in mark.reads(found.groupdict("")).items()
    }
