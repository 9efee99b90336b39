"""What templates call: thin tags and filters over `words`, `units` and `svg`."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from typing import Any

from django import template
from django.utils.html import escape, format_html
from django.utils.safestring import SafeString

from unkett.core.calc.gears import Gears
from unkett.core.check.joint_verdicts import Judged
from unkett.core.drawing.bicycle import Gear
from unkett.core.rules.finding import Verdict
from unkett.core.scene import Scene
from unkett.core.units import in_preferred
from unkett.web.show import words
from unkett.web.show.qr import qr_code
from unkett.web.show.svg import render_svg

register = template.Library()

for plain in (
    words.slot_title,
    words.rule_title,
    words.money,
    words.in_money,
    words.may_be_tried,
    words.figure,
    words.column_title,
    words.cell,
    words.way_says,
    words.by_sort,
    words.values_of,
    words.log_says,
    words.step_title,
):
    register.filter(plain.__name__, plain)


@register.filter
def cut_words(name: str) -> str:
    """Return a place of a line's route in words."""
    return name.replace("_", " ")


@register.simple_tag
def qr(text: str) -> SafeString:
    """Return a code to scan."""
    return qr_code(text)


@register.filter
def unlocal(number: float) -> str:
    """Return a number as a drawing wants it, whatever the language."""
    return f"{number:g}"


@register.filter
def row_y(row: int) -> int:
    """Return where the name of a row of the day line stands."""
    return 54 + 56 * row


@register.filter
def total(values: Any) -> float:
    """Return the sum of figures."""
    return float(sum(values))


@register.simple_tag
def mark(verdict: Verdict | str, size: str = "") -> SafeString:
    """Return a verdict's shape, with its words for those who do not see it; a verdict or its code."""
    return _mark(Verdict(verdict), size)


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
    """Return the options of a choice of gears, low to high."""
    pairs = list(dict.fromkeys((gear.ring, gear.sprocket) for gear in table.gears))
    return SafeString(
        "".join(
            f'<option value="{ring}-{sprocket}"'
            f"{' selected' if (ring, sprocket) == (chosen.ring, chosen.sprocket) else ''}>"
            f"{ring} / {sprocket}</option>"
            for ring, sprocket in pairs
        )
    )


@register.simple_tag
def joint_links(joints: list[Judged], here: str, chosen: str) -> SafeString:
    """Return every joint as a link that opens it, worst first, with its shape and how many findings ask for work."""
    here = escape(here)
    links = []
    for judged in joints:
        url, current = f"{here}?joint={judged.joint.name}", judged.joint.name == chosen
        links.append(
            f'<a href="{url}" hx-get="{url}" hx-target="#joint"{" aria-current=true" if current else ""}>'
            f"{_mark(judged.verdict, 'small')} {judged.joint.title}"
            f"{f' <span class={chr(34)}count{chr(34)}>{judged.count}</span>' if judged.count else ''}</a>"
        )
    return SafeString("".join(links))


@register.simple_tag
def svg(scene: Scene, ident: str, link: str = "") -> SafeString:
    """Return a scene as inline SVG."""
    return render_svg(scene, ident, link)


@register.simple_tag(takes_context=True)
def quantity(context: Mapping[str, Any], value: Any, unit: str, decimals: int = 2) -> SafeString:
    """Return a figure with its small unit, in the unit that whoever is signed in prefers to read."""
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        chosen = getattr(context["request"].user, "units", {})
        shown, unit_shown = in_preferred(value, unit, chosen)
        value, unit = words.trimmed(shown, 3 if unit_shown == "in" else decimals), unit_shown
        value = value.replace("-", "−")
    if value in (None, "–"):
        return SafeString("–")
    return format_html("{} <small>{}</small>", value, unit)


@register.filter
def get(mapping: Mapping[Any, Any], key: Any) -> Any:
    """Return a mapping's value, or nothing."""
    return mapping.get(key)


@register.filter
def teeth_range(teeth: Any) -> str:
    """Sprockets in short: smallest–largest."""
    return f"{min(teeth)}–{max(teeth)}"


@register.filter
def asked_in(reading: Mapping[str, Any], places: Any) -> bool:
    """Return whether a reading that a finding misses is asked for at one of these places."""
    return (reading["slot"], reading["attr"]) in places
