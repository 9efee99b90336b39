"""Scenes to SVG. Shapes get a class from their role; colours and type live in the style sheet."""

from __future__ import annotations

import re
from pathlib import Path as FilePath

from attrs import evolve
from django.utils.html import escape
from django.utils.safestring import SafeString

from unkett.core.scene import Box, Circle, Mark, Path, Scene, Segment, Shape, Text
from unkett.web import site
from unkett.web.show.spreadsheets import UNSEEN

STATIC = FilePath(site.__file__).parent / "static" / "site"


def _n(value: float) -> str:
    text = f"{value:.2f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _title(text: str) -> str:
    return f"<title>{escape(text)}</title>" if text else ""


def _shape(shape: Shape, link: str = "") -> str:
    """Return a shape as markup. Roles, codes and numbers come from the core; only words are escaped."""
    role = f"d-{shape.role}"
    if isinstance(shape, Segment):
        (x1, y1), (x2, y2) = shape.start, shape.end
        return f'<line class="{role}" x1="{_n(x1)}" y1="{_n(y1)}" x2="{_n(x2)}" y2="{_n(y2)}"/>'
    if isinstance(shape, Circle):
        cx, cy = shape.centre
        place = f'cx="{_n(cx)}" cy="{_n(cy)}" r="{_n(shape.radius)}"'
        handle = f' data-handle="{escape(shape.handle)}"' if shape.handle else ""
        return f'<circle class="{role}" {place}{handle}>{_title(shape.title)}</circle>'
    if isinstance(shape, Box):
        x, y = shape.corner
        size = f'width="{_n(shape.width)}" height="{_n(shape.height)}"'
        return f'<rect class="{role}" x="{_n(x)}" y="{_n(y)}" {size}>{_title(shape.title)}</rect>'
    if isinstance(shape, Path):
        points = " ".join(f"{_n(x)},{_n(y)}" for x, y in shape.points)
        return f'<{"polygon" if shape.closed else "polyline"} class="{role}" points="{points}"/>'
    if isinstance(shape, Mark):
        return _mark(shape, link)
    if isinstance(shape, Text):
        x, y = shape.at
        return f'<text class="{role}" x="{_n(x)}" y="{_n(y)}" text-anchor="{shape.anchor}">{escape(shape.text)}</text>'
    raise TypeError(shape)


def _mark(mark: Mark, link: str) -> str:
    """Return a verdict's shape on the drawing; with a link it opens its joint, and takes focus and the arrow keys."""
    radius, size = _n(-mark.radius), _n(2 * mark.radius)
    drawn = (
        f'<circle class="d-reach" r="{_n(mark.reach)}"/><circle class="d-hit" r="{_n(mark.radius)}"/>'
        f'<use href="#v-{mark.verdict}" x="{radius}" y="{radius}" width="{size}" height="{size}"/>'
    )
    if mark.count > 1:
        drawn += (
            f'<text class="d-count" x="{_n(mark.radius + 2)}" y="{_n(5 - mark.radius)}">{mark.count}</text>'
        )
    place = f'transform="translate({_n(mark.at[0])} {_n(mark.at[1])})"'
    if not link:
        return f'<g class="d-{mark.role}" {place}>{drawn}</g>'
    url = escape(f"{link}{'&' if '?' in link else '?'}joint={mark.name}")
    state = ' aria-current="true"' if mark.chosen else ""
    return (
        f'<a class="joint-mark d-{mark.role}{" chosen" if mark.chosen else ""}" {place} href="{url}" hx-get="{url}" '
        f'hx-target="#joint" data-joint="{mark.name}" aria-label="{escape(mark.title)}"{state}>'
        f"{_title(mark.title)}{drawn}</a>"
    )


def render_svg(scene: Scene, ident: str, link: str = "") -> SafeString:
    """Return a scene as inline SVG with a title and a description for those who do not see it; marks open `link`."""
    drawn = "".join([_shape(shape, link) for shape in scene.shapes])
    box = " ".join(_n(side) for side in scene.box)
    return SafeString(
        f'<svg class="drawing" viewBox="{box}" role="{"group" if link else "img"}" '
        f'aria-labelledby="{ident}-title" aria-describedby="{ident}-says">'
        f'<title id="{ident}-title">{escape(scene.title)}</title>'
        f'<desc id="{ident}-says">{escape(scene.says)}</desc>{drawn}</svg>'
    )


def _colours() -> str:
    """Return the drawing's style sheet with its colours written out, for a picture that leaves the application."""
    look = (STATIC / "look.css").read_text(encoding="utf-8")
    rules = (STATIC / "drawing.css").read_text(encoding="utf-8")
    for name, value in re.findall(r"(--[\w-]+):\s*([^;]+);", look):
        rules = rules.replace(f"var({name})", value)
    return rules


def standalone_svg(scene: Scene) -> str:
    """Return a scene as an SVG file of its own, in millimetre-true proportion, with its colours."""
    drawn = tuple(shape for shape in scene.shapes if not isinstance(shape, Mark))
    inline = str(render_svg(evolve(scene, shapes=drawn), "drawing"))
    opened = inline.replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    return UNSEEN.sub("", opened.replace("<title ", f"<style>{_colours()}</style><title ", 1))
