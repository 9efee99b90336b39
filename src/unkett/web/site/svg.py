"""Scenes to SVG. Shapes get a class from their role; colours and type live in the style sheet."""

from __future__ import annotations

import re
from pathlib import Path as FilePath

from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from unkett.core.drawing.scene import Box, Circle, Line, Path, Scene, Shape, Text

STATIC = FilePath(__file__).parent / "static" / "site"


def _n(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def _title(text: str) -> SafeString:
    return format_html("<title>{}</title>", text) if text else SafeString("")


def _shape(shape: Shape) -> SafeString:
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
    if isinstance(shape, Text):
        x, y = shape.at
        args = (role, _n(x), _n(y), shape.anchor, shape.text)
        return format_html('<text class="{}" x="{}" y="{}" text-anchor="{}">{}</text>', *args)
    raise TypeError(shape)


def render_svg(scene: Scene, ident: str) -> SafeString:
    """A scene as inline SVG with a title and a description for those who do not see it."""
    return format_html(
        '<svg class="drawing" viewBox="0 0 {} {}" role="img" aria-labelledby="{}-title" aria-describedby="{}-says">'
        '<title id="{}-title">{}</title><desc id="{}-says">{}</desc>{}</svg>',
        _n(scene.width),
        _n(scene.height),
        *(ident, ident, ident, scene.title, ident, scene.says),
        format_html_join("", "{}", ((_shape(shape),) for shape in scene.shapes)),
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
    inline = str(render_svg(scene, "drawing"))
    opened = inline.replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    return opened.replace("<title ", f"<style>{_colours()}</style><title ", 1)
