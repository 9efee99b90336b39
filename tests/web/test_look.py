"""The colours of both schemes: text at 4.5 to 1 on what it stands on, marks at 3 to 1, by WCAG's formula."""

from __future__ import annotations

import re
from pathlib import Path

import unkett.web.site

LOOK = Path(unkett.web.site.__file__).parent / "static" / "site" / "look.css"
TEXT = ("ink", "quiet", "work", "moss", "ochre", "brick", "slate")
GROUNDS = ("paper", "sheet", "field")
PAIRS = [
    ("ink", "tabs"), ("work", "tabs"), ("ink", "alarm"), ("ink", "work-soft"), ("work", "work-soft"),
    ("on-mark", "brick"), ("on-mark", "ochre"), ("on-mark", "work"), ("bar-quiet", "bar"), ("shift-text", "sheet"),
    ("ink", "fill-light"), ("ink", "fill-good-soft"), ("ink", "fill-bad-soft"),
]  # fmt: skip


def schemes() -> dict[str, dict[str, str]]:
    """Return the colours by name of the light scheme, and of the dark one over it."""
    text = LOOK.read_text(encoding="utf-8")
    roots = [
        dict(re.findall(r"--([\w-]+):\s*(#[0-9a-f]{3,6})\b", root))
        for root in re.findall(r":root \{(.*?)\n\s*\}", text, re.S)
    ]
    light, dark = roots
    return {"light": light, "dark": light | dark}


def luminance(colour: str) -> float:
    digits = colour[1:] if len(colour) == 7 else "".join(digit * 2 for digit in colour[1:])
    parts = [int(digits[at : at + 2], 16) / 255 for at in (0, 2, 4)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


def test_black_on_white_is_21_to_1() -> None:
    assert round(contrast("#000", "#ffffff"), 2) == 21


def test_text_is_read_in_both_schemes() -> None:
    pairs = [(text, ground) for text in TEXT for ground in GROUNDS] + PAIRS
    weak = {
        (scheme, text, ground): round(found, 2)
        for scheme, colours in schemes().items()
        for text, ground in pairs
        if (found := contrast(colours[text], colours[ground])) < 4.5
    }
    assert weak == {}


def test_white_is_read_on_the_bar_and_its_buttons() -> None:
    for scheme, colours in schemes().items():
        for ground in ("bar", "bar-hover"):
            assert contrast("#fff", colours[ground]) >= 4.5, (scheme, ground)


def test_the_dark_scheme_names_only_colours_that_the_light_one_has() -> None:
    text = LOOK.read_text(encoding="utf-8")
    light, dark = (
        set(re.findall(r"--([\w-]+):", root)) for root in re.findall(r":root \{(.*?)\n\s*\}", text, re.S)
    )
    assert dark < light
