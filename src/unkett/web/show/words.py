"""Values, needs and log lines in a mechanic's words: plain functions of core values, without models or markup."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen

from unkett.core.build import Build, part_attrs_for
from unkett.core.check.difference import site_of
from unkett.core.identify import SUBJECTS
from unkett.core.rules import RULES
from unkett.core.rules.finding import Finding
from unkett.core.rules.outcome import need_words
from unkett.core.settings import SETTINGS, Settings
from unkett.core.standards import COLUMNS
from unkett.core.vocabulary import BIKE, KINDS, SLOTS, Attribute, describe, enums
from unkett.core.vocabulary.types import Choice, Either, ListOf
from unkett.core.vocabulary.words import in_sentence
from unkett.core.ways.fixes import targets
from unkett.core.work.step import DOES
from unkett.web.show.values import Shown

Origins = Mapping[str, Mapping[str, str]]


def slot_title(slot: str) -> str:
    """Return a slot's long name; what is no slot stays as it is."""
    return SLOTS[slot].title if slot in SLOTS else slot


def rule_title(rule_id: str) -> str:
    """Return what a rule is called; what is no rule stays as it is."""
    return RULES[rule_id].title if rule_id in RULES else rule_id


def may_be_tried(finding: Finding) -> bool:
    """Return whether another part may be the way out of a finding."""
    return bool(targets(finding))


def money(hundredths: int) -> str:
    """Money kept in hundredths as it is written."""
    sign = "−" if hundredths < 0 else ""
    return f"{sign}{abs(hundredths) // 100}.{abs(hundredths) % 100:02d}"


def in_money(hundredths: int, settings: Settings) -> str:
    """Money kept in hundredths with the workshop's currency: a sign goes before it, a code with a space."""
    currency = settings.school("currency")
    gap = "\u00a0" if currency and currency[-1].isalpha() else ""
    return f"{currency}{gap}{money(hundredths)}"


def plain_value(value: Any, kind: Any = None) -> str:
    """Return a value as a mechanic writes it: codes by their long name, lists with dashes, figures without noise."""
    if isinstance(kind, Either):
        kind = kind.other if isinstance(value, (list, tuple)) else kind.one
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, (list, tuple)):
        item = kind.item if isinstance(kind, ListOf) else None
        between = "·" if all(isinstance(entry, int) for entry in value) else ", "
        return between.join(plain_value(entry, item) for entry in value)
    if isinstance(value, Mapping):
        return ", ".join(f"{key}: {plain_value(entry)}" for key, entry in value.items())
    if isinstance(kind, Choice):
        return kind.of.title(str(value))
    return f"{value:.10g}" if isinstance(value, float) else str(value)


@frozen(kw_only=True)
class ShownValue(Shown):
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
    """Return an attribute with its title, unit and where it comes from; a missing one has origin 'unmeasured'.

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


def trimmed(value: float, decimals: int) -> str:
    """Return a figure with so many decimals at most; nothing is never negative."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


def figure(value: Any) -> str:
    """Return a computed figure: two decimals at most, no noise."""
    if isinstance(value, float):
        return trimmed(value, 2)
    if isinstance(value, list):
        return "; ".join(
            ", ".join(f"{cell}" for cell in row.values()) if isinstance(row, dict) else str(row)
            for row in value
        )
    return "–" if value is None else str(value)


def column_title(column: str) -> str:
    """Return a table's column in words with its unit: "pitch, mm"."""
    declared = COLUMNS[column]
    return ", ".join(filter(None, (declared["title"], declared.get("unit"))))


def cell(value: Any) -> str:
    """Return a table's cell: lists with commas, nothing for nothing."""
    if value is None:
        return ""
    return plain_value(list(value) if isinstance(value, list) else value).replace("·", ", ")


def inputs_of(finding: Finding, build: Build, origins: Origins) -> list[ShownValue]:
    """What the finding's rule read of the parts it looked at, as a page shows it; missing ones are unmeasured."""
    filled = build.filled()
    asked_for = {(reading["slot"], reading["attr"]) for reading in finding.measure}
    inputs = []
    for slot, attr in site_of(finding).measured:
        if slot not in filled:
            continue
        attrs = part_attrs_for(slot, filled[slot])
        if attr in attrs or (slot, attr) in asked_for:
            origin = origins.get(slot, {}).get(attr, "stated")
            inputs.append(shown_value(slot, attr, attrs.get(attr), origin))
    return inputs


def figures_behind(finding: Finding) -> list[tuple[str, Any, str]]:
    """Return what the finding's rule computed: each figure's words, its value and its unit."""
    declared = RULES[finding.rule].figures
    return [
        (declared[name][0], value, declared[name][1])
        if name in declared
        else (name.replace("_", " "), value, "")
        for name, value in finding.because.items()
        if value not in (None, "") and name != "table"
    ]


def identified_by(slot: str, attr: str) -> str:
    """Return the sort of the Measure pages that finds out this code, or nothing."""
    puts = ((sort.name, put) for sort in SUBJECTS.values() for put in sort.puts)
    return next((name for name, put in puts if put.slot == slot and attr in put.takes), "")


_LIMITS = {
    "==": "",
    "!=": "not ",
    "<=": "at most ",
    ">=": "at least ",
    "max<=": "largest at most ",
    "max>=": "largest at least ",
    "min<=": "smallest at most ",
    "min>=": "smallest at least ",
    "in": "one of ",
    "has": "with ",
    "len==": "count ",
}


def way_says(way: Mapping[str, Any]) -> str:
    """Return a way out in words: another part in this slot with this property."""
    declared = describe(way["slot"], way["attr"])
    limit = f"{_LIMITS[way['op']]}{plain_value(way['value'], declared.type)} {declared.unit}"
    return f"another {SLOTS[way['slot']].title.lower()}: {declared.title.lower()} {limit}".rstrip()


NEED_SORTS = {"part": "Parts needed", "work": "Work needed", "check": "Check", "accept": "Accept"}
_IN_WORDS = (enums.FREEHUB, enums.DAMAGE)


def _called(code: Any) -> str:
    """Return a code by its long name; what is a maker's own stays as it is."""
    named = next((codes.title(code) for codes in _IN_WORDS if code in codes.codes), str(code))
    return in_sentence(named)


def need_says(need: Mapping[str, Any]) -> str:
    """Return a need in words: what, its size, where."""
    words = [need_words(str(need["what"]))]
    if "side" in need:
        words.append(f"on the {need['side']},")
    if "count" in need:
        words.append(f"({need['count']})")
    if "size_mm" in need:
        words.append(f"{need['size_mm']:g} mm")
    words += [f"for {_called(need[name])}" for name in ("body", "fits") if name in need]
    if "rotor_mm" in need:
        words.append(f"for a {need['rotor_mm']:g} mm rotor")
    if "to_links" in need:
        words.append(f"({need['links']}, down to {need['to_links']})")
    elif "links" in need:
        words.append(f"({need['links']} links)")
    if "gears" in need:
        words.append("(" + ", ".join(need["gears"]) + ")")
    if "damage" in need:
        words.append("(" + ", ".join(_called(code) for code in need["damage"]) + ")")
    if "where" in need:
        words.append(str(need["where"]))
    if "minutes" in need:
        words.append(f"(about {need['minutes']} min)")
    if "caution" in need:
        words.append(f"– {need['caution']}")
    return " ".join(words)


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


_ATTRIBUTES = {name: attr.title for kind in (*KINDS.values(), BIKE) for name, attr in kind.attributes.items()}


def log_says(kept: Any) -> str:
    """Return what a log line keeps, in words: slot or field, then its value."""
    if not isinstance(kept, dict):
        return "" if kept is None else str(kept)
    return "; ".join(f"{_named(name)}: {_log_value(kept[name])}" for name in kept)


def _named(name: str) -> str:
    if name in SLOTS:
        return SLOTS[name].title
    if name in SETTINGS:
        return SETTINGS[name].title.lower()
    return _ATTRIBUTES[name].lower() if name in _ATTRIBUTES else name.replace("_", " ")


def _log_value(value: Any) -> str:
    if isinstance(value, dict):
        return log_says(value) or "nothing"
    if isinstance(value, list):
        return ", ".join(_log_value(entry) for entry in value) or "nothing"
    if isinstance(value, str) and value in SLOTS:
        return SLOTS[value].title.lower()
    return "nothing" if value is None or value == "" else _step_named(str(value))


def _step_named(text: str) -> str:
    """Return a step's id in words, `fit:rear_hub:wheel` as fit rear hub, wheel; any other text as it is."""
    does, _, rest = text.partition(":")
    slot, _, word = rest.partition(":")
    if does not in DOES or (slot != "bike" and slot not in SLOTS):
        return text
    said = (
        f"{does} {'the bike' if slot == 'bike' else SLOTS[slot].title.lower()}{f', {word}' if word else ''}"
    )
    return said.replace("_", " ")


def changes_in(
    kind: str, before: Mapping[str, Any] | None, after: Mapping[str, Any]
) -> list[tuple[str, str, str]]:
    """Return what changed of a part between two states of it: the attribute's title, what it was, what it is."""
    was, now = (state.get("attrs", {}) if state else {} for state in (before, after))
    return [
        (attr.title, _in_words(was.get(name), attr), _in_words(now.get(name), attr))
        for name, attr in KINDS[kind].attributes.items()
        if was.get(name) != now.get(name)
    ]


def values_of(kind: str, attrs: Mapping[str, Any]) -> list[tuple[str, str]]:
    """Return what is known of a part: each attribute's title and its value."""
    declared = KINDS[kind].attributes.items()
    return [
        (attr.title, _in_words(attrs[name], attr)) for name, attr in declared if attrs.get(name) is not None
    ]


def _in_words(value: Any, attr: Attribute) -> str:
    return "open" if value is None else f"{plain_value(value, attr.type)} {attr.unit}".strip()


_SUFFIXES = {
    "mm": "_mm",
    "°": "_deg",
    "%": "_pct",
    "Nm": "_nm",
    "m": "_m",
    "km/h": "_kmh",
    "N": "_n",
    "kg": "_kg",
}


def step_title(name: str, unit: str) -> str:
    """Return the name of a trace's line in words; its unit stands beside it and is left out."""
    return name.removesuffix(_SUFFIXES.get(unit, "")).replace("_", " ")
