"""The joints of a bike: the places where parts mate, and the page of the work that shows each. Declared here only."""

from __future__ import annotations

from attrs import frozen


@frozen(kw_only=True)
class Joint:
    """One place where parts mate; `page` and `sheet` name the work that shows it in section."""

    name: str
    title: str
    page: str
    sheet: str = ""


_ONE = (
    ("shifting", "Shifting at the rear", "gears", ""),
    ("cassette", "Sprockets on the hub", "gears", ""),
    ("chain", "Chain", "chain", "bracket"),
    ("rings", "Rings", "bracket", "bracket"),
    ("bracket", "Bracket and crank", "bracket", "section"),
    ("captain_bracket", "Captain's bracket and crank", "bracket", ""),
    ("motor", "Motor", "bracket", ""),
    ("frame", "Frame", "steering", ""),
    ("headset", "Headset", "steering", ""),
    ("fork", "Fork in the frame", "steering", ""),
    ("steerer", "Steerer and stem", "steering", "steering"),
    ("bar", "Bar and what sits on it", "steering", ""),
    ("post", "Post in the seat tube", "steering", "seat"),
    ("saddle", "Saddle on the post", "steering", ""),
    ("shock", "Rear shock", "steering", ""),
    ("shift_lines", "Gear and dropper lines", "lines", ""),
)
_WHEEL = (
    ("tyre", "tyre in rim and frame", "wheels", "wheel"),
    ("spokes", "spokes", "wheels", "spokes"),
    ("axle", "axle in the dropouts", "wheels", ""),
    ("brake", "brake", "brakes", "brake"),
    ("lever", "brake lever and line", "brakes", "lever"),
    ("line", "brake line's way", "lines", ""),
)


def _declared() -> dict[str, Joint]:
    joints = [Joint(name=name, title=title, page=page, sheet=sheet) for name, title, page, sheet in _ONE]
    joints += [
        Joint(
            name=f"{end}_{name}",
            title=f"{end.capitalize()} {title}",
            page=page,
            sheet=f"{end}_{sheet}" if sheet else "",
        )
        for end in ("front", "rear")
        for name, title, page, sheet in _WHEEL
    ]
    return {joint.name: joint for joint in joints}


JOINTS: dict[str, Joint] = _declared()
