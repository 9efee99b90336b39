"""The chain picture: the way round both wheels to scale, and the window of lengths under it."""

from __future__ import annotations

from unkett.core.bike.figures import ChainFigures
from unkett.core.calc.gears import pitch_radius
from unkett.core.scene import Box, Circle, Path, Scene, Segment, Shape, Text, belt_path

WIDTH = 1240.0
SCALE = 1.15  # picture units per millimetre
MIDDLE = 150.0
LINE_Y = 372.0
EDGE = 70.0


def _belt(figures: ChainFigures) -> list[Shape]:
    """Ring at the right, sprocket at the left, big/big in full and small/small dashed, in millimetres × SCALE."""
    span = figures.chainstay_mm * SCALE
    left = ((WIDTH - span) / 2 - 20, MIDDLE)
    right = (left[0] + span, MIDDLE)
    shapes: list[Shape] = []
    pairs = (
        ("small", figures.small_ring, figures.small_sprocket),
        ("big", figures.ring, figures.sprocket),
    )
    for role, ring, sprocket in pairs:
        ring_radius, sprocket_radius = pitch_radius(ring) * SCALE, pitch_radius(sprocket) * SCALE
        shapes.append(Circle(centre=right, radius=ring_radius, role=f"wheel-{role}", title=f"ring {ring}"))
        shapes.append(
            Circle(centre=left, radius=sprocket_radius, role=f"wheel-{role}", title=f"sprocket {sprocket}")
        )
        outline = belt_path(left=left, left_radius=sprocket_radius, right=right, right_radius=ring_radius)
        shapes.append(Path(points=outline, role=f"belt-{role}", closed=True))
    for centre in (left, right):
        shapes.append(Circle(centre=centre, radius=4, role="axle"))
    ring_edge, cog_edge = pitch_radius(figures.ring) * SCALE, pitch_radius(figures.sprocket) * SCALE
    low = MIDDLE + max(ring_edge, cog_edge) + 26
    shapes += [
        Segment(start=(left[0], low), end=(right[0], low), role="dimension"),
        Segment(start=(left[0], low - 6), end=(left[0], low + 6), role="dimension"),
        Segment(start=(right[0], low - 6), end=(right[0], low + 6), role="dimension"),
        Text(
            at=((left[0] + right[0]) / 2, low - 7), text=f"chainstay {figures.chainstay_mm:g} mm", role="note"
        ),
        Text(
            at=(right[0] + ring_edge + 14, MIDDLE + 5),
            text=f"{figures.ring} teeth",
            role="note",
            anchor="start",
        ),
        Text(
            at=(left[0] - cog_edge - 14, MIDDLE + 5),
            text=f"{figures.sprocket} teeth",
            role="note",
            anchor="end",
        ),
    ]
    return shapes


def _range(figures: ChainFigures, was_links: int | None) -> range:
    """Even numbers that the line shows: the window, the chains and two pairs of room at each end."""
    window = figures.window
    if window is None:
        raise ValueError("no window to draw")
    seen = [window.min_links, window.simple_formula_links]
    seen += [links for links in (window.max_links, figures.links, was_links) if links is not None]
    low = min(seen) - 4
    high = max(seen) + 4
    step = 2 if high - low <= 48 else 4
    return range(low - low % 2, high + 2, step)


def chain_scene(figures: ChainFigures, was: ChainFigures | None = None) -> Scene:
    """Return the window with its lower and upper end, the chain that hangs there and the old formula as a check."""
    window = figures.window
    if window is None:
        raise ValueError("no window to draw")
    was_links = was.links if was is not None and was.links != figures.links else None
    numbers = _range(figures, was_links)
    per_link = (WIDTH - 2 * EDGE) / (numbers[-1] - numbers[0])

    def x(links: float) -> float:
        return EDGE + (links - numbers[0]) * per_link

    low, high = window.min_links, window.max_links
    shapes = _belt(figures)
    end = x(high) if high is not None else WIDTH - EDGE + 20
    if not window.window_empty:
        role = "window" if high is not None else "window-open"
        title = f"{low} to {high} links" if high is not None else f"{low} links and up, no upper end known"
        shapes.append(
            Box(corner=(x(low), LINE_Y - 13), width=max(end - x(low), 6), height=26, role=role, title=title)
        )
    shapes.append(Segment(start=(EDGE - 20, LINE_Y), end=(WIDTH - EDGE + 20, LINE_Y), role="line"))
    for links in numbers:
        shapes.append(Segment(start=(x(links), LINE_Y - 5), end=(x(links), LINE_Y + 5), role="tick"))
        shapes.append(Text(at=(x(links), LINE_Y + 26), text=str(links), role="mark"))
    shapes.append(Text(at=(x(low), LINE_Y - 40), text="lower end", role="end"))
    shapes.append(Text(at=(x(low), LINE_Y - 22), text=str(low), role="end-number"))
    if high is not None and high > low:
        shapes.append(Text(at=(x(high), LINE_Y - 40), text="upper end", role="end"))
        shapes.append(Text(at=(x(high), LINE_Y - 22), text=str(high), role="end-number"))
    shapes += _marker(x(window.simple_formula_links), "simple formula", "check", 1)
    if was_links is not None:
        shapes += _marker(x(was_links), f"stands now {was_links}", "was", 0)
    if figures.links is not None:
        role = "has" if low <= figures.links else "has-short"
        shapes += _marker(x(figures.links), f"this chain {figures.links}", role, 0)
    says = f"Window {low} to {high if high is not None else 'unknown'} links; {figures.cut}"
    return Scene(width=WIDTH, height=LINE_Y + 84, title="Chain length", says=says, shapes=tuple(shapes))


def _marker(x: float, text: str, role: str, level: int) -> list[Shape]:
    """Return a pointer under the line with its words."""
    top = LINE_Y + 32
    foot = top + 20 + 18 * level
    return [
        Path(points=((x, top), (x - 6, top + 11), (x + 6, top + 11)), role=f"pointer-{role}", closed=True),
        Text(at=(x, foot + 6), text=text, role=f"pointer-text-{role}"),
    ]
