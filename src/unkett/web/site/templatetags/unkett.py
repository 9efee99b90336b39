"""Template tags: verdict marks, values in the trade's manner, pictures, "where from?"."""

from __future__ import annotations

import functools
from collections.abc import Container, Iterable, Mapping
from typing import Any

from attrs import frozen
from django import template
from django.utils.html import escape, format_html
from django.utils.safestring import SafeString

from unkett.core.build import Build, part_attrs_for
from unkett.core.calc.gears import Gears
from unkett.core.calc.titles import TITLES
from unkett.core.drawing.bicycle import Gear
from unkett.core.drawing.scene import Scene
from unkett.core.engine import site_of
from unkett.core.finding import Finding, Verdict
from unkett.core.identify import SORTS
from unkett.core.joints import Judged
from unkett.core.rules import RULES
from unkett.core.typed import in_rows, row_says
from unkett.core.units import in_preferred
from unkett.core.vocabulary import SLOTS, describe, enums
from unkett.core.vocabulary.types import Choice, Either, ListOf
from unkett.core.words import in_sentence
from unkett.web.site.fields import choices_of, ticks_of
from unkett.web.site.svg import render_svg

register = template.Library()


@register.simple_tag
def mark(verdict: Verdict, size: str = "") -> SafeString:
    """A verdict's shape, with its words for those who do not see it."""
    return _mark(verdict, size)


@functools.cache
def _mark(verdict: Verdict, size: str) -> SafeString:
    return format_html(
        '<svg class="mark mark-{} {}" viewBox="0 0 20 20" role="img" aria-label="{}"><use href="#v-{}"/></svg>',
        verdict.value,
        size,
        verdict.title,
        verdict.value,
    )


@register.simple_tag
def gear_options(table: Gears, chosen: Gear) -> SafeString:
    """The options of a choice of gears, low to high."""
    return SafeString(
        "".join(
            f'<option value="{one.ring}-{one.sprocket}"'
            f"{' selected' if (one.ring, one.sprocket) == (chosen.ring, chosen.sprocket) else ''}>"
            f"{one.ring} / {one.sprocket}</option>"
            for one in table.gears
        )
    )


@register.simple_tag
def joint_links(joints: list[Judged], here: str, chosen: str) -> SafeString:
    """Every joint as a link that opens it, worst first, with its shape and how many findings ask for work."""
    here = escape(here)
    return SafeString(
        "".join(
            f'<a href="{here}?joint={one.joint.name}" hx-get="{here}?joint={one.joint.name}" hx-target="#joint"'
            f"{' aria-current=' + chr(34) + 'true' + chr(34) if one.joint.name == chosen else ''}>"
            f"{_mark(one.verdict, 'small')} {one.joint.title}"
            f"{f' <span class={chr(34)}count{chr(34)}>{one.count}</span>' if one.count else ''}</a>"
            for one in joints
        )
    )


@register.filter
def slot_title(slot: str) -> str:
    return SLOTS[slot].title if slot in SLOTS else slot


def plain_value(value: Any, kind: Any = None) -> str:
    """A value as a mechanic writes it: codes by their long name, lists with dashes, figures without noise."""
    if isinstance(kind, Either):
        kind = kind.other if isinstance(value, (list, tuple)) else kind.one
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, (list, tuple)):
        item = kind.item if isinstance(kind, ListOf) else None
        joint = "·" if all(isinstance(one, int) for one in value) else ", "
        return joint.join(plain_value(one, item) for one in value)
    if isinstance(value, Mapping):
        return ", ".join(f"{key}: {plain_value(one)}" for key, one in value.items())
    if isinstance(kind, Choice):
        return kind.of.title(str(value))
    return f"{value:.10g}" if isinstance(value, float) else str(value)


@frozen(kw_only=True)
class ShownValue:
    """An attribute of a part as a page shows it."""

    slot: str
    attr: str
    title: str
    how: str
    text: str
    unit: str
    origin: str
    called: tuple[str, ...] = ()
    value: Any = None


def shown_value(
    slot: str, attr: str, value: Any, origin: str, called: Mapping[str, list[str]] | None = None
) -> ShownValue:
    """An attribute with its title, unit and where it comes from; a missing one has origin 'unmeasured'.

    `called` holds the workshop's bench names by code, shown beside the long name.
    """
    declared = describe(slot, attr)
    missing = value is None
    return ShownValue(
        slot=slot,
        attr=attr,
        title=declared.title,
        how=declared.how,
        text="" if missing else plain_value(value, declared.type),
        unit=declared.unit,
        origin="unmeasured" if missing else origin,
        called=tuple((called or {}).get(value, ())) if isinstance(value, str) else (),
        value=value if isinstance(value, (int, float)) and not isinstance(value, bool) else None,
    )


@register.simple_tag
def svg(scene: Scene, ident: str, link: str = "") -> SafeString:
    return render_svg(scene, ident, link)


def _trimmed(value: float, decimals: int) -> str:
    """A figure with so many decimals at most; nothing is never negative."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


@register.filter
def figure(value: Any) -> str:
    """A computed figure: two decimals at most, no noise."""
    if isinstance(value, float):
        return _trimmed(value, 2)
    if isinstance(value, list):
        return "; ".join(
            ", ".join(f"{v}" for v in one.values()) if isinstance(one, dict) else str(one) for one in value
        )
    return "–" if value is None else str(value)


@register.simple_tag(takes_context=True)
def quantity(context: Mapping[str, Any], value: Any, unit: str, decimals: int = 2) -> SafeString:
    """A figure with its small unit, in the unit that whoever is signed in prefers to read."""
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        chosen = getattr(context["request"].user, "units", {})
        shown, unit_shown = in_preferred(value, unit, chosen)
        value, unit = _trimmed(shown, 3 if unit_shown == "in" else decimals), unit_shown
        value = value.replace("-", "−")
    return format_html("{} <small>{}</small>", "–" if value is None else value, unit)


_UNIT_WORDS = {
    "mm": "mm", "links": "links", "deg": "°", "pct": "%", "nm": "Nm", "bar": "bar", "kg": "kg", "w": "W",
    "rpm": "rpm", "kmh": "km/h", "teeth": "teeth", "m": "m", "m2": "m²",
}  # fmt: skip
_LONG = {
    "a2c": "axle to crown", "bsd": "rim size", "erd": "effective diameter", "pcd": "hole circle",
    "bcd": "bolt circle", "bb": "bracket", "crr": "rolling resistance", "cda": "drag area", "rho": "air density",
    "mu": "friction",
}  # fmt: skip


@register.filter
def unit_of(name: str) -> str:
    """The unit that a figure's name carries; of `min_links` and the like, nothing else is the unit's."""
    return next((_UNIT_WORDS[word] for word in name.split("_")[1:] if word in _UNIT_WORDS), "")


@register.filter
def field_title(name: str) -> str:
    """A figure's name in words without its unit: `a2c_from_mm` becomes "axle to crown from"."""
    first, *words = name.split(":")[0].split("_")
    kept = [first, *(word for word in words if word not in _UNIT_WORDS)]
    rest = name.partition(":")[2]
    title = " ".join(_LONG.get(word, word) for word in kept)
    return f"{title}: {field_title(rest.strip()) if '_' in rest else rest.strip()}" if rest else title


@register.filter
def titled(name: str, calculation: str) -> str:
    """An input or an answer of a calculation in words, its first letter large."""
    whole, _, part = name.partition(": ")
    title = TITLES.get(calculation, {}).get(whole) or field_title(whole)
    if part:
        title += f": {field_title(part) if '_' in part else part}"
    return title[:1].upper() + title[1:]


@register.filter
def calculation_title(name: str) -> str:
    """A calculation's name as a heading."""
    return field_title(name).capitalize()


@register.filter
def log_says(kept: Any) -> str:
    """What a log line keeps, in words: slot or field, then its value."""
    if not isinstance(kept, dict):
        return "" if kept is None else str(kept)
    pairs = [(SLOTS[name].title if name in SLOTS else field_title(name), kept[name]) for name in kept]
    return "; ".join(f"{title}: {_log_value(value)}" for title, value in pairs)


def _log_value(value: Any) -> str:
    if isinstance(value, dict):
        return log_says(value) or "nothing"
    if isinstance(value, list):
        return ", ".join(_log_value(one) for one in value) or "nothing"
    return "nothing" if value is None or value == "" else str(value)


def inputs_of(finding: Finding, build: Build, origins: Mapping[str, Mapping[str, str]]) -> list[ShownValue]:
    """What the finding's rule read of the parts it looked at, as a page shows it; missing ones are unmeasured."""
    filled = build.filled()
    asked_for = {(one["slot"], one["attr"]) for one in finding.measure}
    inputs = []
    for slot, attr in site_of(finding).measured:
        if slot not in filled:
            continue
        attrs = part_attrs_for(slot, filled[slot])
        if attr in attrs or (slot, attr) in asked_for:
            origin = origins.get(slot, {}).get(attr, "stated")
            inputs.append(shown_value(slot, attr, attrs.get(attr), origin))
    return inputs


@register.inclusion_tag("_where_panel.html")
def where_from(finding: Finding, build: Build, origins: Mapping[str, Mapping[str, str]]) -> dict[str, Any]:
    """The panel behind a finding: what it read, what it computed, its rule and its source."""
    rule = RULES[finding.rule]
    figures = [
        (name, rule.figures.get(name, name), value)
        for name, value in finding.because.items()
        if value not in (None, "") and name != "table"
    ]
    return {
        "rule": rule,
        "finding": finding,
        "inputs": inputs_of(finding, build, origins),
        "figures": figures,
    }


@register.inclusion_tag("bikes/_mating.html", takes_context=True)
def mating(
    context: Mapping[str, Any], findings: Iterable[Finding], build: Build, origins: Any
) -> dict[str, Any]:
    """The parts of a joint with the numbers by which they mate, each part a column of its own."""
    by_slot: dict[str, dict[str, ShownValue]] = {}
    for finding in findings:
        for one in inputs_of(finding, build, origins):
            by_slot.setdefault(one.slot, {})[one.attr] = one
    filled = build.filled()
    parts = [
        {"title": SLOTS[slot].title, "name": filled[slot].name, "values": list(values.values())}
        for slot, values in by_slot.items()
    ]
    return {"parts": parts, "request": context["request"]}


@register.inclusion_tag("_measure_form.html", takes_context=True)
def measure_form(context: Mapping[str, Any], slot: str, attr: str | None) -> dict[str, Any]:
    """A form for one reading of one part, or for whether one is fitted (attr None); it comes back to its page."""
    shared = {name: context.get(name) for name in ("request", "csrf_token", "bike")} | {
        "slot": slot,
        "attr": attr,
    }
    if attr is None:
        return shared
    declared = describe(slot, attr)
    kind = declared.type
    return {
        **shared,
        "declared": declared,
        "where": "Bike and rider" if slot == "bike" else SLOTS[slot].title,
        "choices": choices_of(kind),
        "ticks": ticks_of(kind),
        "rows": row_says(kind) if in_rows(kind) else "",
        "sort": identified_by({"slot": slot, "attr": attr}),
    }


@register.filter
def asked_in(one: Mapping[str, Any], asked: Container[tuple[str, str]]) -> bool:
    """Whether a reading that a finding misses is asked for elsewhere on the page."""
    return bool(asked) and (one["slot"], one["attr"]) in asked


@register.filter
def get(mapping: Mapping[Any, Any], key: Any) -> Any:
    """A mapping's value, or nothing."""
    return mapping.get(key)


@register.filter
def teeth_range(teeth: Any) -> str:
    """Sprockets in short: smallest–largest."""
    return f"{min(teeth)}–{max(teeth)}"


@register.filter
def verdict_title(value: Verdict) -> str:
    return value.title


_SAYS = {"==": "", "!=": "not ", "<=": "at most ", ">=": "at least ", "max<=": "largest at most ", "max>=": "largest at least ",
         "min<=": "smallest at most ", "min>=": "smallest at least ", "in": "one of ", "has": "with ", "len==": "count "}  # fmt: skip


@register.filter
def way_says(way: Mapping[str, Any]) -> str:
    """A way out in words: another part in this slot with this property."""
    declared = describe(way["slot"], way["attr"])
    value = plain_value(way["value"], declared.type)
    return f"another {SLOTS[way['slot']].title.lower()}: {declared.title.lower()} {_SAYS[way['op']]}{value} {declared.unit}".rstrip()


NEED_SORTS = {"part": "To get", "work": "To do", "check": "To look at", "accept": "To accept"}
_IN_WORDS = (enums.FREEHUB, enums.DAMAGE)


def _called(code: Any) -> str:
    """A code by its long name; what is a maker's own stays as it is."""
    named = next((of.title(code) for of in _IN_WORDS if code in of.codes), str(code))
    return in_sentence(named)


@register.filter
def need_says(need: Mapping[str, Any]) -> str:
    """A need in words: what, its size, where."""
    words = [str(need["what"])]
    if "side" in need:
        words.append(f"on the {need['side']},")
    if "count" in need:
        words.append(f"({need['count']})")
    if "size_mm" in need:
        words.append(f"{need['size_mm']:g} mm")
    words += [f"for {_called(need[name])}" for name in ("body", "fits") if name in need]
    if "rotor_mm" in need:
        words.append(f"for a {need['rotor_mm']:g} mm rotor")
    if "links" in need:
        words.append(f"({need['links']}, down to {need['to_links']})")
    if "gears" in need:
        words.append("(" + ", ".join(need["gears"]) + ")")
    if "damage" in need:
        words.append("(" + ", ".join(_called(one) for one in need["damage"]) + ")")
    if "where" in need:
        words.append(str(need["where"]))
    if "minutes" in need:
        words.append(f"(about {need['minutes']} min)")
    if "caution" in need:
        words.append(f"– {need['caution']}")
    return " ".join(words)


@register.filter
def by_sort(needs: Iterable[Mapping[str, Any]]) -> list[tuple[str, list[list[str]]]]:
    """Needs apart by what they are: to get, to do, to look at, to accept; each a list of its alternatives.

    Alternatives of several sorts stand under the first one's.
    """
    lines: dict[str, dict[Any, list[str]]] = {sort: {} for sort in NEED_SORTS}
    home: dict[int, str] = {}
    for n, need in enumerate(needs):
        either = need.get("either")
        sort = need["sort"] if either is None else home.setdefault(either, need["sort"])
        lines[sort].setdefault(("alone", n) if either is None else either, []).append(need_says(need))
    return [(title, list(lines[sort].values())) for sort, title in NEED_SORTS.items() if lines[sort]]


@register.simple_tag
def mark_of(value: str) -> SafeString:
    """The shape of a verdict given by its code."""
    return mark(Verdict(value))


@register.filter
def column_title(column: str) -> str:
    """A table's column in words: 'pitch_mm' becomes 'pitch, mm'."""
    words, _, unit = column.rpartition("_")
    return (
        f"{words.replace('_', ' ')}, {unit}" if unit in ("mm", "nm") and words else column.replace("_", " ")
    )


@register.filter
def cell(value: Any) -> str:
    """A table's cell: lists with commas, nothing for nothing."""
    return (
        ""
        if value is None
        else plain_value(list(value) if isinstance(value, list) else value).replace("·", ", ")
    )


@register.filter
def identified_by(one: Mapping[str, Any]) -> str:
    """The Measure page that finds out this code, or nothing."""
    hit = (
        sort.name
        for sort in SORTS.values()
        for put in sort.puts
        if put.slot == one["slot"] and one["attr"] in put.takes
    )
    return next(hit, "")
