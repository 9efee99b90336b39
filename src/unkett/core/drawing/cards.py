"""Measuring cards: the part in the hand, where the caliper's jaws go, and in what order.

Shapes only, not to scale: the figures are what the measuring finds out.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from unkett.core.identify import Subject
from unkett.core.scene import Box, Circle, Path, Point, Scene, Segment, Shape, Text

WIDTH, HEIGHT = 400.0, 236.0
LEFT = (112.0, 104.0)  # middle of the end view
BODY = (262.0, 104.0)  # middle of the side view

Where = tuple[Point, Point]
Drawn = tuple[list[Shape], dict[str, Where]]


def _number(at: Point, n: int, title: str) -> list[Shape]:
    return [
        Circle(centre=at, radius=10, role="jaw-count", title=f"{n} {title.lower()}"),
        Text(at=(at[0], at[1] + 4.5), text=str(n), role="jaw-text"),
    ]


def _jaw(n: int, where: Where, title: str) -> list[Shape]:
    """Two jaws with a line between them, numbered in the order of measuring; a point is counted, not spanned."""
    (x1, y1), (x2, y2) = where
    if where[0] == where[1]:
        return _number(where[0], n, title)
    length = math.dist(*where)
    along = ((x2 - x1) / length, (y2 - y1) / length)
    across = (-along[1] * 9, along[0] * 9)
    shapes: list[Shape] = [Segment(start=where[0], end=where[1], role="jaw-line")]
    for (x, y), way in ((where[0], -1), (where[1], 1)):
        back = (x + way * along[0] * 7, y + way * along[1] * 7)
        wedge = (
            (x, y),
            (back[0] + across[0], back[1] + across[1]),
            (back[0] - across[0], back[1] - across[1]),
        )
        shapes.append(Path(points=wedge, role="jaw", closed=True))
    return [*shapes, *_number(((x1 + x2) / 2, (y1 + y2) / 2), n, title)]


def _ring(centre: Point, outer: float, inner: float) -> list[Shape]:
    return [
        Circle(centre=centre, radius=outer, role="part"),
        Circle(centre=centre, radius=inner, role="hole"),
    ]


def _block(centre: Point, wide: float, high: float, role: str = "part") -> Box:
    return Box(corner=(centre[0] - wide / 2, centre[1] - high / 2), width=wide, height=high, role=role)


def _level(centre: Point, wide: float, at: float) -> Where:
    return ((centre[0] - wide / 2, at), (centre[0] + wide / 2, at))


def _upright(x: float, middle: float, high: float) -> Where:
    return ((x, middle - high / 2), (x, middle + high / 2))


def _teeth(centre: Point, radius: float, count: int, deep: float, role: str = "part") -> Path:
    """Return a toothed outline: splines or sprocket."""
    points = []
    for n in range(count * 4):
        reach = radius if n % 4 < 2 else radius - deep
        angle = 2 * math.pi * n / (count * 4)
        points.append((centre[0] + reach * math.cos(angle), centre[1] + reach * math.sin(angle)))
    return Path(points=tuple(points), role=role, closed=True)


def _thread(centre: Point, wide: float, high: float) -> list[Shape]:
    pieces = int(wide / 9)
    x = centre[0] - wide / 2
    return [
        _block(centre, wide, high),
        *(
            Segment(
                start=(x + 9 * n + 2, centre[1] - high / 2),
                end=(x + 9 * n + 7, centre[1] + high / 2),
                role="tick",
            )
            for n in range(pieces)
        ),
    ]


def _bore(side: float) -> Callable[[], Drawn]:
    def draw() -> Drawn:
        shapes = [*_ring(LEFT, 62, 48), _block(BODY, side, 124)]
        return shapes, {"bore_mm": _level(LEFT, 96, LEFT[1]), "width_mm": _level(BODY, side, BODY[1] + 78)}

    return draw


def _tube(radius: float) -> Callable[[], Drawn]:
    def draw() -> Drawn:
        shapes = [*_ring(LEFT, radius, radius - 9), _block(BODY, 170, 2 * radius)]
        return shapes, {"diameter_mm": _upright(BODY[0] - 20, BODY[1], 2 * radius)}

    return draw


def _spindle() -> Drawn:
    shapes: list[Shape] = [
        _teeth((74.0, LEFT[1]), 46, 8, 9),
        _block(BODY, 150, 72),
        _block((BODY[0] - 88, BODY[1]), 26, 52, "part-other"),
    ]
    return shapes, {
        "diameter_mm": _upright(BODY[0] + 10, BODY[1], 72),
        "splines": ((74.0, LEFT[1] - 64), (74.0, LEFT[1] - 64)),
        "flat_mm": _upright(BODY[0] - 88, BODY[1], 52),
    }


def _steerer() -> Drawn:
    shapes: list[Shape] = [
        _block((200, 96), 250, 56),
        _block((336, 96), 28, 78, "part-other"),
        _block((362, 96), 24, 128),
    ]
    return shapes, {"steerer_mm": _upright(110, 96, 56), "race_mm": _upright(336, 96, 78)}


def _axle() -> Drawn:
    shapes: list[Shape] = [
        _block((200, 100), 210, 26, "part-other"),
        _block((200, 100), 150, 60),
        _block((120, 100), 12, 90, "part-other"),
        _block((280, 100), 12, 90, "part-other"),
    ]
    return shapes, {"dia_mm": _upright(318, 100, 26), "spacing_mm": _level((200, 100), 172, 168)}


def _freehub() -> Drawn:
    shapes: list[Shape] = [
        _teeth(LEFT, 56, 9, 8),
        Circle(centre=LEFT, radius=20, role="hole"),
        _block(BODY, 96, 112),
        _block((BODY[0] - 62, BODY[1]), 28, 140, "part-other"),
        *(
            Segment(start=(BODY[0] - 48, BODY[1] + off), end=(BODY[0] + 48, BODY[1] + off), role="tick")
            for off in (-40, -20, 0, 20, 40)
        ),
    ]
    return shapes, {
        "splines": ((LEFT[0], LEFT[1] - 74), (LEFT[0], LEFT[1] - 74)),
        "length_mm": _level(BODY, 96, BODY[1] + 82),
        "diameter_mm": _upright(BODY[0] + 74, BODY[1], 112),
    }


def _freewheel_thread() -> Drawn:
    centre = (170.0, 100.0)
    return _thread(centre, 108, 110), {
        "diameter_mm": _upright(centre[0] + 84, centre[1], 110),
        "pitch_mm": ((centre[0] - 45, centre[1] + 74), (centre[0] + 45, centre[1] + 74)),
    }


def _bolt_circle() -> Drawn:
    centre, reach = (150.0, 112.0), 74.0
    bolts = [
        (centre[0] + reach * math.sin(math.pi / 2 * n), centre[1] - reach * math.cos(math.pi / 2 * n))
        for n in range(4)
    ]
    shapes: list[Shape] = [
        Circle(centre=centre, radius=reach, role="grid-circle"),
        *(Path(points=(centre, bolt), role="arm") for bolt in bolts),
        *(Circle(centre=bolt, radius=9, role="hole") for bolt in bolts),
    ]
    return shapes, {
        "bcd_mm": (bolts[3], bolts[1]),
        "neighbour_mm": (bolts[0], bolts[1]),
        "bolts": ((300.0, 40.0), (300.0, 40.0)),
    }


def _rim() -> Drawn:
    centre = (140.0, 112.0)
    shapes: list[Shape] = [
        Circle(centre=centre, radius=94, role="part"),
        Circle(centre=centre, radius=86, role="hole"),
        Circle(centre=centre, radius=76, role="hole"),
        Path(points=((300, 60), (300, 100), (330, 120), (360, 100), (360, 60)), role="rim"),
        Segment(start=(290, 82), end=(370, 82), role="cut-mark"),
        Text(at=(330, 146), text="bead sits here", role="note"),
    ]
    return shapes, {"bsd_mm": _level(centre, 172, centre[1])}


def _mount() -> Drawn:
    holes = ((120.0, 96.0), (270.0, 96.0))
    shapes: list[Shape] = [
        _block((195, 96), 220, 44),
        *(Circle(centre=hole, radius=10, role="hole") for hole in holes),
    ]
    return shapes, {"spacing_mm": holes}


def _chain() -> Drawn:
    shapes: list[Shape] = [
        _block((200, 60), 190, 12),
        _block((200, 136), 190, 12),
        *(_block((x, 98), 24, 100, "part-other") for x in (150, 250)),
    ]
    return shapes, {"outer_width_mm": _upright(316, 98, 100), "inner_width_mm": _upright(200, 98, 64)}


def _stack() -> Drawn:
    shapes: list[Shape] = [_block((120 + 28 * n, 100), 7, 70 + 15 * n) for n in range(6)]
    return shapes, {"pitch_mm": ((120.0, 186.0), (260.0, 186.0)), "speeds": ((322.0, 60.0), (322.0, 60.0))}


def _pull() -> Drawn:
    shapes: list[Shape] = [
        Circle(centre=(84, 104), radius=46, role="part"),
        Segment(start=(84, 58), end=(360, 58), role="cable"),
        Box(corner=(180, 70), width=170, height=22, role="part-other"),
        *(Segment(start=(190 + 15 * n, 70), end=(190 + 15 * n, 80), role="tick") for n in range(11)),
    ]
    return shapes, {"pull_mm": ((200.0, 110.0), (290.0, 110.0)), "speeds": ((84.0, 104.0), (84.0, 104.0))}


def _travel() -> Drawn:
    shapes: list[Shape] = [
        _teeth((120, 96), 40, 11, 8),
        _teeth((236, 96), 40, 11, 8, "part assumed"),
        Segment(start=(30, 180), end=(80, 180), role="cable"),
    ]
    return shapes, {"ratio": ((120.0, 152.0), (236.0, 152.0)), "speeds": ((322.0, 60.0), (322.0, 60.0))}


def _rotor() -> Drawn:
    centre = (180.0, 106.0)
    return [*_ring(centre, 92, 72), *_ring(centre, 34, 22)], {"diameter_mm": _level(centre, 184, centre[1])}


def _thru_axle() -> Drawn:
    """Return the thread of an axle: over it, and along it."""
    shapes, places = _freewheel_thread()
    return shapes, {"dia_mm": places["diameter_mm"], "pitch_mm": places["pitch_mm"]}


def _bearing() -> Drawn:
    """Return a bearing from the front, and from the side with its width."""
    centre = (130.0, 106.0)
    places = {
        "inner_mm": _level(centre, 72, centre[1]),
        "outer_mm": _upright(centre[0], centre[1], 156),
        "width_mm": _level((320, 106), 44, 106),
    }
    side = Path(points=((298, 28), (342, 28), (342, 184), (298, 184), (298, 28)), role="part")
    return [*_ring(centre, 78, 36), side], places


def _remover() -> Drawn:
    """Return a splined bore from the front, and a notched rim beside it."""
    shapes: list[Shape] = [
        Circle(centre=LEFT, radius=72, role="part"),
        _teeth(LEFT, 50, 12, 7, "hole"),
        _teeth((300.0, LEFT[1]), 66, 16, 8),
        Circle(centre=(300.0, LEFT[1]), radius=40, role="hole"),
    ]
    return shapes, {
        "splines": _at(LEFT[0], LEFT[1] - 60),
        "across_mm": _level(LEFT, 100, LEFT[1]),
        "outside": _at(300, LEFT[1] + 80),
    }


def _at(x: float, y: float) -> Where:
    """Return where something is looked at or counted, not spanned."""
    return ((x, y), (x, y))


def _with(draw: Callable[[], Drawn], **places: Where) -> Callable[[], Drawn]:
    """Return a card with more places to measure on it."""

    def drawn() -> Drawn:
        shapes, jaws = draw()
        return shapes, {**jaws, **places}

    return drawn


def _spoke() -> Drawn:
    shapes: list[Shape] = [
        _block((220, 110), 250, 14),
        _block((88, 96), 14, 42),
        _block((340, 110), 30, 20, "part-other"),
    ]
    return shapes, {"diameter_mm": _upright(160, 110, 14)}


def _line() -> Drawn:
    shapes: list[Shape] = [_block((210, 104), 250, 44), *_ring((62, 104), 22, 8)]
    return shapes, {"diameter_mm": _upright(210, 104, 44)}


def _lever_print() -> Drawn:
    shapes: list[Shape] = [
        _block((150, 90), 160, 60),
        _block((270, 80), 90, 16, "part-other"),
        _block((150, 48), 70, 14, "part-other"),
    ]
    return shapes, {}


CARDS: dict[str, Callable[[], Drawn]] = {
    "bb_shell": _with(_bore(120), pitch_mm=_level((262, 104), 60, 40), left_hand=_at(30, 186)),
    "spindle": _with(_spindle, other_end_mm=_upright(322, 104, 72)),
    "axle_thread": _freewheel_thread,
    "thru_axle": _thru_axle,
    "bearing": _bearing,
    "remover": _remover,
    "spoke": _with(_spoke, bent=_at(88, 56)),
    "hose": _with(_line, coiled=_at(62, 150)),
    "fluid": _with(_lever_print, says_mineral=_at(120, 90), says_glycol=_at(180, 90)),
    "headset_bore": _bore(150),
    "steerer": _steerer,
    "axle": _axle,
    "freehub": _with(
        _freehub, notch_turns=_at(*LEFT), stepped=_at(200, 178), sprockets=_at(372, 40), loose=_at(372, 186)
    ),
    "freewheel_thread": _with(_freewheel_thread, notch_turns=_at(330, 60), lockring_step=_at(330, 140)),
    "ring_bolt_circle": _bolt_circle,
    "seatpost": _tube(38),
    "bar_clamp": _tube(32),
    "rim_size": _rim,
    "brake_mount": _mount,
    "chain": _chain,
    "sprocket_pitch": _stack,
    "pull_per_click": _pull,
    "shift_ratio": _travel,
    "rotor": _rotor,
}


def card_scene(sort: Subject) -> Scene:
    """Return the measuring card of a kind: its measures numbered in the order they are taken."""
    shapes, places = CARDS[sort.name]()
    marks = [
        shape
        for n, measure in enumerate(sort.measures, start=1)
        for shape in _jaw(n, places[measure.name], measure.title)
    ]
    says = "; ".join(f"{n} {item.title.lower()}: {item.how}" for n, item in enumerate(sort.measures, start=1))
    return Scene(
        width=WIDTH, height=HEIGHT, title=f"How to measure: {sort.title}", says=says, shapes=(*shapes, *marks)
    )
