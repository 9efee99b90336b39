"""Draws `docs/architecture.svg` from the import graph: every room on its floor, an arrow for who imports whom.

`./unkett manage shell -c "from tests.architecture import write; write()"` draws it again; a test holds it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from pathlib import Path

import grimp

PICTURE = Path(__file__).parents[1] / "docs" / "architecture.svg"
WIDTH, FLOOR, BOX, TALL, MARGIN = 1180, 64, 118, 26, 16


def room_of(module: str) -> str:
    """The room that a module lies in: what is under `core` and `web`, else the package."""
    words = module.split(".")
    return (
        ".".join(words[1:3])
        if len(words) > 2 and words[1] in ("core", "web")
        else words[min(1, len(words) - 1)]
    )


def arrows() -> dict[str, set[str]]:
    """By room, the rooms it imports."""
    graph = grimp.build_graph("unkett", include_external_packages=False, exclude_type_checking_imports=True)
    found: dict[str, set[str]] = defaultdict(set)
    for module in graph.modules:
        room = room_of(module)
        if room not in ("unkett", "core", "web"):
            found[room] |= {room_of(other) for other in graph.find_modules_directly_imported_by(module)} - {
                room
            }
    return {room: {other for other in others if other in found} for room, others in sorted(found.items())}


def floors(imports: Mapping[str, set[str]]) -> dict[str, int]:
    """How high each room stands: above everything it imports. Rooms of one circle stand on one floor."""
    height = dict.fromkeys(imports, 0)
    for _ in imports:  # as many rounds as the longest way can have steps
        for room, others in imports.items():
            below = [height[other] + 1 for other in others if room not in imports[other]]
            height[room] = max([height[room], *below])
    return height


def needed(imports: Mapping[str, set[str]]) -> dict[str, set[str]]:
    """The arrows to draw: one that follows from others says nothing more."""
    reach: dict[str, set[str]] = {}
    for room in sorted(imports, key=floors(imports).__getitem__):
        reach[room] = {far for other in imports[room] for far in (other, *reach.get(other, ()))}
    return {
        room: {other for other in others if not any(other in reach[one] for one in others - {other})}
        for room, others in imports.items()
    }


def drawn() -> str:
    """The picture as SVG."""
    imports = arrows()
    height = floors(imports)
    rows: dict[int, list[str]] = defaultdict(list)
    for room in sorted(imports):
        rows[height[room]].append(room)
    top = max(rows)
    at: dict[str, tuple[float, float]] = {}
    for floor, rooms in rows.items():
        step = (WIDTH - 2 * MARGIN) / len(rooms)
        for n, room in enumerate(rooms):
            at[room] = (round(MARGIN + step * (n + 0.5), 1), MARGIN + (top - floor) * FLOOR + TALL / 2)
    tall = MARGIN * 2 + top * FLOOR + TALL
    shapes = [
        f'<line x1="{at[room][0]}" y1="{at[room][1]}" x2="{at[other][0]}" y2="{at[other][1]}"/>'
        for room, others in needed(imports).items()
        for other in sorted(others)
    ]
    for room, (x, y) in sorted(at.items()):
        sort = room.partition(".")[0]
        shapes.append(
            f'<g class="{sort}"><rect x="{x - BOX / 2:g}" y="{y - TALL / 2:g}" width="{BOX}" height="{TALL}"/>'
            f'<text x="{x}" y="{y + 4:g}">{room}</text></g>'
        )
    style = (
        "line{stroke:#9a9184;stroke-width:1}rect{fill:#f7f3ea;stroke:#2b2a27}.core rect{fill:#e3ece9}"
        ".web rect{fill:#efe6d2}text{font:11px sans-serif;text-anchor:middle;fill:#2b2a27}"
    )
    count = sum(map(len, imports.values()))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {tall:g}" role="img">'
        f"<title>{len(imports)} rooms, {count} arrows; each room imports only what lies below it; "
        "arrows that follow from others are left out</title>"
        f"<style>{style}</style>\n" + "\n".join(shapes) + "\n</svg>\n"
    )


def write() -> None:
    """Draw the picture again."""
    PICTURE.write_text(drawn())
