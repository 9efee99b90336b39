"""Scenes to SVG. Shapes get a class from their role; colours and type live in the style sheet."""

from __future__ import annotations

import re
from pathlib import Path as FilePath

from attrs import evolve
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from unkett.core.drawing.scene import Box, Circle, Line, Mark, Path, Scene, Shape, Text

STATIC = FilePath(__file__).parent / "static" / "site"


def _n(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def _title(text: str) -> SafeString:
    return format_html("<title>{}</title>", text) if text else SafeString("")


def _shape(shape: Shape, link: str = "") -> SafeString:
    role = f"d-{shape.role}"
    if isinstance(shape, Line):
        (x1, y1), (x2, y2) = shape.start, shape.end
        return format_html(
            '<line class="{}" x1="{}" y1="{}" x2="{}" y2="{}"/>', role, _n(x1), _n(y1), _n(x2), _n(y2)
        )
    if isinstance(shape, Circle):
        cx, cy = shape.centre
        args = (role, _n(cx), _n(cy), _n(shape.radius), _title(shape.title))
        return format_html('<circle class="{}" cx="{}" cy="{}" r="{}">{}</circle>', *args)
    if isinstance(shape, Box):
        x, y = shape.corner
        args = (role, _n(x), _n(y), _n(shape.width), _n(shape.height), _title(shape.title))
        return format_html('<rect class="{}" x="{}" y="{}" width="{}" height="{}">{}</rect>', *args)
    if isinstance(shape, Path):
        points = " ".join(f"{_n(x)},{_n(y)}" for x, y in shape.points)
        tag = "polygon" if shape.closed else "polyline"
        return format_html('<{} class="{}" points="{}"/>', SafeString(tag), role, points)
    if isinstance(shape, Mark):
        return _mark(shape, link)
    if isinstance(shape, Text):
        x, y = shape.at
        args = (role, _n(x), _n(y), shape.anchor, shape.text)
        return format_html('<text class="{}" x="{}" y="{}" text-anchor="{}">{}</text>', *args)
    raise TypeError(shape)


def _mark(mark: Mark, link: str) -> SafeString:
    """A verdict's shape on the drawing; with a link it opens its joint, and takes focus and the arrow keys."""
    x, y = mark.at
    drawn = format_html(
        '<circle class="d-reach" r="{}"/><circle class="d-hit" r="{}"/><use href="#v-{}" x="{}" y="{}" width="{}" height="{}"/>',
        *(
            _n(mark.reach),
            _n(mark.radius),
            mark.verdict,
            *(_n(-mark.radius),) * 2,
            *(_n(2 * mark.radius),) * 2,
        ),
    )
    count = (
        format_html(
            '<text class="d-count" x="{}" y="{}">{}</text>',
            _n(mark.radius + 2),
            _n(5 - mark.radius),
            mark.count,
        )
        if mark.count > 1
        else SafeString("")
    )
    place = format_html("translate({} {})", _n(x), _n(y))
    if not link:
        return format_html('<g class="d-{}" transform="{}">{}{}</g>', mark.role, place, drawn, count)
    url = f"{link}{'&' if '?' in link else '?'}joint={mark.name}"
    return format_html(
        '<a class="joint-mark d-{}{}" transform="{}" href="{}" hx-get="{}" hx-target="#joint" data-joint="{}" aria-label="{}"{}>{}{}{}</a>',
        *(mark.role, " chosen" if mark.chosen else "", place, url, url, mark.name, mark.title),
        SafeString(' aria-current="true"') if mark.chosen else "",
        *(_title(mark.title), drawn, count),
    )


def render_svg(scene: Scene, ident: str, link: str = "") -> SafeString:
    """A scene as inline SVG with a title and a description for those who do not see it; marks open `link`."""
    return format_html(
        '<svg class="drawing" viewBox="0 0 {} {}" role="{}" aria-labelledby="{}-title" aria-describedby="{}-says">'
        '<title id="{}-title">{}</title><desc id="{}-says">{}</desc>{}</svg>',
        _n(scene.width),
        _n(scene.height),
        "group" if link else "img",
        *(ident, ident, ident, scene.title, ident, scene.says),
        format_html_join("", "{}", ((_shape(shape, link),) for shape in scene.shapes)),
    )


def _colours() -> str:
    """The drawing's style sheet with its colours written out, for a picture that leaves the application."""
    look = (STATIC / "look.css").read_text(encoding="utf-8")
    rules = (STATIC / "drawing.css").read_text(encoding="utf-8")
    for name, value in re.findall(r"(--[\w-]+):\s*([^;]+);", look):
        rules = rules.replace(f"var({name})", value)
    return rules


def standalone_svg(scene: Scene) -> str:
    """A scene as an SVG file of its own, in millimetre-true proportion, with its colours."""
    drawn = tuple(shape for shape in scene.shapes if not isinstance(shape, Mark))
    inline = str(render_svg(evolve(scene, shapes=drawn), "drawing"))
    opened = inline.replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    return opened.replace("<title ", f"<style>{_colours()}</style><title ", 1)
