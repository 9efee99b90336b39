"""Tags that bring a fragment of their own: what stands behind a finding, the parts of a joint, a reading asked for."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import evolve
from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from unkett.core.build import Build
from unkett.core.rules import RULES
from unkett.core.rules.finding import Finding
from unkett.core.vocabulary import SLOTS, describe
from unkett.web.bikes.complaints import reasons_of
from unkett.web.bikes.models import Bike
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.pages.common.once import new_token
from unkett.web.pages.common.tour import OFFERED, STOPS, stop_of
from unkett.web.show.fields import field_of
from unkett.web.show.words import Origins, ShownValue, figures_behind, identified_by, inputs_of

register = template.Library()


@register.filter
def because(defects: Iterable[str], bike: Bike) -> list[str]:
    """Return why a step mends a defect: the notes of ticks that a search for a cause made."""
    return reasons_of(bike, defects or ())


@register.simple_tag(takes_context=True)
def tokens(context: Mapping[str, Any]) -> SafeString:
    """Return what every form that is posted carries: that it comes from here, and a one-time token."""
    return format_html(
        '<input type="hidden" name="csrfmiddlewaretoken" value="{}"><input type="hidden" name="once" value="{}">',
        context["csrf_token"],
        new_token(),
    )


@register.inclusion_tag("common/_tour.html", takes_context=True)
def first_tour(context: Mapping[str, Any]) -> dict[str, Any]:
    """The strip of the first tour: offered on the Yard, then at each of its stops."""
    request = context.get("request")
    if request is None or not request.user.is_authenticated or not request.user.tour:
        return {}
    at = stop_of(request.user)
    match = request.resolver_match
    here = (match.view_name, match.kwargs.get("page", "")) if match else ("", "")
    if here != ((at[1].page, at[1].of) if at else ("bikes:yard", "")):
        return {}
    number = at[0] if at else 0
    following = STOPS[number] if number < len(STOPS) else None
    return {
        "csrf_token": context["csrf_token"],
        "offered": at is None,
        "number": number,
        "of": len(STOPS),
        "stop": at[1] if at else None,
        "next": number + OFFERED + 1 if following else None,
        "next_title": following.title if following else "",
    }


@register.simple_tag
def drawer_of(page: BikePage, slot: str) -> str:
    """Return the address of a slot's candidates in the shown plan."""
    return page.drawer_of(slot)


@register.inclusion_tag("common/_where_panel.html")
def where_from(finding: Finding, build: Build, origins: Origins) -> dict[str, Any]:
    """The panel behind a finding: what it read, what it computed, its rule and its source."""
    return {
        "rule": RULES[finding.rule],
        "finding": finding,
        "inputs": inputs_of(finding, build, origins),
        "figures": figures_behind(finding),
    }


@register.inclusion_tag("common/_mating.html", takes_context=True)
def mating(
    context: Mapping[str, Any], findings: Iterable[Finding], build: Build, origins: Origins
) -> dict[str, Any]:
    """The parts of a joint with the numbers by which they mate, each part a column of its own."""
    by_slot: dict[str, dict[str, ShownValue]] = {}
    for finding in findings:
        for value in inputs_of(finding, build, origins):
            by_slot.setdefault(value.slot, {})[value.attr] = value
    filled = build.filled()
    parts = [
        {"title": SLOTS[slot].title, "name": filled[slot].name, "values": list(values.values())}
        for slot, values in by_slot.items()
    ]
    return {"parts": parts, "request": context["request"]}


@register.inclusion_tag("common/_measure_form.html", takes_context=True)
def measure_form(context: Mapping[str, Any], slot: str, attr: str | None) -> dict[str, Any]:
    """A form for one reading of one part, or for whether one is fitted (attr None); it comes back to its page."""
    shared = {name: context[name] for name in ("request", "csrf_token", "page")} | {
        "slot": slot,
        "attr": attr,
    }
    if attr is None:
        return shared
    declared = describe(slot, attr)
    where = "Bike and rider" if slot == "bike" else SLOTS[slot].title
    field = field_of(declared, name="value", ident=f"m-{slot}-{attr}-{new_token()[:8]}")
    titled = evolve(field, title=f"{where}: {field.title.lower()}")
    return {**shared, "field": titled, "sort": identified_by(slot, attr)}
