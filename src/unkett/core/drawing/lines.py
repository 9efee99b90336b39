"""The lines on the side view, each in its own stroke with its lengths, and the cockpit from above."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from unkett.core.bike.routes import Line, Piece
from unkett.core.drawing.side import Bones, View, drawn, view_of
from unkett.core.scene import Circle, Path, Point, Scene, Shape, Text
from unkett.core.scene import Segment as Stroke

TOP_WIDTH, TOP_HEIGHT = 560.0, 300.0
LABEL_FROM_MM = 90.0  # a shorter piece carries no figure on the picture
HIDDEN_IN_TOP_MM = 260.0  # behind the bar, what still belongs to the cockpit


def lines_scene(bones: Bones, now: Sequence[Line], then: Sequence[Line] = ()) -> Scene:
    """Return the bike with its lines: as planned bold over as they run, guides that can be put elsewhere as rings."""
    base = drawn(bones)
    view = view_of(bones.old, bones.new)
    shown = then or now
    shapes: list[Shape] = list(base.shapes)
    if then:
        for line in now:
            shapes += [_path(piece, view, f"line-{line.slot} was") for piece in line.pieces]
    for line in shown:
        shapes += _line(line, view)
    says = "; ".join(f"{line.title}: {line.need_mm:.0f} mm" for line in shown)
    return evolve(base, title="Lines", says=says or "No line has a route yet.", shapes=tuple(shapes))


def _path(piece: Piece, view: View, role: str) -> Path:
    bare = " bare" if piece.type == "bare" else ""
    return Path(points=tuple(view.at((x, y)) for x, y, _ in piece.curve.drawn), role=role + bare)


def _line(line: Line, view: View) -> list[Shape]:
    guess = " guess" if line.guessed else ""
    shapes: list[Shape] = [_path(piece, view, f"line-{line.slot}{guess}") for piece in line.pieces]
    for piece in line.pieces:
        if piece.need_mm >= LABEL_FROM_MM:
            curve = piece.curve.drawn
            x, y = _middle([(x, y) for x, y, _ in curve])
            at = view.at((x, y))
            shapes.append(Text(at=(at[0], at[1] - 7), text=f"{piece.need_mm:.0f}", role=f"text-{line.slot}"))
        for (x, y, _), radius in piece.tight:
            title = f"a bend of {radius:.0f} mm radius: too tight"
            shapes.append(Circle(centre=view.at((x, y)), radius=14, role="tight", title=title))
    for spot in line.spots[1:-1]:
        title = spot.name.replace("_", " ")
        handle = f"{line.slot}:{spot.name}"
        at = view.at((spot.at[0], spot.at[1]))
        shapes.append(Circle(centre=at, radius=7, role="spot", title=title, handle=handle))
    return shapes


def _middle(points: Sequence[Point]) -> Point:
    return points[len(points) // 2]


def cockpit_scene(lines: Sequence[Line]) -> Scene:
    """Return the cockpit from above, forward up: bar, head tube and the lines in front of it."""
    runs = [(line, piece, piece.curve.drawn) for line in lines for piece in line.pieces]
    reach = [point for _, _, points in runs for point in points]
    levers = [line.spots[0].at for line in lines]
    ahead = max(point[0] for point in reach) if reach else 0.0
    back = ahead - HIDDEN_IN_TOP_MM
    half = max([abs(at[2]) for at in levers], default=200.0) + 40
    scale = min((TOP_WIDTH - 40) / (2 * half), (TOP_HEIGHT - 40) / HIDDEN_IN_TOP_MM)

    def put(x: float, z: float) -> Point:
        return (TOP_WIDTH / 2 + z * scale, 20 + (ahead - x) * scale)

    shapes: list[Shape] = []
    if lines:
        bar = [line.spots[1].at for line in lines if len(line.spots) > 1]
        middle = sum(at[0] for at in bar) / len(bar)
        shapes.append(Stroke(start=put(middle, -half + 40), end=put(middle, half - 40), role="top-bar"))
    for line, piece, points in runs:
        seen = tuple(put(x, z) for x, _, z in points if x >= back)
        if len(seen) > 1:
            bare = " bare" if piece.type == "bare" else ""
            shapes.append(Path(points=seen, role=f"line-{line.slot}{bare}"))
    shapes.append(Text(at=(16, TOP_HEIGHT - 10), text="left", role="axis", anchor="start"))
    shapes.append(Text(at=(TOP_WIDTH - 16, TOP_HEIGHT - 10), text="drive side", role="axis", anchor="end"))
    says = "Bar and lines from above, forward up."
    return Scene(
        width=TOP_WIDTH, height=TOP_HEIGHT, title="Cockpit from above", says=says, shapes=tuple(shapes)
    )
